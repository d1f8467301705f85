import { GROUND_ACTS } from "./acts.ts";
import {
  asShotWhite,
  balancedLight,
  formatSigned,
  LIGHTS,
  whiteToTemperatureTint,
  type Negative,
  type ZoneShift,
} from "@yelm/core";
import { Pipette } from "lucide-react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { ZoneTrace } from "./zone-trace.tsx";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { asPercent, asPlain } from "../../controls/formats.ts";
import { WHITE_BALANCE } from "../../controls/lenses.ts";

const AS_SHOT = "as shot";
const asKelvin = (kelvin: number) => String(Math.round(kelvin));

/** White balance: as shot, a light, or a neutral picked from the picture, followed as far as it looks right. */
export function WhiteBalanceGroup({ negative, trace }: { negative: Negative; trace: readonly ZoneShift[] }) {
  const { value: balance, amount, change } = useLens(WHITE_BALANCE);
  const { tool } = useStore(benchView);
  const picking = tool === "pick";
  const pick = () => benchView.setState({ tool: picking ? "look" : "pick" });
  useAct({ ...GROUND_ACTS["pick"], run: pick });
  const asShot = asShotWhite(negative.capture);
  const shot = whiteToTemperatureTint(asShot);
  const set = balance.mode === "set";
  const light = LIGHTS.find(([, { kelvin, tint }]) => kelvin === balance.kelvin && tint === balance.tint);
  const choose = (name: string) => {
    const found = LIGHTS.find(([known]) => known === name);
    if (found) change(`White: ${name}`, { mode: "set", ...found[1], follow: 1 });
    else change("White as shot", { mode: AS_SHOT });
  };
  const here = balancedLight(balance, asShot);
  return (
    <Group
      title="White"
      aside={
        <button className="act" aria-pressed={picking} onClick={pick} title="Click something that should be neutral">
          <Pipette size={14} /> Pick <kbd>V</kbd>
        </button>
      }
    >
      <Choice
        label="Light"
        options={[[AS_SHOT, AS_SHOT], ...LIGHTS.map(([name]) => [name, name] as const)]}
        value={set ? (light?.[0] ?? null) : AS_SHOT}
        onChoose={choose}
      />
      {set ? (
        <div className="pt-2">
          <Amount {...amount("kelvin", "Temperature")} step={100} format={asKelvin} />
          <Amount {...amount("tint", "Tint")} step={1} format={asPlain(0)} />
          <Amount {...amount("follow", "Follow")} step={0.05} format={asPercent} typedScale={100} />
          <p className="text-quiet pt-1">
            {Math.round(shot.kelvin)} K as shot, {Math.round(here.kelvin)} K in use. Something white in open shade often
            wants its tint and only part of its temperature: ease it with Follow.
          </p>
        </div>
      ) : (
        <p className="text-quiet pt-2">
          {Math.round(shot.kelvin)} K, tint {formatSigned(Math.round(shot.tint), 0)}, by the camera.
        </p>
      )}
      {set && <ZoneTrace trace={trace} />}
    </Group>
  );
}
