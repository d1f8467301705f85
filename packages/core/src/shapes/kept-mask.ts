import type { StageContext } from "../graph/stage.ts";
import { hashOf } from "../maths/hash-of.ts";
import { SLOT_EDGE, type KernelHeap } from "../kernels/heap.ts";
import type { Rect, Size } from "../maths/rect.ts";
import { levelSize, TILE_SIZE } from "../tiles/tiles.ts";
import { keyWithin, maskGrid, touches, type FramedPrint, type PreparedShape } from "./prepared.ts";
import { halvingsOfFade } from "./shape.ts";
import { mattesOf } from "./matte.ts";
import { drawMask, kindOf, regionsOf } from "./shapes.ts";

/** Coarse pixels that a coarse mask holds beyond the tiles that it serves, on each side. */
const MARGIN = 2;

type MaskContext<P extends FramedPrint> = Pick<
  StageContext<P>,
  "heap" | "print" | "read" | "withKept" | "isKept" | "notes"
>;

/** A plane in kernel memory that lies over a tile, stride SLOT_EDGE. */
export interface KeptPlane {
  /** The value at the first pixel; when it is coarser, at the coarse pixel before the one that holds the first. */
  readonly pointer: number;
  /** How many halvings it is coarser than the pixels asked for. */
  readonly halvings: number;
}

/** How many halvings coarser than a level's pixels a fade may be drawn. */
export function halvingsFor({ negative }: FramedPrint, fade: number, level: number): number {
  return halvingsOfFade((fade * Math.max(negative.width, negative.height)) / 2 ** level);
}

/** Whether a shape may show anywhere in a rectangle of a level, drawn as coarse as it is. */
export function reaches(print: FramedPrint, shape: PreparedShape, level: number, rect: Rect): boolean {
  return touches(print, shape, level, drawnRect(print, shape, level, rect));
}

/** Names what of a shape may show in a rectangle of a level, drawn as coarse as it is. */
export function keyOver(print: FramedPrint, shape: PreparedShape, level: number, rect: Rect): unknown {
  // How coarse it is drawn follows from all of its steps.
  return [halvingsFor(print, shape.fade, level), keyWithin(print, shape, level, drawnRect(print, shape, level, rect))];
}

/** The pixels that a rectangle is stretched from. */
function drawnRect(print: FramedPrint, { fade }: PreparedShape, level: number, rect: Rect): Rect {
  const step = 2 ** halvingsFor(print, fade, level);
  if (step === 1) return rect;
  // Beyond the frame, too: what lies there is stretched into it.
  return { x: rect.x - step, y: rect.y - step, width: rect.width + 2 * step, height: rect.height + 2 * step };
}

/**
 * Gives a shape's mask over one tile of a level, kept apart from what is made of it. Soft shapes are drawn on a coarser grid, one
 * mask serving several tiles. What was built up on a mask that is still kept is laid onto that. A shape with regions reads what
 * `regionNeeds` states.
 */
export function withMask<P extends FramedPrint>(
  context: MaskContext<P>,
  shape: PreparedShape,
  level: number,
  tile: Rect,
  use: (mask: KeptPlane) => void,
): void {
  if (regionsOf(shape.shape).length > 0) {
    // What follows the picture's colours is not kept apart from them.
    const { heap, print } = context;
    const mark = heap.mark();
    const mask = heap.allocate(4 * SLOT_EDGE * tile.height);
    drawMask(heap, shape.shape, maskGrid(print, level, tile), mask, mattesOf(context, level, tile));
    use({ pointer: mask, halvings: 0 });
    heap.release(mark);
    return;
  }
  const halvings = halvingsFor(context.print, shape.fade, level);
  const grid = coarseGrid(context.print, level, tile, halvings);
  withMaskOn(context, shape, grid, (mask) => use({ pointer: mask + grid.first, halvings }));
}

/** Rough cost of drawing a pixel of a shape, ns: of each step, where there are steps. */
const DRAWN_NS = 4;
const costOf = ({ steps }: PreparedShape) => DRAWN_NS * Math.max(1, steps?.length ?? 1);

/** A shape that counts with a gain. */
export interface GainedShape extends PreparedShape {
  readonly gain: number;
}

/**
 * Gives the sum of gain × mask of shapes over one tile, all `halvings` coarser. When some of the shapes have changed since the
 * last sum for this place, only these are taken out and put in: sums are exact in any order, so that nobody can tell.
 */
export function withSum<P extends FramedPrint>(
  context: MaskContext<P>,
  shapes: readonly GainedShape[],
  level: number,
  tile: Rect,
  halvings: number,
  use: (sum: KeptPlane) => void,
): void {
  const { heap, print, withKept, notes } = context;
  const grid = coarseGrid(print, level, tile, halvings);
  const own = shapes.filter((shape) => touches(print, shape, grid.level, grid.rect));
  const place = `sum ${JSON.stringify(print.frame.toFlat)} ${grid.name}`;
  const id = `${place} ${hashOf(JSON.stringify(own.map(({ key, gain }) => [key, gain])))}`;
  const { width, height } = grid.rect;
  const add = (out: number, shape: GainedShape, gain: number) =>
    withMaskOn(context, shape, grid, (mask) =>
      heap.kernels.addScaled(out, SLOT_EDGE, mask, SLOT_EDGE, width, height, gain),
    );
  const last = notes.get(place) as { readonly id: string; readonly shapes: readonly GainedShape[] } | undefined;
  const gone = last ? without(last.shapes, own) : [];
  const come = last ? without(own, last.shapes) : own;
  const isNear = last && last.id !== id && gone.length + come.length <= own.length;
  const costNs = own.reduce((sum, shape) => sum + costOf(shape), 0);
  const make = (out: number, before: number) => {
    if (before === 0) {
      heap.floats(out, SLOT_EDGE * height).fill(0);
      for (const shape of own) add(out, shape, shape.gain);
      return;
    }
    heap.kernels.copyRect(before, SLOT_EDGE, out, SLOT_EDGE, SLOT_EDGE, height);
    for (const shape of gone) add(out, shape, -shape.gain);
    for (const shape of come) add(out, shape, shape.gain);
  };
  withEarlier(context, isNear ? last.id : null, (before) =>
    withKept(
      id,
      (out) => make(out, before),
      (sum) => use({ pointer: sum + grid.first, halvings }),
      { costNs, place },
    ),
  );
  notes.set(place, { id, shapes: own });
}

