import { MEDIA } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { asPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { OUTPUT } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";

const asCm = (cm: number) => `${cm.toFixed(0)} cm`;

/** Sharpening for where the picture will be seen. */
export function OutputGroup() {
  const output = useLens(OUTPUT);
  const { amount, medium } = output.value;
  return (
    <Group title="Output sharpening" folded={amount === 0 ? "none" : `${medium} ${asPercent(amount)}`}>
      <Choice
        label="Medium"
        options={MEDIA.map((name) => [name, name] as const)}
        value={medium}
        onChoose={(next) => output.change("Output medium", { medium: next })}
      />
      <Amount {...output.amount("amount", "Output strength")} step={0.05} format={asPercent} typedScale={100} />
      {medium === "paper" && (
        <>
          <Amount {...output.amount("paperCm", "Long edge on paper")} step={5} format={asCm} />
          <Amount {...output.amount("viewingCm", "Seen from")} step={5} format={asCm} />
        </>
      )}
      <p className="text-quiet leading-snug">Judge it at 100 %: it is laid on the pixels that are shown or written.</p>
    </Group>
  );
}
