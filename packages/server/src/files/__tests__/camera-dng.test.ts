import { describe, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import { unpackRaw } from "../raw.ts";

/** The directories of a little-endian TIFF: every tag's values, read by nothing that Yelm itself uses. */
function directories(bytes: Uint8Array): Map<number, number[]>[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const read = (at: number): Map<number, number[]> => {
    const tags = new Map<number, number[]>();
    for (let i = 0; i < view.getUint16(at, true); i++) {
      const entry = at + 2 + 12 * i;
      const [tag, type, count] = [view.getUint16(entry, true), view.getUint16(entry + 2, true), view.getUint32(entry + 4, true)]; // prettier-ignore
      const size = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 10: 8, 12: 8 }[type]!;
      const from = size * count <= 4 ? entry + 8 : view.getUint32(entry + 8, true);
      const value = (k: number) => {
        const place = from + size * k;
        if (type === 12) return view.getFloat64(place, true);
        if (type === 5) return view.getUint32(place, true) / view.getUint32(place + 4, true);
        if (type === 10) return view.getInt32(place, true) / view.getInt32(place + 4, true);
        return size === 1
          ? view.getUint8(place)
          : size === 2
            ? view.getUint16(place, true)
            : view.getUint32(place, true);
      };
      tags.set(
        tag,
        Array.from({ length: count }, (_, k) => value(k)),
      );
    }
    return tags;
  };
  expect([bytes[0], bytes[1], view.getUint16(2, true)]).toEqual([0x49, 0x49, 42]);
  const main = read(view.getUint32(4, true));
  return [main, ...(main.get(330) ?? []).map(read)];
}

describe("the simulated camera's DNG", () => {
  const chart = drawChart("patches", 150, 106);

  test("states what it is, and its uncompressed mosaic is what the unpacker finds", async () => {
    const bytes = await shoot(chart, { compress: false, seed: 5, maskedBorder: [8, 6] });
    const [main, raw] = directories(bytes);
    expect(main.get(50706)).toEqual([1, 4, 0, 0]);
    expect([raw.get(262), raw.get(33421), raw.get(33422)]).toEqual([[32803], [2, 2], [0, 1, 1, 2]]);
    expect(raw.get(50829)).toEqual([6, 8, 112, 158]);
    expect(raw.get(51041)!.every((v) => v > 0)).toBe(true);
    const [offset, length] = [raw.get(273)![0], raw.get(279)![0]];
    expect(length).toBe(2 * 158 * 112);
    const stored = new DataView(bytes.buffer, bytes.byteOffset + offset, length);
    const opened = await unpackRaw(bytes);
    if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
    const { data, stride, left, top, width, height, black, white } = opened.mosaic;
    expect([width, height, white]).toEqual([150, 106, raw.get(50717)![0]]);
    expect(black).toEqual(raw.get(50714));
    let wrong = 0;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        if (data[(top + y) * stride + left + x] !== stored.getUint16(2 * ((y + 6) * 158 + x + 8), true)) wrong++;
    expect(wrong).toBe(0);
  });

  test.each([
    [150, 106],
    [700, 530],
    [1024, 64],
  ])("compressed without loss, %d × %d, it is the uncompressed one to the bit", async (width, height) => {
    const scene = drawChart("patches", width, height);
    const mosaicOf = async (compress: boolean) => {
      const opened = await unpackRaw(await shoot(scene, { compress, seed: 6 }));
      if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
      const { data, stride, left, top } = opened.mosaic;
      return Array.from({ length: height }, (_, y) => data.subarray((top + y) * stride + left, (top + y) * stride + left + width)); // prettier-ignore
    };
    const [plain, packed] = [await mosaicOf(false), await mosaicOf(true)];
    plain.forEach((row, y) => expect(Buffer.compare(Buffer.from(row), Buffer.from(packed[y]))).toBe(0));
  });
});
