import { DIAMETER_SPREAD, type Emulsion } from "./emulsion.ts";

/**
 * The reference that the fast grain is measured against: a piece of film on which grains are thrown one by one (Newson, Delon
 * and Galerne 2017), far too slow for pictures.
 * @param x - −ln of the light that passes in the mean.
 * @param side - cells along an edge of the piece, which closes on itself.
 * @param cellUm - side of a cell; small beside the grains.
 * @param random - uniform in [0, 1).
 * @returns light that passes each cell's centre, 0–1, row by row.
 */
export function thrownGrains(
  { diameterUm, opacity }: Emulsion,
  x: number,
  side: number,
  cellUm: number,
  random: () => number,
): Float32Array {
  const spread = DIAMETER_SPREAD;
  // Mean area of log-normal diameters whose own mean is `diameterUm`.
  const meanArea = (Math.PI / 4) * diameterUm ** 2 * Math.exp(spread ** 2);
  const expected = (x / (opacity * meanArea)) * (side * cellUm) ** 2;
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const grains = Math.max(0, Math.round(expected + Math.sqrt(expected) * normal()));
  const over = new Uint16Array(side * side);
  for (let i = 0; i < grains; i++) {
    const radius = ((diameterUm / 2) * Math.exp(spread * normal() - spread ** 2 / 2)) / cellUm;
    const [cx, cy] = [random() * side, random() * side];
    for (let y = Math.ceil(cy - radius); y <= cy + radius; y++) {
      const half = Math.sqrt(Math.max(0, radius ** 2 - (y - cy) ** 2));
      const row = ((y + side) % side) * side;
      for (let at = Math.ceil(cx - half); at <= cx + half; at++) over[row + ((at + side) % side)]++;
    }
  }
  return Float32Array.from(over, (count) => (1 - opacity) ** count);
}
