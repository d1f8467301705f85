import { expect, test } from "@jest/globals";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import { clippedShares, type Mosaic } from "../mosaic.ts";

test.each([
  [2, 4, 0, 0, 16383],
  [30, 10, 1, 0, 16383],
  [1034, 6, 0, 1, 65535],
  [46, 8, 1, 1, 40000],
] as const)(
  "saturated sites are counted one by one: %i × %i, red at %i, %i, white %i",
  async (width, height, redX, redY, white) => {
    const random = seeded(width);
    const [stride, left, top] = [width + 6, 2, 2];
    const data = Uint16Array.from({ length: stride * (height + 4) }, () =>
      Math.min(65535, white - 2 + Math.floor(4 * random())),
    );
    const mosaic: Mosaic = {
      data,
      stride,
      left,
      top,
      width,
      height,
      phase: { redX, redY },
      black: [0, 0, 0, 0],
      white,
    };
    const full = [0, 0, 0];
    const sites = [0, 0, 0];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [redColumn, redRow] = [(x & 1) === redX, (y & 1) === redY];
        const channel = redColumn && redRow ? 0 : redColumn || redRow ? 1 : 2;
        sites[channel]++;
        if (data[(top + y) * stride + left + x] >= white) full[channel]++;
      }
    expect(clippedShares(await openHeap(0), mosaic)).toEqual(full.map((count, c) => count / sites[c]));
  },
);
