import { Amount } from "../../controls/amount.tsx";
import { asPercent, asPlain, asSignedPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { DETAIL, LOCAL_CONTRAST, SCATTER, SHAPE, SHARPENING } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";
import { useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import { SHAPE_STATION_ACTS } from "./acts.ts";

const PERCENT = { step: 0.05, format: asSignedPercent, typedScale: 100 } as const;
const SHARE = { step: 0.05, format: asPercent, typedScale: 100 } as const;

/** Range brought into reach, texture untouched. */
export function OpenGroup() {
  const { amount } = useLens(SHAPE);
  return (
    <Group title="Open and hold">
      <Amount {...amount("openShadows", "Open shadows")} {...PERCENT} />
      <Amount {...amount("holdHighlights", "Hold highlights")} {...PERCENT} />
    </Group>
  );
}

/** Contrast in space: by tone, by scale; haze; scattered light; the capture's own blur. */
export function SpaceGroups() {
  const local = useLens(LOCAL_CONTRAST);
  const detail = useLens(DETAIL);
  const shape = useLens(SHAPE);
  const scatter = useLens(SCATTER);
  return (
    <>
      <Group title="Local contrast">
        <Amount {...local.amount("low", "Low tones")} {...PERCENT} />
        <Amount {...local.amount("mid", "Mid tones")} {...PERCENT} />
        <Amount {...local.amount("high", "High tones")} {...PERCENT} />
        <div className="pt-2">
          <Amount {...detail.amount("fine", "Fine detail")} {...PERCENT} />
          <Amount {...detail.amount("middle", "Middle detail")} {...PERCENT} />
          <Amount {...detail.amount("broad", "Broad forms")} {...PERCENT} />
        </div>
      </Group>
      <Group title="Haze and glow">
        <Amount {...shape.amount("haze", "Haze")} {...PERCENT} />
        <Amount {...scatter.amount("glow", "Glow")} {...SHARE} />
        {scatter.value.glow > 0 && (
          <Amount
            {...scatter.amount("reach", "Reach")}
            step={0.0025}
            format={(v) => `${(100 * v).toFixed(1)} %`}
            typedScale={100}
          />
        )}
        <Amount {...scatter.amount("softness", "Softness")} {...SHARE} />
      </Group>
      <SharpeningGroup />
    </>
  );
}

function SharpeningGroup() {
  const { value, amount, change } = useLens(SHARPENING);
  const session = useSession();
  const pool = usePool();
  const measure = async () => {
    const blur = await pool.ask("edgeBlur", { recipe: session.store.getState().recipe }).catch((error: Error) => error);
    if (blur instanceof Error) return notify(`The edges could not be measured: ${blur.message}`);
    if (blur === null)
      return notify("This picture has too few clear edges to tell the capture’s blur. Set the radius by eye at 100 %.");
    change(`Capture’s blur measured, ${blur} pixels`, { radius: blur, amount: value.amount || 1 });
  };
  useAct({
    ...SHAPE_STATION_ACTS["show-spared"],
    run: () => benchView.setState({ spared: true }),
    release: () => benchView.setState({ spared: false }),
  });
  return (
    <Group
      title="Capture sharpening"
      aside={
        <button
          className="act"
          title="Takes the radius from the sharpest edges of this picture"
          onClick={() => void measure()}
        >
          Measure blur
        </button>
      }
    >
      <Amount {...amount("amount", "Sharpening")} {...SHARE} />
      {value.amount > 0 && (
        <>
          <Amount {...amount("radius", "Radius")} step={0.05} format={(v) => `${asPlain(2)(v)} px`} />
          <Amount {...amount("sparing", "Sparing")} {...SHARE} />
          <p className="text-quiet pt-1">
            Judge it at 100 %. Show what is spared <Keys of={SHAPE_STATION_ACTS["show-spared"]} hold />
          </p>
        </>
      )}
    </Group>
  );
}
