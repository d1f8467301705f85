import { exactLevel, levelCount, levelForScale, ownLevel, type Recipe, type Size, type View } from "@yelm/core";
import type { Placement } from "./placement.ts";
import type { PictureMode } from "../workers/questions.ts";
import type { Picture, RenderPool } from "../workers/render-pool.ts";

/** After this pause the picture is computed again from twice the pixels, which comes nearest the export. */
const SETTLE_MS = 140;
/** When the picture would take longer than this, a coarser one comes first. */
const PATIENCE_MS = 80;
/** A coarser one is to take no longer than this. */
const FRAME_MS = 33;
/** Coarser by at most two halvings, a sixteenth of the pixels. */
const COARSEST = 2;
/** Pixels around the view whose tiles are fetched ahead. */
const AHEAD_PX = 512;
/** Share of the newest measurement in the running estimate. */
const NEWEST = 0.4;
const HOPE = 0.85;

/** What is to be seen. */
export interface Wanted {
  readonly negative: Size;
  readonly recipe: Recipe;
  readonly mode: PictureMode;
  readonly placement: Placement;
}

/**
 * Keeps a canvas showing a print: coarse at once when the sharp picture takes longer than a frame, then sharp, then exact
 * when the hand rests. The first one may be kept from before: then that is seen until the exact one is computed. Until there is a new
 * picture the last one is moved and stretched to where it belongs. The canvas
 * says how far it is in `data-density`: 0 old, 0.5 coarse, 1 sharp, 2 exact, "kept"; and of the picture that it shows how long it took and
 * when it was asked for.
 */
export class Painter {
  readonly #canvas: HTMLCanvasElement;
  readonly #pool: RenderPool;
  readonly #kept: (wanted: Wanted) => CanvasImageSource | null;
  readonly #spare = document.createElement("canvas");
  #wanted: Wanted | null = null;
  #stop: (() => void) | null = null;
  /** The number of the picture on the canvas; null for a coarse one, on which nothing can build. */
  #seen: number | null = null;
  #shown: { readonly scale: number; readonly x: number; readonly y: number } | null = null;
  /** Share of the last sharp picture that had to be rendered: a hand that paints goes on painting. */
  #share = 1;
  #msPerPixel = 3e-5;
  #overheadMs = 8;
  /** Whether a picture was computed yet. */
  #isWarm = false;

  /** @param kept - the exact picture of what is wanted, where it is at hand. */
  constructor(canvas: HTMLCanvasElement, pool: RenderPool, kept: (wanted: Wanted) => CanvasImageSource | null) {
    this.#canvas = canvas;
    this.#pool = pool;
    this.#kept = kept;
  }

  /** Of what the canvas shows the exact picture, computed now; null while it does not. */
  get exact(): Wanted | null {
    return this.#canvas.dataset.density === "2" ? this.#wanted : null;
  }

