import type { Transfer } from "../colour/transfer.ts";
import type { StageGraph } from "../graph/graph.ts";
import type { Block } from "../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../kernels/heap.ts";
import { gaussianTaps } from "../maths/gaussian.ts";
import type { Rect } from "../maths/rect.ts";
import { FORMAT_LONG_EDGE_MM, grainNoise, type GrainFilter } from "../parts/finish/grain.ts";
import { OUTPUT_GAIN, OUTPUT_MOST, outputSigma } from "../parts/finish/output-sharpening.ts";
import { isGrey, WORN_EDGE } from "../parts/finish/print-colour.ts";
import { grainStage } from "../parts/finish/view-stages.ts";
import { scaledSize, type View } from "../tiles/view.ts";
import { codesOf, placeTable16, scaleTone16, wearEdges16, type Table16 } from "./codes16.ts";
import type { Shared } from "./finish-share.ts";
import type { Preparer, PreparedPrint } from "./prepare.ts";

/** Rows and columns of view pixels that are finished at a time, so that what lies between the steps stays near. */
const BAND = 64;
const STRIP = SLOT_EDGE;

/** What is finished; blocks lie in kernel memory above the mark that the caller has set. */
export interface FinishSource {
  /** Print reflectance of a view, before its grain. */
  readonly developed: (print: PreparedPrint, view: View) => Block;
  /** The same as density in octaves, in less time; null where the view is scaled, for what is averaged is reflectance. */
  readonly densities: (print: PreparedPrint, view: View) => Block | null;
  /** How much more or less of the tone or the grain each pixel of a view has; null when it is the same everywhere. */
  readonly share: (print: PreparedPrint, of: Shared, view: View) => Block | null;
}

/** The last steps of a picture, strip by strip: output sharpening, grain, tone, worn edges, codes. Results lie above the caller's mark. */
export class Finisher {
  readonly #heap: KernelHeap;
  readonly #graph: StageGraph<PreparedPrint>;
  readonly #preparer: Preparer;
  readonly #source: FinishSource;

  constructor(heap: KernelHeap, graph: StageGraph<PreparedPrint>, preparer: Preparer, source: FinishSource) {
    this.#heap = heap;
    this.#graph = graph;
    this.#preparer = preparer;
    this.#source = source;
  }

