import type { Finding } from "../../judge/finding.ts";
import { mended, toLightness, type LookedPrint } from "./looked-print.ts";
import { pieceNoise } from "../../judge/texture-noise.ts";
import { where } from "../../judge/words.ts";
import { withoutGrain } from "../reader.ts";

/** Pieces of the frame, across and down, in which noise is looked for at full size, and their edge in pixels. */
const PIECES = [6, 5] as const;
const PIECE_PX = 96;
/** Less than this is not told, L*. */
const TOLD = 2.2;

/** Noise at full size, where the print is most even. */
export async function noiseLook(print: LookedPrint): Promise<Finding[]> {
  const { engine, fetch } = print.reader;
  const prepared = engine.prepare(withoutGrain(print.recipe));
  const { width, height } = prepared.frame;
  const [w, h] = [Math.min(PIECE_PX, width), Math.min(PIECE_PX, height)];
  const found: { noise: number; x: number; y: number }[] = [];
  for (let j = 0; j < PIECES[1]; j++)
    for (let i = 0; i < PIECES[0]; i++) {
      const x = Math.round(((width - w) * (i + 0.5)) / PIECES[0]);
      const y = Math.round(((height - h) * (j + 0.5)) / PIECES[1]);
      const view = { x, y, width: w, height: h, scale: 1, level: 0 };
      await fetch(engine.tilesFor(prepared, view));
      const lightness = toLightness(engine.renderReflectance(prepared, view));
      found.push({ noise: pieceNoise(lightness, w, h), x: (x + w / 2) / width, y: (y + h / 2) / height });
    }
  // Texture is in most pieces; the quarter that is most even shows noise alone.
  found.sort((p, q) => p.noise - q.noise);
  const even = found.slice(0, Math.ceil(found.length / 4));
  const worst = even.at(-1)!;
  if (worst.noise < TOLD) return [];
  return [
    {
      id: "noise",
      kind: "noise",
      text: `Even areas are noisy: ${worst.noise.toFixed(1)} L* from pixel to pixel, at ${where(worst)}.`,
      weight: worst.noise / TOLD,
      place: { x: worst.x, y: worst.y },
      mend: mended(print.recipe, "Calm the noise", (old) => ({
        ...old,
        ground: { ...old.ground, calm: Math.min(1, old.ground.calm + 0.35) },
      })),
    },
  ];
}
