import { luminanceNoise, noisePrice, type Negative, MIDDLE_GREY } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useEdit } from "../../data/use-session.ts";
import { asPercent } from "../../controls/formats.ts";
import { GROUND } from "../../controls/lenses.ts";

/** Noise of middle grey below which nobody sees grain, share of its light. */
const UNSEEN = 0.012;
const STRONG = 0.06;

/** The capture's noise in plain words, what the present weights make of it, and calming it. */
export function NoiseGroup({ negative }: { negative: Negative }) {
  const { value: ground, amount } = useLens(GROUND);
  const { red, green, blue } = useEdit((state) => state.recipe.weigh);
  const { capture } = negative;
  const noise = luminanceNoise(capture);
  if (!noise || !capture.noise)
    return (
      <Group title="Noise" folded="not known">
        <p className="text-quiet">
          {capture.kind === "raw"
            ? "This capture has too little that is flat to measure its noise by, and states none. It is left as it is."
            : "Noise is known of raw captures only. It is left as it is."}
        </p>
      </Group>
    );
  // Where middle grey of the print lies on the sensor.
  const light = MIDDLE_GREY * 2 ** -ground.exposureEv;
  const share = Math.sqrt(noise.slope * light + noise.offset) / light;
  const price = noisePrice(capture, [red, green, blue], light)!;
  const words = share < UNSEEN ? "hardly seen" : share < STRONG ? "fine, as of film" : "strong";
  const raised = 2 * Math.log2(price.after);
  return (
    <Group title="Noise" folded={`${words}, ${(100 * share).toFixed(1)} %`}>
      <p className="text-quiet">
        Middle grey varies by {(100 * share).toFixed(1)} % from pixel to pixel: {words}.{" "}
        {capture.noise.source === "file" ? "By the file's own statement." : "Measured from its flat places."}{" "}
        {price.before > 1.05
          ? `The weights would make it ${price.before.toFixed(1)} times as strong; with colour smoothed by as much as the noise asks for it is ${price.after.toFixed(2)} times${
              raised > 0.15 ? `, as if at ${raised.toFixed(1)} stops more ISO` : ""
            }.`
          : "The weights add nothing to it."}
      </p>
      <Amount {...amount("calm", "Calm it")} step={0.05} format={asPercent} typedScale={100} />
      <p className="text-quiet pt-1">
        {ground.calm === 0
          ? "It is left: an even grain suits a black-and-white picture more often than not."
          : "Textures that stand out of the noise stay; what is as weak as the noise goes with it."}
      </p>
    </Group>
  );
}
