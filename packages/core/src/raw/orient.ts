import type { Mosaic } from "./mosaic.ts";

/**
 * Mirrors a mosaic left to right where it was stored mirrored, then turns it clockwise by quarter turns, so that it stands
 * upright before it is demosaiced: a turned or mirrored Bayer pattern is a Bayer pattern again, only its phase moves.
 * @param quarterTurns - 0 to 3.
 */
export function orientMosaic(mosaic: Mosaic, quarterTurns: number, mirrored = false): Mosaic {
  let turned = mirrored ? mirror(mosaic) : mosaic;
  for (let i = 0; i < quarterTurns; i++) turned = turnClockwise(turned);
  return turned;
}

function turnClockwise({ data, stride, left, top, width, height, phase, black, white }: Mosaic): Mosaic {
  const out = new Uint16Array(width * height);
  for (let y = 0; y < height; y++) {
    const from = (top + y) * stride + left;
    for (let x = 0; x < width; x++) out[x * height + height - 1 - y] = data[from + x];
  }
  // New (x, y) = (height - 1 - oldY, oldX).
  const parity = (height - 1) & 1;
  const level = (x: number, y: number) => black[2 * ((parity ^ x) & 1) + (y & 1)];
  return {
    data: out,
    stride: height,
    left: 0,
    top: 0,
    width: height,
    height: width,
    phase: { redX: (parity ^ phase.redY) as 0 | 1, redY: phase.redX },
    black: [level(0, 0), level(1, 0), level(0, 1), level(1, 1)],
    white,
  };
}

function mirror({ data, stride, left, top, width, height, phase, black, white }: Mosaic): Mosaic {
  const out = new Uint16Array(width * height);
  for (let y = 0; y < height; y++) {
    const from = (top + y) * stride + left;
    for (let x = 0; x < width; x++) out[y * width + width - 1 - x] = data[from + x];
  }
  const parity = (width - 1) & 1;
  const level = (x: number, y: number) => black[2 * y + (parity ^ x)];
  return {
    data: out,
    stride: width,
    left: 0,
    top: 0,
    width,
    height,
    phase: { redX: (parity ^ phase.redX) as 0 | 1, redY: phase.redY },
    black: [level(0, 0), level(1, 0), level(0, 1), level(1, 1)],
    white,
  };
}
