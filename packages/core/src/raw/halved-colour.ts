const { floor, max, min } = Math;

/** Cells of 2 × 2 pixels on each side of the window in which colour follows light. */
const RADIUS = 2;
/** Variance of brightness, codes², below which colour follows nothing. */
const QUIET = 4;
/** Rows worked on at a time, and rows on either side that they depend on: two windows and the interpolation. Both even. */
const BAND_ROWS = 256;
const HALO_ROWS = 4 * RADIUS + 4;

/** Where the cells of 2 × 2 pixels of a picture whose colour is halved begin: 0, or 1 where it was cut at an odd place. */
export interface HalvedCells {
  readonly left: 0 | 1;
  readonly top: 0 | 1;
}

/** Squared step of colour, codes², beyond which it counts as this: no single edge decides. */
const MOST_STEP = 400;
/** Pairs of pixels in each direction that are looked at. */
const LOOKED_AT = 2e6;
/** Steps within cells over those between, of colour and against the same of brightness, that tell halved colour: across, and down. */
const HALVED = { across: 0.9, down: 0.97 } as const;

/**
 * Tells by its pixels whether a picture's colour was once stored at half the resolution of its light, whatever it is stored as now: colour
 * then steps less within cells of 2 × 2 pixels than from cell to cell.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like.
 * @returns where its cells begin; null when colour is as fine as light.
 */
export function halvedCellsOf(codes: Uint8Array, width: number, height: number): HalvedCells | null {
  const every = max(1, floor((width * height) / LOOKED_AT));
  const across = inCells(codes, width, height, 3, every);
  const down = inCells(codes, width, height, 3 * width, every);
  const tells = (ratio: number, below: number) => ratio < below || ratio > 1 / below;
  if (!tells(across, HALVED.across) || !tells(down, HALVED.down)) return null;
  return { left: across < 1 ? 0 : 1, top: down < 1 ? 0 : 1 };
}

/** Squared steps of colour from even places on over those from odd ones, against the same of brightness; `next` codes lie between pixels. */
function inCells(codes: Uint8Array, width: number, height: number, next: number, every: number): number {
  const [colour, light] = [0, 1].map(() => [1e-9, 1e-9]);
  const isAcross = next === 3;
  const step = (value: number) => min(MOST_STEP, value * value);
  const brightness = (i: number) => 0.299 * codes[i] + 0.587 * codes[i + 1] + 0.114 * codes[i + 2];
  // Lines across what is compared are left out, so that each that is looked at counts whole.
  for (let y = 0; y < height - 1; y += isAcross ? every : 1)
    for (let x = 0; x < width - 1; x += isAcross ? 1 : every) {
      const i = 3 * (y * width + x);
      const odd = (isAcross ? x : y) & 1;
      const l = brightness(i + next) - brightness(i);
      colour[odd] += step(codes[i + next + 2] - codes[i + 2] - l) + step(codes[i + next] - codes[i] - l);
      light[odd] += step(l);
    }
  return colour[0] / colour[1] / (light[0] / light[1]);
}

/**
 * Rebuilds the colour of a picture that was stored at half its resolution (4:2:0): in small windows colour is a straight line
 * of brightness, taken from cells of 2 × 2 pixels (the guided filter of He, Sun, Tang 2010), so that it turns where
 * brightness does and not a pixel beside it. Brightness stays as it is; what the line does not explain stays as smooth as it was.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like; changed in place. Pictures below 10 pixels are left alone.
 * @param cells - where they begin.
 */
export function rebuildHalvedColour(
  codes: Uint8Array,
  width: number,
  height: number,
  cells: HalvedCells = { left: 0, top: 0 },
): void {
  if (min(width, height) < 2 * (2 * RADIUS + 1)) return;
  if (cells.top === 1) return rebuildHalvedColour(codes.subarray(3 * width), width, height - 1, { ...cells, top: 0 });
  const row = 3 * width;
  let before = codes.slice(0, 0);
  for (let top = 0; top < height; top += BAND_ROWS) {
    const rows = min(BAND_ROWS, height - top);
    const below = min(HALO_ROWS, height - top - rows);
    const own = codes.subarray(top * row, (top + rows + below) * row);
    const source = new Uint8Array(before.length + own.length);
    source.set(before);
    source.set(own, before.length);
    const above = before.length / row;
    // What the next band sees above it is what was there before this one was changed.
    before = source.slice((above + rows - HALO_ROWS) * row, (above + rows) * row);
    rebuildRows(source, width, above, own.subarray(0, rows * row), cells.left);
  }
}

