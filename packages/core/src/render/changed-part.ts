import { gaussianTaps } from "../maths/gaussian.ts";
import { intersect, type Rect } from "../maths/rect.ts";
import { outputSigma } from "../parts/finish/output-sharpening.ts";
import { isOwnScale, scaledSize, type View } from "../tiles/view.ts";
import type { PreparedPrint } from "./prepare.ts";

/** Whether two prints have one frame and whatever is done to a view after its light. */
export function isFinishedAlike(before: PreparedPrint, after: PreparedPrint): boolean {
  const size = ({ frame }: PreparedPrint) => [frame.width, frame.height];
  const finish = ({ recipe }: PreparedPrint) => {
    const { output, grain, toning, tables, wear } = recipe.finish;
    return [output, grain, toning, tables, wear];
  };
  return (
    before.toneTable === after.toneTable &&
    JSON.stringify([size(before), finish(before)]) === JSON.stringify([size(after), finish(after)])
  );
}

/** The box of a view's pixels that parts of its level may show in, by scaling and by sharpening for the output; may be empty. */
export function viewPart({ frame, recipe }: PreparedPrint, view: View, parts: readonly Rect[]): Rect {
  if (parts.length === 0) return { x: view.x, y: view.y, width: 0, height: 0 };
  const isDirect = isOwnScale(view);
  const ratio = isDirect ? 1 : view.scale * 2 ** view.level;
  const whole = scaledSize(frame, view.scale);
  const sigma = outputSigma(recipe.finish.output, Math.max(whole.width, whole.height));
  const around = (sigma > 0 ? (gaussianTaps(sigma).length - 1) / 2 : 0) + (isDirect ? 0 : 1);
  // As far as the taps of the scaling reach, in pixels of the level.
  const reach = isDirect ? 0 : 2 * Math.max(1, 1 / ratio) + 1;
  const left = Math.min(...parts.map(({ x }) => Math.floor((x - reach) * ratio))) - around;
  const top = Math.min(...parts.map(({ y }) => Math.floor((y - reach) * ratio))) - around;
  const right = Math.max(...parts.map(({ x, width }) => Math.ceil((x + width + reach) * ratio))) + around;
  const bottom = Math.max(...parts.map(({ y, height }) => Math.ceil((y + height + reach) * ratio))) + around;
  return intersect(view, { x: left, y: top, width: right - left, height: bottom - top });
}
