import { easeWeights, noisePrice, type Negative, type Recipe } from "@yelm/core";
import { Group } from "../controls/group.tsx";
import { useLens } from "../controls/use-lens.ts";
import { WEIGH } from "./lenses.ts";

/** Noise, times that of plain luminance, from which the price is worth a warning; and what easing brings it down to. */
const DEAR = 1.25;
const FAIR = 1.15;
const MIDDLE_GREY = 0.18;

/** What the weights cost in noise, before it shows. */
export function PriceGroup({ negative, weigh, exposureEv }: PriceProps) {
  const { change } = useLens(WEIGH);
  const { capture } = negative;
  const light = MIDDLE_GREY * 2 ** -exposureEv;
  const price = noisePrice(capture, [weigh.red, weigh.green, weigh.blue], light);
  if (!price) return null;
  const { after } = price;
  const stops = 2 * Math.log2(after);
  const ease = () => {
    const [red, green, blue] = easeWeights(capture, [weigh.red, weigh.green, weigh.blue], FAIR, light);
    const short = (weight: number) => Math.round(1e4 * weight) / 1e4;
    change("Weights eased", { red: short(red), green: short(green), blue: short(blue) });
  };
  return (
    <Group title="Price">
      {after < DEAR ? (
        <p className="text-quiet">
          {after < 1.02
            ? "These weights cost nothing: the noise is that of plain luminance."
            : `The noise is ${after.toFixed(2)} times that of plain luminance: fine.`}
        </p>
      ) : (
        <>
          <p className="text-accent pb-2">
            The noise is {after.toFixed(2)} times that of plain luminance, as if at {stops.toFixed(1)} stops more ISO,
            with colour already smoothed.
          </p>
          <button className="chip" onClick={ease}>
            Ease the weights to {FAIR} times
          </button>
        </>
      )}
    </Group>
  );
}

interface PriceProps {
  readonly negative: Negative;
  readonly weigh: Recipe["weigh"];
  readonly exposureEv: number;
}
