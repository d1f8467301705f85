import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { boxMeans } from "../../maths/box-means.ts";
import { familyPlace, placeToFamily } from "../../parts/weigh/family.ts";
import { weighReading } from "../weigh.ts";
import { softened, withoutSpatial } from "./spatial-work.ts";

/** A smaller ratio of fine contrast is not told. */
const TOLD = 1.7;
/** Fine contrast that skin comes with at most, L*. */
const SMOOTH = 2;

/** Skin-like colours whose fine texture was made much harder than it came. */
export async function skinLook(print: LookedPrint): Promise<Finding[]> {
  const { map, recipe } = await weighReading(print.reader, print.recipe);
  const plain = await print.lightnessOf(withoutSpatial(print.recipe));
  const skinLike = recipe.weigh.families.map((_, k) => {
    const { hueDegrees, saturation } = placeToFamily(familyPlace(map.facts[k].working));
    return hueDegrees > 25 && hueDegrees < 75 && saturation > 0.05 && saturation < 0.32;
  });
  const { width, height } = print.view;
  const fine = (values: Float32Array) => {
    const soft = boxMeans(values, width, height, 2);
    return values.map((v, i) => (v - soft[i]) ** 2);
  };
  const [mine, plainly] = [fine(print.lightness), fine(plain)];
  let [a, b, count, sx, sy] = [0, 0, 0, 0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const u = Math.floor(((x + 0.5) / width) * map.width);
      const v = Math.floor(((y + 0.5) / height) * map.height);
      const label = map.labels[v * map.width + u];
      const i = y * width + x;
      if (!skinLike[label] || print.lightness[i] < 30) continue;
      a += mine[i];
      b += plainly[i];
      sx += x;
      sy += y;
      count++;
    }
  if (count < 0.02 * width * height || b === 0) return [];
  const ratio = Math.sqrt(a / b);
  // Light smoothness is seen as harsh only where there is texture to see at all; wood, straw and brick come with more than skin.
  if (ratio < TOLD || Math.sqrt(a / count) < 1.2 || Math.sqrt(b / count) > SMOOTH) return [];
  const place = { x: sx / count / width, y: sy / count / height };
  return [
    {
      id: "harsh skin",
      kind: "harsh skin",
      text: `Skin-like colours have ${ratio.toFixed(1)} times the fine contrast they came with.`,
      weight: ratio / TOLD,
      place,
      mend: mended(print.recipe, "Halve the detail", softened),
    },
  ];
}