/** Rebuilds the rows of `source` from `above` on, as many as `out` holds. */
function rebuildRows(source: Uint8Array, width: number, above: number, out: Uint8Array, left: number): void {
  const cw = (width - left) >> 1;
  const ch = floor(source.length / 3 / width) >> 1;
  const [light, blue, red] = cellsOf(source, width, cw, ch, left);
  const mean = (plane: Float32Array) => windowMeans(plane, cw, ch);
  const squares = light.map((l) => l * l);
  const means = [mean(light), mean(squares)] as const;
  const lines = [blue, red].flatMap((colour) => fitLines(light, means, colour, mean));
  const between = lines.map(() => new Float32Array(cw));
  const [b1, b0, b2, r1, r0, r2] = between;
  const rows = out.length / 3 / width;
  for (let y = 0; y < rows; y++) {
    const at = min(ch - 1, max(0, (y + above - 0.5) / 2));
    const upper = floor(at) * cw;
    const lower = min(ch - 1, floor(at) + 1) * cw;
    const down = at - floor(at);
    for (let k = 0; k < lines.length; k++) {
      const [plane, to] = [lines[k], between[k]];
      for (let x = 0; x < cw; x++) to[x] = plane[upper + x] + down * (plane[lower + x] - plane[upper + x]);
    }
    for (let x = 0, i = 3 * y * width; x < width; x++, i += 3) {
      const across = min(cw - 1, max(0, (x - left - 0.5) / 2));
      const p = floor(across);
      const q = min(cw - 1, p + 1);
      const u = across - p;
      const l = 0.299 * out[i] + 0.587 * out[i + 1] + 0.114 * out[i + 2];
      const b = (b1[p] + u * (b1[q] - b1[p])) * l + b0[p] + u * (b0[q] - b0[p]) + b2[p] + u * (b2[q] - b2[p]);
      const r = (r1[p] + u * (r1[q] - r1[p])) * l + r0[p] + u * (r0[q] - r0[p]) + r2[p] + u * (r2[q] - r2[p]);
      out[i] = coded(l + r);
      out[i + 1] = coded(l - (0.299 * r + 0.114 * b) / 0.587);
      out[i + 2] = coded(l + b);
    }
  }
}

/** Brightness (BT.601, in which JPEG stores colour) of cells, and their blue and red less of it. */
function cellsOf(codes: Uint8Array, width: number, cw: number, ch: number, left: number): Float32Array[] {
  const [light, blue, red] = [0, 1, 2].map(() => new Float32Array(cw * ch));
  const next = 3 * width;
  for (let y = 0; y < ch; y++)
    for (let x = 0, i = 6 * y * width + 3 * left, cell = y * cw; x < cw; x++, i += 6, cell++) {
      const r = codes[i] + codes[i + 3] + codes[i + next] + codes[i + next + 3];
      const g = codes[i + 1] + codes[i + 4] + codes[i + next + 1] + codes[i + next + 4];
      const b = codes[i + 2] + codes[i + 5] + codes[i + next + 2] + codes[i + next + 5];
      const l = 0.25 * (0.299 * r + 0.587 * g + 0.114 * b);
      light[cell] = l;
      blue[cell] = 0.25 * b - l;
      red[cell] = 0.25 * r - l;
    }
  return [light, blue, red];
}

function coded(value: number): number {
  return value < 0 ? 0 : value > 255 ? 255 : floor(value + 0.5);
}

/** Slope, offset, and what is left over, of the local line from light to a colour difference; `l` and `mll` are light's means. */
function fitLines(
  light: Float32Array,
  [l, mll]: readonly [Float32Array, Float32Array],
  colour: Float32Array,
  mean: (plane: Float32Array) => Float32Array,
): Float32Array[] {
  const n = light.length;
  const [slope, offset, weight] = [0, 1, 2].map(() => new Float32Array(n));
  for (let i = 0; i < n; i++) {
    slope[i] = light[i] * colour[i];
    offset[i] = colour[i] * colour[i];
  }
  const [c, mlc, mcc] = [colour, slope, offset].map(mean);
  for (let i = 0; i < n; i++) {
    const covariance = mlc[i] - l[i] * c[i];
    const a = covariance / (max(0, mll[i] - l[i] * l[i]) + QUIET);
    // Lines that explain more of their window count more.
    const w = 1 / (1 + max(0, mcc[i] - c[i] * c[i] - a * covariance));
    weight[i] = w;
    slope[i] = w * a;
    offset[i] = w * (c[i] - a * l[i]);
  }
  const [a, b, w] = [slope, offset, weight].map(mean);
  const rest = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    a[i] /= w[i];
    b[i] /= w[i];
    rest[i] = colour[i] - a[i] * light[i] - b[i];
  }
  return [a, b, rest];
}

/** Means over windows of (2 · RADIUS + 1)², cut at the border. */
function windowMeans(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length);
  // Sums of columns, with room for zeros on both sides.
  const columns = new Float64Array(width + 2 * RADIUS + 1);
  const first = RADIUS + 1;
  const shares = Float64Array.from(columns.subarray(0, width), (_, x) => 1 / reached(x, width));
  const add = (y: number, sign: number) => {
    for (let x = 0, i = y * width; x < width; x++, i++) columns[first + x] += sign * plane[i];
  };
  for (let y = 0; y < min(RADIUS, height); y++) add(y, 1);
  for (let y = 0; y < height; y++) {
    if (y + RADIUS < height) add(y + RADIUS, 1);
    if (y > RADIUS) add(y - RADIUS - 1, -1);
    const share = 1 / reached(y, height);
    let sum = 0;
    for (let x = 0; x < RADIUS; x++) sum += columns[first + x];
    for (let x = 0, i = y * width; x < width; x++, i++) {
      sum += columns[first + x + RADIUS] - columns[x];
      out[i] = sum * share * shares[x];
    }
  }
  return out;
}

/** How many places of a row of `length` a window about one of them holds. */
function reached(place: number, length: number): number {
  return min(length - 1, place + RADIUS) - max(0, place - RADIUS) + 1;
}