  /** Shows something new in place of what was wanted before; the same thing is not begun again. */
  show(wanted: Wanted, onPicture: () => void, onError: (error: Error) => void): void {
    if (this.#wanted && isSame(this.#wanted, wanted)) return;
    this.stop();
    this.#wanted = wanted;
    this.#stop = this.#begin(wanted, onPicture, onError);
  }

  stop(): void {
    this.#stop?.();
    this.#stop = null;
    this.#wanted = null;
  }

  #begin(wanted: Wanted, onPicture: () => void, onError: (error: Error) => void): () => void {
    const { placement, recipe, negative } = wanted;
    const { scale } = placement;
    const levels = levelCount(negative);
    const own = ownLevel(scale, levels);
    // What is kept of a whole level serves the next scale, too, while the hand is zooming.
    const isZooming = this.#shown !== null && this.#shown.scale !== scale;
    const sharp = isZooming ? levelForScale(scale, levels, 1) : own;
    const exact = exactLevel(placement.visible, scale, levels);
    let live = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let kept = false;
    const draw = async (halvings: number, level: number, density: string) => {
      if (!live) return false;
      const isSeen = !kept || level === exact;
      const drawn = await this.#draw(wanted, halvings, level, isSeen, () => live);
      if (drawn && isSeen) {
        this.#canvas.dataset.density = density;
        onPicture();
      }
      return drawn;
    };
    const run = async () => {
      const halvings = this.#coarseness(placement, sharp);
      if (halvings > 0 && !(await draw(halvings, Math.min(levels - 1, sharp + halvings), "0.5"))) return;
      if (!(await draw(0, sharp, exact === sharp ? "2" : "1"))) return;
      timer = setTimeout(() => void settle().catch(fail), SETTLE_MS);
    };
    const settle = async () => {
      if (exact !== sharp) {
        // The next drag is on the view's own pixels.
        if (sharp !== own && !(await draw(0, own, "1"))) return;
        if (!(await draw(0, exact, "2"))) return;
      }
      if (live) this.#pool.prefetch(recipe, around(placement, exact));
    };
    const fail = (error: unknown) => {
      if (live) onError(error instanceof Error ? error : new Error(String(error)));
    };
    this.#move(placement);
    this.#canvas.dataset.density = "0";
    kept = this.#restore(wanted);
    if (kept) onPicture();
    run().catch(fail);
    return () => {
      live = false;
      clearTimeout(timer);
    };
  }

