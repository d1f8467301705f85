import { decode } from "tiff";

/** The tags of a DNG's raw directory that the unpacker does not report. */
export interface DngTags {
  readonly black: readonly number[] | null;
  readonly blackRepeat: readonly [number, number];
  readonly noiseProfile: readonly number[] | null;
  /** True when the file says that it is a DNG, or holds a colour filter mosaic: a raw file, whatever its name. */
  readonly isRaw: boolean;
}

const SUB_IFDS = 330;
const BLACK_REPEAT = 50713;
const BLACK_LEVEL = 50714;
const NOISE_PROFILE = 51041;
const CFA = 32803;
const PHOTOMETRIC = 262;
const DNG_VERSION = 50706;

/** Directories may name each other in a circle: no chain is followed, and not more are read than any camera writes. */
const FIRST_ONLY = { ignoreImageData: true, pages: [0] };
const MAXIMUM_DIRECTORIES = 12;

/** Reads what it can; a file that is no TIFF gives empty answers. The bytes come back unchanged. */
export function readDngTags(bytes: Uint8Array): DngTags {
  try {
    const [main] = decode(bytes, FIRST_ONLY);
    const offsets = (numbers(main.fields.get(SUB_IFDS)) ?? []).slice(0, MAXIMUM_DIRECTORIES);
    const directories = [main.fields, ...offsets.map((offset) => directoryAt(bytes, offset))];
    const raw = directories.find((fields) => fields.get(PHOTOMETRIC) === CFA) ?? main.fields;
    const repeat = numbers(raw.get(BLACK_REPEAT)) ?? [1, 1];
    return {
      black: numbers(raw.get(BLACK_LEVEL)),
      blackRepeat: [repeat[0] ?? 1, repeat[1] ?? 1],
      noiseProfile: numbers(raw.get(NOISE_PROFILE)) ?? numbers(main.fields.get(NOISE_PROFILE)),
      isRaw: main.fields.has(DNG_VERSION) || raw.get(PHOTOMETRIC) === CFA,
    };
  } catch {
    return { black: null, blackRepeat: [1, 1], noiseProfile: null, isRaw: false };
  }
}

/** The tag reader follows only the main chain, so it is pointed at the directory and the header put back. */
function directoryAt(bytes: Uint8Array, offset: number): Map<number, unknown> {
  const header = Uint8Array.from(bytes.subarray(0, 8));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const littleEndian = bytes[0] === 0x49;
  try {
    view.setUint32(4, offset, littleEndian);
    return decode(bytes, FIRST_ONLY)[0].fields;
  } finally {
    bytes.set(header);
  }
}

function numbers(value: unknown): number[] | null {
  if (typeof value === "number") return [value];
  if (Array.isArray(value) || ArrayBuffer.isView(value)) return Array.from(value as ArrayLike<number>);
  return null;
}
