import { rm, rename } from "node:fs/promises";
import {
  factsOf,
  type NegativeFacts,
  Engine,
  wholeView,
  type CaptureInfo,
  type ExportOptions,
  type KernelHeap,
  type Look,
  type Looked,
  type PictureReader,
  type PrintTones,
  QUESTIONS,
  type Recipe,
  type Refitted,
  type RefitWish,
  type TilePlace,
} from "@yelm/core";
import { rehearse } from "@yelm/core/raw/develop";
import { format } from "date-fns/format";
import sharp from "sharp";
import { checkCapture, partialTiles } from "../files/data-folder.ts";
import { openKernels } from "../files/kernels.ts";
import { openCapture } from "../files/linear-picture.ts";
import { readyUnpacker } from "../files/raw.ts";
import { TileReader, TileWriter } from "../files/tile-files.ts";
import { diskFull, writeWholeBytes } from "../files/whole-file.ts";

/** Work that the pool's threads do; every task is plain data in and out. */
export interface Tasks {
  /** Has everything there that the others begin with. */
  readonly ready: () => Promise<void>;
  /**
   * Opens a capture and writes its pyramid beside its final place, then moves it there. Where a hash is given the capture
   * must still be the bytes that it was taken of. So many threads help as are stated. Noise of finished colours is smoothed or kept.
   */
  readonly develop: (task: {
    capture: string;
    fileName: string;
    tiles: string;
    hash?: string;
    helping: number;
    smooth: boolean;
  }) => Promise<CaptureInfo>;
  /** A small sRGB JPEG of a print, or of the negative in colour. */
  readonly thumbnail: (task: {
    facts: NegativeFacts;
    tiles: string;
    recipe: Recipe;
    colour: boolean;
    longEdge: number;
    out: string;
  }) => Promise<void>;
  /** How the tones of a print lie. */
  readonly tones: (task: { info: CaptureInfo; tiles: string; recipe: Recipe }) => Promise<PrintTones>;
  /** A look laid on a print, fitted to its picture. */
  readonly looked: (task: { info: CaptureInfo; tiles: string; recipe: Recipe; look: Look }) => Promise<Looked>;
  /** Moves and areas of another negative's print, fitted to this one. */
  readonly refitted: (task: { info: CaptureInfo; tiles: string; wish: RefitWish }) => Promise<Refitted>;
  /** Photographs a scene with the simulated camera. */
  readonly shoot: (task: { scene: string; out: string; iso: number; stops: number; seed: number }) => Promise<void>;
  /** Writes one print to a file, whole or not at all. */
  readonly export: (task: {
    tiles: string;
    recipe: Recipe;
    options: ExportOptions;
    info: CaptureInfo;
    out: string;
    onProgress: (share: number) => void;
  }) => Promise<{ bytes: number }>;
}

/** A lens as sharp as the demo's. */
const LENS_BLUR_PX = 0.5;
let kernels: Promise<KernelHeap> | undefined;
const openHeap = () => (kernels ??= openKernels());

/** Asks about a negative whose tiles lie on the disk. */
async function onTiles<T>(tiles: string, capture: CaptureInfo, ask: (reader: PictureReader) => Promise<T>): Promise<T> {
  const reader = new TileReader(tiles);
  try {
    const engine = new Engine(await openHeap(), reader, factsOf(capture));
    return await ask({ engine, size: reader.size, capture, fetch: () => Promise.resolve() });
  } finally {
    reader.close();
  }
}

export const tasks: Tasks = {
  async ready() {
    rehearse(await openHeap());
    await readyUnpacker();
  },

  async develop({ capture, fileName, tiles, hash, helping, smooth }) {
    const heap = await openHeap();
    if (hash) await checkCapture(capture, hash);
    const temporary = partialTiles(tiles);
    await rm(temporary, { recursive: true, force: true });
    let writer: TileWriter | undefined;
    try {
      const open = (info: CaptureInfo) => {
        const opened = (writer = new TileWriter(temporary, info));
        return (place: TilePlace, halves: Uint16Array) => opened.write(place, halves);
      };
      const { info } = await openCapture(heap, capture, fileName, open, { helping, smooth });
      await writer!.finish();
      await rm(tiles, { recursive: true, force: true });
      await rename(temporary, tiles);
      return info;
    } catch (error) {
      writer?.close();
      await rm(temporary, { recursive: true, force: true });
      throw (await diskFull(error, tiles)) ?? error;
    }
  },

  async thumbnail({ facts, tiles, recipe, colour, longEdge, out }) {
    const reader = new TileReader(tiles);
    try {
      const engine = new Engine(await openHeap(), reader, facts);
      const print = engine.prepare(recipe);
      const view = wholeView(print.frame, reader.size, longEdge);
      const rgba = colour ? engine.renderColourRgba(print, view) : engine.renderRgba(print, view);
      const image = sharp(rgba, { raw: { width: view.width, height: view.height, channels: 4 } }).removeAlpha();
      await writeWholeBytes(out, await image.jpeg({ quality: 88, chromaSubsampling: "4:4:4" }).toBuffer());
    } finally {
      reader.close();
    }
  },

  async tones({ info, tiles, recipe }) {
    return onTiles(tiles, info, (reader) => QUESTIONS.tones(reader, { recipe }));
  },

  async looked({ info, tiles, recipe, look }) {
    return onTiles(tiles, info, (reader) => QUESTIONS.looked(reader, { recipe, look }));
  },

  async refitted({ info, tiles, wish }) {
    return onTiles(tiles, info, (reader) => QUESTIONS.refitted(reader, wish));
  },

  // What only some tasks need is fetched by them, so that a thread is there sooner.
  async shoot({ scene, out, iso, stops, seed }) {
    const { readScene, shoot } = await import("@yelm/camera");
    const takenAt = format(new Date(), "yyyy:MM:dd HH:mm:ss");
    const light = await readScene(scene);
    // The shutter follows from what the scene wants at ISO 100 and f/8.
    const shutterSeconds = (2 ** stops * 100) / iso / 125;
    const dng = await shoot(light, { iso, stops, seed, blurPx: LENS_BLUR_PX, takenAt, shutterSeconds });
    await writeWholeBytes(out, dng);
  },

  async export({ tiles, recipe, options, info, out, onProgress }) {
    const { writePrint } = await import("../files/write-print.ts");
    const reader = new TileReader(tiles);
    try {
      const heap = await openHeap();
      const engine = new Engine(heap, reader, factsOf(info));
      const { bytes } = await writePrint(engine, engine.prepare(recipe), options, info, out, onProgress);
      return { bytes };
    } finally {
      reader.close();
    }
  },
};