/**
 * out += what a coarse plane over a tile shows of it; `out` has a stride of SLOT_EDGE.
 * @param finer - `out` is itself so many halvings coarser than the tile, and begins one of its pixels before it.
 */
export function addCoarse(
  heap: KernelHeap,
  out: number,
  tile: Rect,
  { pointer, halvings }: KeptPlane,
  finer = 0,
): void {
  const mark = heap.mark();
  const { width, height } = coarseSize(tile, finer);
  const rows = heap.allocate(8 * (width + 4));
  heap.kernels.addStretched(
    out, SLOT_EDGE, width, height, pointer, SLOT_EDGE, coarseSize(tile, halvings).width, rows,
    2 ** (finer - halvings), finer > 0 ? 1 : 0,
  ); // prettier-ignore
  heap.release(mark);
}

/** Pixels of a plane over a tile: of a coarser one with one more on every side. */
export function coarseSize({ width, height }: Size, halvings: number): Size {
  if (halvings === 0) return { width, height };
  const step = 2 ** halvings;
  return { width: Math.ceil(width / step) + 2, height: Math.ceil(height / step) + 2 };
}

/** Those of a list that are not in another one, each as often as it is missing there. */
function without(shapes: readonly GainedShape[], others: readonly GainedShape[]): GainedShape[] {
  const count = new Map<string, number>();
  const name = ({ key, gain }: GainedShape) => `${key} ${gain}`;
  for (const other of others) count.set(name(other), (count.get(name(other)) ?? 0) + 1);
  return shapes.filter((shape) => {
    const left = count.get(name(shape)) ?? 0;
    count.set(name(shape), left - 1);
    return left <= 0;
  });
}

/** Pixels on which masks of one coarseness are drawn: for a tile itself, or for a block of tiles. */
interface CoarseGrid {
  readonly level: number;
  readonly rect: Rect;
  readonly name: string;
  /** Bytes from the grid's first value to where {@link KeptPlane.pointer} leads for the tile. */
  readonly first: number;
}

function withMaskOn<P extends FramedPrint>(
  context: MaskContext<P>,
  prepared: PreparedShape,
  { level, rect, name }: CoarseGrid,
  use: (mask: number) => void,
): void {
  const { heap, print, withKept } = context;
  const idOf = (key: string) => `mask ${key} ${JSON.stringify(print.frame.toFlat)} ${name}`;
  const { shape, key, keyBefore } = prepared;
  const grid = maskGrid(print, level, rect);
  const draw = (out: number, before: number) => {
    if (before === 0) return drawMask(heap, shape, grid, out);
    heap.kernels.copyRect(before, SLOT_EDGE, out, SLOT_EDGE, SLOT_EDGE, grid.height);
    kindOf(shape).drawLast!(heap, shape, grid, out);
  };
  // A last step that grows takes over from what it was.
  const place = idOf(keyBefore ? `after ${keyBefore}` : key);
  withEarlier(context, keyBefore && idOf(keyBefore), (before) =>
    withKept(idOf(key), (out) => draw(out, before), use, { costNs: costOf(prepared), place }),
  );
}

/** Holds a result that another one can be made from, if it is still kept; 0 when it is not. */
function withEarlier<P extends FramedPrint>(
  { withKept, isKept }: MaskContext<P>,
  id: string | null,
  use: (plane: number) => void,
): void {
  if (id && isKept(id)) withKept(id, () => undefined, use);
  else use(0);
}

/** The tile itself, or the coarse pixels of a block of tiles: as many as fit into a slot with what lies next to them. */
function coarseGrid({ frame }: FramedPrint, level: number, tile: Rect, halvings: number): CoarseGrid {
  const named = (rect: Rect) => `${level + halvings}/${rect.x}/${rect.y}/${rect.width}x${rect.height}`;
  if (halvings === 0) return { level, rect: tile, name: named(tile), first: 0 };
  const step = 2 ** halvings;
  const block = (step - 1) * TILE_SIZE;
  const whole = levelSize(frame, level);
  const x = Math.floor(tile.x / block) * block;
  const y = Math.floor(tile.y / block) * block;
  const rect = {
    x: x / step - MARGIN,
    y: y / step - MARGIN,
    width: Math.ceil(Math.min(block, whole.width - x) / step) + 2 * MARGIN,
    height: Math.ceil(Math.min(block, whole.height - y) / step) + 2 * MARGIN,
  };
  const first = 4 * ((tile.y / step - 1 - rect.y) * SLOT_EDGE + tile.x / step - 1 - rect.x);
  return { level: level + halvings, rect, name: named(rect), first };
}
