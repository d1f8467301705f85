import { open } from "node:fs/promises";
import type { HalvedCells } from "@yelm/core";

/** How a JPEG stores its colour. */
export interface JpegColour {
  /** The cells of pixels that share one colour, upright; null when each has its own, or when the header says nothing plain. */
  readonly halved: HalvedCells | null;
  /** The cells in which colour is rebuilt: those, or larger ones where it was rounded so coarsely that blocks would show. */
  readonly rebuilt: HalvedCells | null;
  /** Whether it is rounded so. */
  readonly coarse: boolean;
  /** Variance of colour by its light that rounding leaves at edges, linear; 0 when the header says nothing plain. */
  readonly noise: number;
}

const PLAIN: JpegColour = { halved: null, rebuilt: null, coarse: false, noise: 0 };

/** Segments looked at: files with previews and notes of their maker's have some hundred. */
const MAXIMUM_SEGMENTS = 2000;
/** Markers that begin a frame (ITU-T T.81, table B.1); C4, C8 and CC among them mean something else. */
const isFrame = (marker: number) => marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
const START_OF_SCAN = 0xda;
const TABLES = 0xdb;
/**
 * Mean of the steps to which the slowest waves of colour are rounded, from which colour rebuilt from cells of 2 × 2 pixels comes nearer the
 * scene than as it is stored: of 53 photographs by the usual tables' quality 86 (7.5), on average; at 70 by a tenth, at 92 it would lose one.
 */
const COARSE = { waves: 10, step: 7.5 } as const;
/**
 * Variance by light for a mean step of one. At edges colour is off by much less than their steps, as most waves are small: with this share of
 * their squares smoothed colours came nearest the truth at the usual tables' quality 70 (16) and 85 (8), on made-up scenes of known coverage.
 */
const NOISE_OF_STEP = 4e-7;
/** What is taken for a picture that was a JPEG once and is stored as something else: as much as quality 86 leaves. */
export const NOISE_OF_FORMER_JPEG = NOISE_OF_STEP * COARSE.step ** 2;

/**
 * Reads from a JPEG's header how colour is stored against light.
 * @param orientation - Exif's, by which the picture is turned upright.
 * @param width - and height, upright.
 */
export async function readJpegColour(
  path: string,
  orientation: number,
  width: number,
  height: number,
): Promise<JpegColour> {
  const header = await readHeader(path);
  if (header?.components.length !== 3) return PLAIN;
  const [light, blue, red] = header.components;
  const stored = [light.across / blue.across, light.down / blue.down];
  const [across, down] = orientation > 4 ? stored.reverse() : stored;
  if (blue.across !== red.across || blue.down !== red.down || !isSize(across) || !isSize(down)) return PLAIN;
  // Cells begin at the stored corner: what is turned over begins with what the last one left.
  const cells = (cellWidth: HalvedCells["width"], cellHeight: HalvedCells["height"]): HalvedCells => ({
    width: cellWidth,
    height: cellHeight,
    left: [2, 3, 6, 7].includes(orientation) ? width % cellWidth : 0,
    top: [3, 4, 7, 8].includes(orientation) ? height % cellHeight : 0,
    // The decoder's way between cells of two pixels; larger ones are filled.
    sloped: { across: across === 2, down: down === 2 },
  });
  const halved = across * down > 1 ? cells(across, down) : null;
  const step = Math.min(...[blue, red].map(({ table }) => header.steps.get(table) ?? 0));
  const coarse = step > COARSE.step;
  return {
    halved,
    rebuilt: coarse ? cells(across === 1 ? 2 : across, down === 1 ? 2 : down) : halved,
    coarse,
    noise: NOISE_OF_STEP * step ** 2,
  };
}

function isSize(size: number): size is HalvedCells["width"] {
  return size === 1 || size === 2 || size === 4;
}

interface Header {
  /** Sampling factors of each component, and the table by which its waves are rounded (T.81, B.2.2). */
  readonly components: readonly { readonly across: number; readonly down: number; readonly table: number }[];
  /** Mean step of the slowest waves of each table (T.81, B.2.4.1). */
  readonly steps: ReadonlyMap<number, number>;
}

/** What stands before a JPEG's first scan; null when no frame is found there. */
async function readHeader(path: string): Promise<Header | null> {
  const file = await open(path, "r");
  try {
    const read = async (at: number, length: number) => {
      const bytes = new Uint8Array(Math.max(0, length));
      const { bytesRead } = await file.read(bytes, 0, bytes.length, at);
      return bytesRead === length ? bytes : null;
    };
    const steps = new Map<number, number>();
    let components: Header["components"] | null = null;
    for (let at = 2, k = 0; k < MAXIMUM_SEGMENTS; k++) {
      const head = await read(at, 4);
      if (head?.[0] !== 0xff || head[1] === START_OF_SCAN) break;
      // Any number of FF may stand before a marker.
      if (head[1] === 0xff) {
        at++;
        continue;
      }
      const length = 256 * head[2] + head[3];
      const body = isFrame(head[1]) || head[1] === TABLES ? await read(at + 4, length - 2) : null;
      if (body && head[1] === TABLES) readTables(body, steps);
      else if (body && body.length >= 6 && body.length >= 6 + 3 * body[5])
        components = Array.from({ length: body[5] }, (_, i) => {
          const [, factors, table] = body.subarray(6 + 3 * i);
          return { across: factors >> 4, down: factors & 15, table };
        });
      at += 2 + length;
    }
    return components && { components, steps };
  } finally {
    await file.close();
  }
}

function readTables(body: Uint8Array, steps: Map<number, number>): void {
  for (let at = 0; at < body.length;) {
    const bytes = body[at] >> 4 ? 2 : 1;
    if (at + 1 + 64 * bytes > body.length) return;
    let sum = 0;
    for (let k = 0; k < COARSE.waves; k++) {
      const place = at + 1 + k * bytes;
      sum += bytes === 2 ? 256 * body[place] + body[place + 1] : body[place];
    }
    steps.set(body[at] & 15, sum / COARSE.waves);
    at += 1 + 64 * bytes;
  }
}
