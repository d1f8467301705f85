import { decode } from "tiff";

/** The tags of a DNG's raw directory that the unpacker does not report. */
export interface DngTags {
  readonly black: readonly number[] | null;
  readonly blackRepeat: readonly [number, number];
  /** Added to it across the columns and down the rows of the active area; empty when there is none. */
  readonly blackAcross: readonly number[];
  readonly blackDown: readonly number[];
  /** Corner of the active area, from which black is counted: left, top. */
  readonly activeCorner: readonly [number, number];
  readonly noiseProfile: readonly number[] | null;
  /** What this body differs by from its model: a matrix for each calibration, row-major, or null; then gains. */
  readonly bodyCalibrations: readonly (readonly number[] | null)[];
  readonly analogBalance: readonly number[] | null;
  /** Chromaticity of the white as shot, where the file states that and no neutral. */
  readonly whiteXy: readonly number[] | null;
  /** True for a DNG of three colours at every pixel. */
  readonly isLinear: boolean;
  /** True when the file says that it is a DNG, or holds a colour filter mosaic: a raw file, whatever its name. */
  readonly isRaw: boolean;
}

/** TIFF 6.0, TIFF/EP and DNG 1.7 tags. */
const TAG = {
  photometric: 262,
  subDirectories: 330,
  dngVersion: 50706,
  blackRepeat: 50713,
  black: 50714,
  blackAcross: 50715,
  blackDown: 50716,
  calibration1: 50723,
  calibration2: 50724,
  analogBalance: 50727,
  whiteXy: 50729,
  activeArea: 50829,
  calibrationSignature: 50931,
  profileSignature: 50932,
  noiseProfile: 51041,
} as const;
const CFA = 32803;
const LINEAR_RAW = 34892;
const NONE: DngTags = {
  black: null,
  blackRepeat: [1, 1],
  blackAcross: [],
  blackDown: [],
  activeCorner: [0, 0],
  noiseProfile: null,
  bodyCalibrations: [],
  analogBalance: null,
  whiteXy: null,
  isLinear: false,
  isRaw: false,
};

/** Directories may name each other in a circle: no chain is followed, and not more are read than any camera writes. */
const FIRST_ONLY = { ignoreImageData: true, pages: [0] };
const MAXIMUM_DIRECTORIES = 12;

/** Reads what it can; a file that is no TIFF gives empty answers. The bytes come back unchanged. */
export function readDngTags(bytes: Uint8Array): DngTags {
  try {
    const [main] = decode(bytes, FIRST_ONLY);
    const offsets = (numbers(main.fields.get(TAG.subDirectories)) ?? []).slice(0, MAXIMUM_DIRECTORIES);
    const directories = [main.fields, ...offsets.map((offset) => directoryAt(bytes, offset))];
    const kind = (fields: Map<number, unknown>) => fields.get(TAG.photometric);
    const raw = directories.find((fields) => kind(fields) === CFA) ?? directories.find((f) => kind(f) === LINEAR_RAW);
    const read = raw ?? main.fields;
    const repeat = numbers(read.get(TAG.blackRepeat)) ?? [1, 1];
    const [top = 0, left = 0] = numbers(read.get(TAG.activeArea)) ?? [];
    const signature = (tag: number) => String(main.fields.get(tag) ?? "").replace(/\0+$/, "");
    // A calibration was made for one profile; with any other it would spoil the colours.
    const belongs = signature(TAG.calibrationSignature) === signature(TAG.profileSignature);
    const isDng = main.fields.has(TAG.dngVersion);
    return {
      black: numbers(read.get(TAG.black)),
      blackRepeat: [repeat[0] ?? 1, repeat[1] ?? 1],
      blackAcross: numbers(read.get(TAG.blackAcross)) ?? [],
      blackDown: numbers(read.get(TAG.blackDown)) ?? [],
      activeCorner: [left, top],
      noiseProfile: numbers(read.get(TAG.noiseProfile)) ?? numbers(main.fields.get(TAG.noiseProfile)),
      bodyCalibrations: belongs
        ? [TAG.calibration1, TAG.calibration2].map((tag) => ofLength(9, numbers(main.fields.get(tag))))
        : [],
      analogBalance: ofLength(3, numbers(main.fields.get(TAG.analogBalance))),
      whiteXy: ofLength(2, numbers(main.fields.get(TAG.whiteXy))),
      isLinear: isDng && kind(read) === LINEAR_RAW,
      isRaw: isDng || kind(read) === CFA,
    };
  } catch {
    return NONE;
  }
}

/** Finite numbers of a known count, or null. */
function ofLength(count: number, values: number[] | null): number[] | null {
  return values?.length === count && values.every(Number.isFinite) ? values : null;
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
