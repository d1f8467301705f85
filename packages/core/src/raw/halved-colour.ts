const { floor, max, min, round } = Math;

/** Cells of 2 × 2 pixels on each side of the window in which colour follows light. */
const RADIUS = 2;
/** Variance of brightness, codes², below which colour follows nothing. */
const QUIET = 4;

/**
 * Rebuilds the colour of a picture that was stored at half its resolution (4:2:0): in small windows colour is a straight line
 * of brightness, taken from cells of 2 × 2 pixels (the guided filter of He, Sun, Tang 2010), so that it turns where
 * brightness does and not a pixel beside it. Brightness stays as it is; what the line does not explain stays as smooth as it was.
 * @param codes - interleaved red, green, blue, 8 bits sRGB-like; changed in place.
 */
export function rebuildHalvedColour(codes: Uint8Array, width: number, height: number): void {
  const [cw, ch] = [width >> 1, height >> 1];
  if (cw < 2 * RADIUS + 1 || ch < 2 * RADIUS + 1) return;
  const n = cw * ch;
  const [light, blue, red] = [0, 1, 2].map(() => new Float32Array(n));
  for (let y = 0; y < ch; y++)
    for (let x = 0; x < cw; x++) {
      const first = 3 * (2 * y * width + 2 * x);
      const second = first + 3 * width;
      const sum = (c: number) => codes[first + c] + codes[first + 3 + c] + codes[second + c] + codes[second + 3 + c];
      const [r, g, b] = [sum(0), sum(1), sum(2)];
      const cell = y * cw + x;
      light[cell] = brightness(r, g, b) / 4;
      blue[cell] = b / 4 - light[cell];
      red[cell] = r / 4 - light[cell];
    }
  const lines = [blue, red].map((colour) => fitLines(light, colour, cw, ch));
  const row = new Float32Array(6 * cw);
  for (let y = 0; y < height; y++) {
    const at = min(ch - 1, max(0, (y - 0.5) / 2));
    const [top, below] = [floor(at), min(ch - 1, floor(at) + 1)];
    const down = at - top;
    lines.flat().forEach((plane, k) => {
      for (let x = 0; x < cw; x++)
        row[k * cw + x] = plane[top * cw + x] + down * (plane[below * cw + x] - plane[top * cw + x]);
    });
    for (let x = 0; x < width; x++) {
      const across = min(cw - 1, max(0, (x - 0.5) / 2));
      const left = floor(across);
      const right = min(cw - 1, left + 1);
      const share = across - left;
      const i = 3 * (y * width + x);
      const l = brightness(codes[i], codes[i + 1], codes[i + 2]);
      const value = (k: number) => row[k * cw + left] + share * (row[k * cw + right] - row[k * cw + left]);
      const b = value(0) * l + value(1) + value(2);
      const r = value(3) * l + value(4) + value(5);
      codes[i] = clamped(l + r);
      codes[i + 1] = clamped(l - (0.299 * r + 0.114 * b) / 0.587);
      codes[i + 2] = clamped(l + b);
    }
  }
}

/** BT.601, in which JPEG stores colour. */
function brightness(r: number, g: number, b: number): number {
  return 0.299 * r + 0.587 * g + 0.114 * b;
}

function clamped(code: number): number {
  return code < 0 ? 0 : code > 255 ? 255 : round(code);
}

/** Slope, offset, and what is left over, of the local line from light to a colour difference. */
function fitLines(light: Float32Array, colour: Float32Array, width: number, height: number): Float32Array[] {
  const mean = (plane: Float32Array) => windowMeans(plane, width, height);
  const product = (p: Float32Array, q: Float32Array) => p.map((v, i) => v * q[i]);
  const [l, c] = [mean(light), mean(colour)];
  const [ll, lc, cc] = [mean(product(light, light)), mean(product(light, colour)), mean(product(colour, colour))];
  const slope = new Float32Array(l.length);
  const offset = new Float32Array(l.length);
  const weight = new Float32Array(l.length);
  for (let i = 0; i < l.length; i++) {
    const covariance = lc[i] - l[i] * c[i];
    const a = covariance / (max(0, ll[i] - l[i] * l[i]) + QUIET);
    // Lines that explain more of their window count more.
    const w = 1 / (1 + max(0, cc[i] - c[i] * c[i] - a * covariance));
    weight[i] = w;
    slope[i] = w * a;
    offset[i] = w * (c[i] - a * l[i]);
  }
  const [a, b, w] = [mean(slope), mean(offset), mean(weight)];
  const rest = new Float32Array(l.length);
  for (let i = 0; i < l.length; i++) {
    a[i] /= w[i];
    b[i] /= w[i];
    rest[i] = colour[i] - a[i] * light[i] - b[i];
  }
  return [a, b, rest];
}

/** Means over windows of (2 · RADIUS + 1)², cut at the border. */
function windowMeans(plane: Float32Array, width: number, height: number): Float32Array {
  const pass = (from: Float32Array, lines: number, length: number, step: number, next: number) => {
    const out = new Float32Array(from.length);
    for (let line = 0; line < lines; line++) {
      let sum = 0;
      let count = 0;
      for (let i = -RADIUS; i < length; i++) {
        const enter = i + RADIUS;
        const leave = i - RADIUS - 1;
        if (enter < length) {
          sum += from[line * next + enter * step];
          count++;
        }
        if (leave >= 0) {
          sum -= from[line * next + leave * step];
          count--;
        }
        if (i >= 0) out[line * next + i * step] = sum / count;
      }
    }
    return out;
  };
  return pass(pass(plane, height, width, 1, width), width, height, width, 1);
}
