import { luminanceToLightness } from "../../colour/lab.ts";
import { NEUTRAL_LABEL, type FamilyMap } from "./picture-colours.ts";

/** A place, 0–1 of the frame, well inside one group. */
export interface InnerPlace {
  readonly x: number;
  readonly y: number;
  readonly group: number;
}

/** Roughness inside one colour from which it is told, and the most that a proposal may bring, L*. */
export const SEEN_ROUGHNESS = 2.5;
export const MOST_ROUGHNESS = 2;

/** Fields across and down in each of which one place is looked for, and candidates across and down in each. */
const FIELDS = { across: 4, down: 3 } as const;
const CANDIDATES = 6;
/** Share of the surroundings of a place that is of its own group. */
const WITHIN = 0.9;

/**
 * Places that lie well inside one group each, spread over the picture.
 * @param reach - how far around a place the group goes on, pixels of the map.
 */
export function innerPlaces({ labels, width, height, facts }: FamilyMap, reach: number): InnerPlace[] {
  const found: InnerPlace[] = [];
  const size = (2 * reach + 1) ** 2;
  const within = (x: number, y: number) => {
    const own = labels[y * width + x];
    let count = 0;
    for (let dy = -reach; dy <= reach; dy++)
      for (let dx = -reach; dx <= reach; dx++) if (labels[(y + dy) * width + x + dx] === own) count++;
    return count / size;
  };
  const at = (cell: number, i: number, fields: number, length: number) =>
    Math.floor(((cell + (i + 0.5) / CANDIDATES) / fields) * length);
  for (let row = 0; row < FIELDS.down; row++)
    for (let column = 0; column < FIELDS.across; column++) {
      let [best, most] = [-1, WITHIN];
      for (let k = 0; k < CANDIDATES ** 2; k++) {
        const x = at(column, k % CANDIDATES, FIELDS.across, width);
        const y = at(row, Math.floor(k / CANDIDATES), FIELDS.down, height);
        if (x < reach || y < reach || x >= width - reach || y >= height - reach) continue;
        const share = within(x, y);
        if (share > most) [best, most] = [y * width + x, share];
      }
      if (best < 0) continue;
      const label = labels[best];
      const group = label === NEUTRAL_LABEL ? facts.length - 1 : label;
      found.push({ x: ((best % width) + 0.5) / width, y: (Math.floor(best / width) + 0.5) / height, group });
    }
  return found;
}

/**
 * What a conversion shows at a place inside one colour that the other one does not, L* (deviation): noise and blocks of the file's
 * colour, or fine texture of colour alone. Texture of the light itself is in both, stronger or weaker, and does not count; nor does an even slope.
 * @param print - and plain: reflectance 0–1 of the same pixels.
 */
export function roughnessOf(print: Float32Array, plain: Float32Array, width: number): number {
  const [tone, usual] = [print, plain].map((values) =>
    Float64Array.from(values, (v) => luminanceToLightness(Math.min(1, Math.max(0, v)))),
  );
  const n = tone.length;
  const height = n / width;
  const columns = [
    Float64Array.from(tone, () => 1),
    Float64Array.from(tone, (_, i) => (i % width) / width - 0.5),
    Float64Array.from(tone, (_, i) => Math.floor(i / width) / height - 0.5),
    usual,
  ];
  // Each of them, less what those before it explain, is taken out (Gram and Schmidt).
  const rest = Float64Array.from(tone);
  columns.forEach((column, k) => {
    for (const before of columns.slice(0, k)) takeOut(column, before);
    takeOut(rest, column);
  });
  return Math.sqrt(rest.reduce((sum, v) => sum + v * v, 0) / n);
}

/** Takes the part along another one out of a series, in place. */
function takeOut(values: Float64Array, along: Float64Array): void {
  let [product, square] = [0, 1e-9];
  for (let i = 0; i < values.length; i++) {
    product += values[i] * along[i];
    square += along[i] * along[i];
  }
  for (let i = 0; i < values.length; i++) values[i] -= (product / square) * along[i];
}