  /** Dithered 8-bit RGBA in an encoding, which is known by its name; `stride` pixels a row. */
  codes8(print: PreparedPrint, view: View, transfer: Transfer, name: string): { pointer: number; stride: number } {
    const { finish } = print.recipe;
    const { kernels } = this.#heap;
    const table = this.#heap.place(this.#preparer.codeTable(finish, transfer, name));
    const edge = finish.wear.edges > 0 && this.#heap.place(this.#preparer.codeTable(finish, transfer, name, true));
    // The encoder writes whole vectors from wherever a strip begins: what it writes beyond a row must not be the next one.
    const width = ((view.width + 3) & ~3) + 4;
    const out = this.#heap.allocate(4 * width * view.height);
    const rows = this.#heap.allocate(12 * (STRIP + 4));
    const isSharp = this.#outputSigma(print, view) > 0;
    for (const part of strips(view)) {
      const mark = this.#heap.mark();
      const densities = isSharp ? null : this.#source.densities(print, { ...view, ...part });
      const { pointer, stride } = densities ?? this.#sharpened(print, view, part);
      const isDensity = densities ? 1 : 0;
      const to = out + 4 * ((part.y - view.y) * width + part.x - view.x);
      const tone = this.#source.share(print, "tone", { ...view, ...part });
      this.#withGrain(print, view, part, (noise, model) => {
        const encode = (codes: number, into: number) =>
            kernels.encodeRgba8(
              pointer, stride, isDensity, noise, SLOT_EDGE, model, into, width, part.width, part.height, part.x, part.y, codes, rows,
            ); // prettier-ignore
        const room = () => this.#heap.allocate(4 * width * (part.height + 1));
        encode(table, to);
        if (tone) {
          const plain = room();
          encode(this.#heap.place(this.#preparer.plainCodeTable(finish, transfer, name)), plain);
          kernels.scaleTone8(to, plain, width, part.width, part.height, tone.pointer, tone.stride);
        }
        if (edge === false) return;
        const worn = room();
        encode(edge, worn);
        const [stepX, stepY] = this.#edgeSteps(print, view);
        kernels.mixEdge8(
            to, worn, width, part.width, part.height, (part.x + 0.5) * stepX - 1, (part.y + 0.5) * stepY - 1, stepX, stepY,
            WORN_EDGE.start, WORN_EDGE.roundness,
          ); // prettier-ignore
      });
      this.#heap.release(mark);
    }
    return { pointer: out, stride: width };
  }

  /**
   * Rounded 16-bit codes, one channel where the print is neutral, else three interleaved.
   * @param into - rows of the whole picture's width, the view's first row at the top.
   */
  codes16(print: PreparedPrint, view: View, transfer: Transfer, name: string, into: Uint16Array): void {
    const { finish } = print.recipe;
    const channels = isGrey(finish) ? 1 : 3;
    const whole = scaledSize(print.frame, view.scale);
    const place = (tables: Float32Array[]) => placeTable16(this.#heap, tables.slice(0, channels));
    const tables = place(this.#preparer.encodeTables(finish, transfer, name));
    const edge = finish.wear.edges > 0 ? place(this.#preparer.encodeTables(finish, transfer, name, true)) : null;
    for (const part of strips(view)) {
      const mark = this.#heap.mark();
      const { pointer, stride } = this.#sharpened(print, view, part);
      this.#withGrain(print, view, part, (noise, model) => {
        if (noise) this.#heap.kernels.addGrain(pointer, stride, noise, SLOT_EDGE, part.width, part.height, model);
      });
      const share = this.#source.share(print, "tone", { ...view, ...part });
      const strip = { ...part, pointer, stride };
      const coded = (by: Table16) => codesOf(this.#heap, strip, by);
      let codes = coded(tables);
      // Views of memory die when it grows.
      if (share || edge) codes = codes.slice();
      if (share) {
        const plain = coded(place(this.#preparer.plainEncodeTables(finish, transfer, name)));
        scaleTone16(this.#heap, codes, plain, share, part);
      }
      if (edge) wearEdges16(codes, coded(edge), part, whole);
      const row = part.width * channels;
      for (let y = 0; y < part.height; y++) {
        const to = ((part.y - view.y + y) * whole.width + part.x) * channels;
        into.set(codes.subarray(y * row, (y + 1) * row), to);
      }
      this.#heap.release(mark);
    }
  }

  /** Print reflectance of a view with its grain, linear. */
  reflectance(print: PreparedPrint, view: View): Block {
    const block = this.#sharpened(print, view, view);
    const filter = this.#grainFilter(print, view);
    if (filter) {
      const { grain } = print.recipe.finish;
      const noise = grainNoise(this.#heap, filter, grain.seed, block.stride, view.height, view.x, view.y);
      const share = this.#source.share(print, "grain", view);
      if (share)
          this.#heap.kernels.scaleNoise(
            noise, block.stride, share.pointer, share.stride, noise, block.stride, view.width, view.height,
          ); // prettier-ignore
      const { pointer, stride } = block;
      const model = this.#heap.place(filter.model);
      this.#heap.kernels.addGrain(pointer, stride, noise, stride, view.width, view.height, model);
    }
    return block;
  }

  /** How far it is from pixel to pixel of a view where the frame goes from −1 to 1. */
  #edgeSteps({ frame }: PreparedPrint, { scale }: View): [number, number] {
    const { width, height } = scaledSize(frame, scale);
    return [2 / width, 2 / height];
  }

  /** Radius of the output sharpening on a view's pixels; 0: none. */
  #outputSigma({ recipe, frame }: PreparedPrint, { scale }: View): number {
    const { width, height } = scaledSize(frame, scale);
    return outputSigma(recipe.finish.output, Math.max(width, height));
  }

  /** Print reflectance of a part of a view, sharpened for the output, before its grain. */
  #sharpened(print: PreparedPrint, view: View, part: Rect): Block {
    const { output } = print.recipe.finish;
    const whole = scaledSize(print.frame, view.scale);
    const sigma = this.#outputSigma(print, view);
    if (sigma === 0) return this.#source.developed(print, { ...view, ...part });
    const { kernels } = this.#heap;
    const taps = gaussianTaps(sigma);
    const margin = (taps.length - 1) / 2;
    const left = Math.max(0, part.x - margin);
    const top = Math.max(0, part.y - margin);
    const right = Math.min(whole.width, part.x + part.width + margin);
    const bottom = Math.min(whole.height, part.y + part.height + margin);
    const width = (part.width + 3) & ~3;
    const stride = width + 4;
    const pointer = this.#heap.allocate(4 * stride * part.height);
    const mark = this.#heap.mark();
    const source = this.#source.developed(print, {
      ...view,
      x: left,
      y: top,
      width: right - left,
      height: bottom - top,
    });
    // The roots with a margin all around; beyond the picture its border goes on.
    const wide = (width + 2 * margin + 7) & ~3;
    const tall = part.height + 2 * margin;
    const roots = this.#heap.allocate(4 * (wide * tall + 4));
    const [dx, dy] = [left - part.x + margin, top - part.y + margin];
    kernels.cubeRoots(source.pointer, source.stride, roots + 4 * (dy * wide + dx), wide, right - left, bottom - top);
    extend(this.#heap.floats(roots, wide * tall), wide, tall, dx, dy, right - left, bottom - top);
    const rows = this.#heap.allocate(4 * width * tall);
    const blurred = this.#heap.allocate(4 * width * part.height);
    const weights = this.#heap.place(taps);
    kernels.convolveRows(roots, wide, rows, width, tall, weights, taps.length);
    kernels.convolveColumns(rows, blurred, width, part.height, weights, taps.length);
    kernels.sharpenRoots(
      roots + 4 * (margin * wide + margin), wide, blurred, width, pointer, stride, width, part.height,
      OUTPUT_GAIN * output.amount, OUTPUT_MOST,
    ); // prettier-ignore
    this.#heap.release(mark);
    return { ...part, pointer, stride };
  }

  /**
   * Grain for a view. It is laid on the scaled picture: it is stated in µm of film, so each pixel size has its own
   * filter, and nothing of it is lost or gained in scaling.
   */
  #grainFilter({ negative, recipe }: PreparedPrint, { scale }: View): GrainFilter | null {
    const { grain } = recipe.finish;
    if (grain.granularity === 0) return null;
    const longEdge = Math.max(negative.width, negative.height);
    const pixelUm = (FORMAT_LONG_EDGE_MM[grain.format] * 1000) / longEdge / scale;
    return this.#preparer.grainFilter(grain, pixelUm);
  }

  /** Grain's noise for a part of a view that lies within one tile of its grid; it is kept, for it changes with nothing else. */
  #withGrain(print: PreparedPrint, view: View, part: Rect, use: (noise: number, model: number) => void): void {
    const filter = this.#grainFilter(print, view);
    if (!filter) return use(0, 0);
    const { seed } = print.recipe.finish.grain;
    const [x, y] = [part.x, part.y].map((at) => Math.floor(at / SLOT_EDGE) * SLOT_EDGE);
    const key = `grain ${seed} ${filter.taps.join()} ${x} ${y}`;
    const make = (out: number) => {
      const mark = this.#heap.mark();
      const noise = grainNoise(this.#heap, filter, seed, SLOT_EDGE, SLOT_EDGE, x, y);
      this.#heap.kernels.copyRect(noise, SLOT_EDGE, out, SLOT_EDGE, SLOT_EDGE, SLOT_EDGE);
      this.#heap.release(mark);
    };
    const first = 4 * ((part.y - y) * SLOT_EDGE + part.x - x);
    const share = this.#source.share(print, "grain", { ...view, ...part });
    this.#graph.withKept(grainStage, key, make, (kept) => {
      let noise = kept + first;
      if (share) {
        noise = this.#heap.allocate(4 * SLOT_EDGE * part.height + 16);
        this.#heap.kernels.scaleNoise(
          kept + first, SLOT_EDGE, share.pointer, share.stride, noise, SLOT_EDGE, part.width, part.height,
        ); // prettier-ignore
      }
      use(noise, this.#heap.place(filter.model));
    });
  }
}

/** Fills a plane around a rectangle of it with that rectangle's border. */
function extend(
  plane: Float32Array,
  stride: number,
  height: number,
  x: number,
  y: number,
  wide: number,
  tall: number,
): void {
  for (let row = y; row < y + tall; row++) {
    plane.fill(plane[row * stride + x], row * stride, row * stride + x);
    plane.fill(plane[row * stride + x + wide - 1], row * stride + x + wide, (row + 1) * stride);
  }
  for (let row = 0; row < y; row++) plane.copyWithin(row * stride, y * stride, (y + 1) * stride);
  const last = y + tall - 1;
  for (let row = last + 1; row < height; row++) plane.copyWithin(row * stride, last * stride, (last + 1) * stride);
}

/** A view in pieces of a grid that is fixed to the whole picture. */
function* strips({ x, y, width, height }: Rect): Generator<Rect> {
  for (let left = x; left < x + width;) {
    const right = Math.min(x + width, (Math.floor(left / STRIP) + 1) * STRIP);
    for (let top = y; top < y + height;) {
      const bottom = Math.min(y + height, (Math.floor(top / BAND) + 1) * BAND);
      yield { x: left, y: top, width: right - left, height: bottom - top };
      top = bottom;
    }
    left = right;
  }
}
