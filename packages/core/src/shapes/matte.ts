import type { Block, Need, StageContext } from "../graph/stage.ts";
import type { Rect } from "../maths/rect.ts";
import { prepareShape, type FramedPrint, type MatteOrder } from "./prepared.ts";
import { regionsOf, type MaskShape } from "./shapes.ts";
import type { MatteOf } from "./shape.ts";

const ordered = new WeakMap<object, Map<string, FramedPrint>>();

/** What a rectangle reads of the stage "matte": a plane made of a shape and the picture's colours. */
export function matteNeed<P extends FramedPrint>(
  print: P,
  shape: MaskShape,
  of: MatteOrder["of"],
  level: number,
  rect: Rect,
): Need<P> {
  const { key } = prepareShape(shape, false);
  let prints = ordered.get(print);
  if (!prints) ordered.set(print, (prints = new Map<string, FramedPrint>()));
  const name = `${of} ${key}`;
  let own = prints.get(name);
  if (!own) prints.set(name, (own = { ...print, matte: { shape, key, of } }));
  return { stage: "matte", level, rect, print: own as P };
}

/** What has to be read to draw a shape's regions over a rectangle. */
export function regionNeeds<P extends FramedPrint>(print: P, shape: MaskShape, level: number, rect: Rect): Need<P>[] {
  return regionsOf(shape).map((region) => matteNeed(print, region, "edge", level, rect));
}

/** The regions' planes as they were read. */
export function mattesOf<P extends FramedPrint>(
  { print, read }: Pick<StageContext<P>, "print" | "read">,
  level: number,
  rect: Rect,
): MatteOf {
  return (region): Block => read(matteNeed(print, region as MaskShape, "edge", level, rect))[0];
}