  /** Shows the first picture as it was kept. */
  #restore(wanted: Wanted): boolean {
    const picture = this.#shown ? null : this.#kept(wanted);
    if (!picture) return false;
    const { scale, visible } = wanted.placement;
    this.#canvas.width = visible.width;
    this.#canvas.height = visible.height;
    this.#canvas.getContext("2d", { alpha: false })!.drawImage(picture, 0, 0);
    this.#canvas.dataset.density = "kept";
    this.#shown = { scale, x: visible.x, y: visible.y };
    this.#move(wanted.placement);
    return true;
  }

  /** How many times the picture is halved so that it is there within a frame. */
  #coarseness({ visible, scale }: Placement, level: number): number {
    const pixels = (visible.width * visible.height) / (scale * 2 ** level) ** 2;
    const share = this.#seen === null ? 1 : this.#share;
    if (share * pixels * this.#msPerPixel + this.#overheadMs <= PATIENCE_MS) return 0;
    const left = Math.max(FRAME_MS - this.#overheadMs, FRAME_MS / 3);
    let halvings = 0;
    while (halvings < COARSEST && (pixels * this.#msPerPixel) / 4 ** halvings > left) halvings++;
    return halvings;
  }

  async #draw(wanted: Wanted, halvings: number, level: number, isSeen: boolean, isLive: () => boolean) {
    const { placement, recipe, mode } = wanted;
    const { visible, scale } = placement;
    const view = { ...halved(visible, halvings), scale: scale / 2 ** halvings, level };
    const started = performance.now();
    const picture = await this.#pool.render(recipe, view, mode, () => (halvings === 0 ? this.#seen : null));
    // One that is overtaken is still newer than what is seen, if it belongs at the same place.
    if (!picture || !(isLive() || (this.#wanted && isPlacedAlike(this.#wanted, wanted)))) return false;
    this.#learn(wanted, view, halvings, performance.now() - started, picture);
    this.#isWarm = true;
    if (!isSeen) return isLive();
    const { width, height } = visible;
    const { part, pixels } = picture;
    this.#seen = halvings === 0 ? picture.number : null;
    if (halvings === 0) this.#share = (part.width * part.height) / (view.width * view.height);
    // Setting the size clears the canvas and takes new memory, so only when it differs.
    if (this.#canvas.width !== width) this.#canvas.width = width;
    if (this.#canvas.height !== height) this.#canvas.height = height;
    const context = this.#canvas.getContext("2d", { alpha: false })!;
    if (halvings === 0) {
      if (pixels) context.putImageData(pixels, part.x - view.x, part.y - view.y);
    } else if (pixels) {
      if (this.#spare.width !== view.width) this.#spare.width = view.width;
      if (this.#spare.height !== view.height) this.#spare.height = view.height;
      this.#spare.getContext("2d")!.putImageData(pixels, 0, 0);
      const step = 2 ** halvings;
      context.drawImage(
        this.#spare,
        view.x * step - visible.x,
        view.y * step - visible.y,
        view.width * step,
        view.height * step,
      );
    }
    this.#shown = { scale, x: visible.x, y: visible.y };
    this.#move(placement);
    this.#canvas.dataset.scale = String(scale);
    this.#canvas.dataset.drawMs = (performance.now() - started).toFixed(1);
    this.#canvas.dataset.computeMs = picture.computeMs.toFixed(1);
    this.#canvas.dataset.askedMs = started.toFixed(1);
    return isLive();
  }

  /** What a sharp picture takes is known only from sharp ones; each coarse one lets a little more be hoped for. */
  #learn(wanted: Wanted, view: View, halvings: number, elapsedMs: number, { computeMs, part }: Picture): void {
    const { negative, placement } = wanted;
    // The first one has ground work to do and tiles to fetch, and the exact one finds less at hand than a drag does.
    const isExact = view.level < ownLevel(placement.scale, levelCount(negative));
    if (!this.#isWarm || isExact) return;
    this.#overheadMs += NEWEST * (Math.max(0, elapsedMs - computeMs) - this.#overheadMs);
    // What a few pixels take says little of many.
    if (2 * part.width * part.height < view.width * view.height) return;
    const pixels = (view.width * view.height) / (view.scale * 2 ** view.level) ** 2;
    if (halvings > 0) this.#msPerPixel *= HOPE;
    else this.#msPerPixel += NEWEST * (computeMs / pixels - this.#msPerPixel);
  }

  #move({ scale, left, top, dpr }: Placement): void {
    if (!this.#shown) return;
    const { style, width, height } = this.#canvas;
    const stretch = scale / this.#shown.scale;
    const x = (left + this.#shown.x * stretch) / dpr;
    const y = (top + this.#shown.y * stretch) / dpr;
    style.transform = `translate(${x}px, ${y}px)`;
    // Where a pixel of the picture is one of the screen there is nothing to smooth, and what smooths without a graphics card takes half a frame.
    style.imageRendering = stretch === 1 ? "pixelated" : "auto";
    style.width = `${(width * stretch) / dpr}px`;
    style.height = `${(height * stretch) / dpr}px`;
  }
}

/** Whether both are the same picture at the same place. */
function isSame(one: Wanted, other: Wanted): boolean {
  return one.recipe === other.recipe && isPlacedAlike(one, other);
}

function isPlacedAlike(one: Wanted, other: Wanted): boolean {
  if (one.negative !== other.negative || one.mode !== other.mode) return false;
  const numbers = ({ placement: { visible, scale, left, top, dpr } }: Wanted) => [
    ...[scale, left, top, dpr],
    ...[visible.x, visible.y, visible.width, visible.height],
  ];
  const others = numbers(other);
  return numbers(one).every((value, i) => value === others[i]);
}

/** The pixels of a picture `halvings` times as small that cover a part of it. */
function halved({ x, y, width, height }: Placement["visible"], halvings: number): Placement["visible"] {
  const step = 2 ** halvings;
  const left = Math.floor(x / step);
  const top = Math.floor(y / step);
  return {
    x: left,
    y: top,
    width: Math.ceil((x + width) / step) - left,
    height: Math.ceil((y + height) / step) - top,
  };
}

/** The view with what lies next to it. */
function around({ visible, scale, width, height }: Placement, level: number): View {
  const x = Math.max(0, visible.x - AHEAD_PX);
  const y = Math.max(0, visible.y - AHEAD_PX);
  return {
    x,
    y,
    width: Math.min(width, visible.x + visible.width + AHEAD_PX) - x,
    height: Math.min(height, visible.y + visible.height + AHEAD_PX) - y,
    scale,
    level,
  };
}
