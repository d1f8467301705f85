import { describe, expect, test } from "@jest/globals";
import { CubeError, readCube, writeCube } from "../../../encode/cube.ts";
import { SRGB_TRANSFER } from "../../../colour/transfer.ts";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { isGrey, printColour, tableOf } from "../print-colour.ts";
import { throughTables } from "../tables.ts";
import type { Finish, ToneTable } from "../schema.ts";

const cube = (lines: readonly string[]) => lines.join("\n");
const table = (values: readonly number[], part: Partial<ToneTable> = {}): ToneTable => ({
  id: "t", name: "Table", limit: "all", strength: 1, values: [...values], ...part,
}); // prettier-ignore
const grey = (code: number): [number, number, number] => {
  const light = SRGB_TRANSFER.decode(code);
  return [light, light, light];
};
const codes = (rgb: readonly number[]) => rgb.map((v) => SRGB_TRANSFER.encode(v));
const light = ([r, g, b]: readonly number[]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;

describe(".cube", () => {
  test("one dimension, three, comments, a domain and words of other programs", () => {
    const one = readCube(
      cube([
        'TITLE "Dusk"',
        "# a comment",
        "LUT_1D_SIZE 3",
        "LUT_SOMETHING 4",
        "0 0 0.1",
        "0.5 0.4 0.6 # mid",
        "1 1 1",
        "",
      ]),
    );
    expect(one).toEqual({ title: "Dusk", values: [0, 0, 0.1, 0.5, 0.4, 0.6, 1, 1, 1] });
    // Red varies fastest; greys lie on the diagonal.
    const rows = Array.from({ length: 8 }, (_, i) => [i & 1, (i >> 1) & 1, i >> 2].map((v) => v * 0.5).join(" "));
    expect(readCube(cube(["LUT_3D_SIZE 2", ...rows])).values).toEqual([0, 0, 0, 0.5, 0.5, 0.5]);
    const half = readCube(
      cube(["LUT_1D_SIZE 3", "DOMAIN_MIN 0 0 0", "DOMAIN_MAX 2 2 2", "0 0 0", "0.5 0.5 0.5", "1 1 1"]),
    );
    expect(half.values).toEqual([0, 0, 0, 0.25, 0.25, 0.25, 0.5, 0.5, 0.5]);
  });
  test.each([
    ["no size", "0 0 0\n1 1 1", "LUT_1D_SIZE or LUT_3D_SIZE"],
    ["cut short", "LUT_3D_SIZE 2\n0 0 0\n1 1 1", "8 lines of three numbers but received 2"],
    ["no numbers", "LUT_1D_SIZE 2\n0 0 zero\n1 1 1", "three numbers in line 2"],
    ["not finite", "LUT_1D_SIZE 2\n0 0 NaN\n1 1 1", "three numbers in line 2"],
    ["too large", "LUT_3D_SIZE 4000\n", "from 2 to 256"],
    ["a domain of nothing", "LUT_1D_SIZE 2\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1", "DOMAIN_MAX to be greater"],
  ])("%s is refused with what was expected", (_name, text, words) => {
    expect(() => readCube(text)).toThrow(CubeError);
    expect(() => readCube(text)).toThrow(words);
  });
  test("what is written comes back within half a code of 16 bits, and prints the same tone", () => {
    const fresh = defaultRecipe().finish;
    const finish: Finish = { ...fresh, toning: { ...fresh.toning, toner: "sepia", strength: 0.8 } };
    const written = tableOf(finish, 'Sepia "deep"');
    const back = readCube(writeCube(written));
    const worst = Math.max(...back.values.map((v, i) => Math.abs(v - written.values[i])));
    expect(worst).toBeLessThan(0.5 / 65535);
    const plain: Finish = { ...fresh, tables: [table(back.values)] };
    for (let i = 0; i <= 60; i++) {
      const reflectance = (i / 60) ** 2.2;
      const [a, b] = [printColour(reflectance, finish), printColour(reflectance, plain)].map(codes);
      a.forEach((v, c) => expect(Math.abs(v - b[c])).toBeLessThan(0.002));
    }
  });
});

describe("tone tables", () => {
  const warm = [0, 0, 0, 0.55, 0.5, 0.42, 1, 1, 1];
  test("the darks' never lightens, the lights' never darkens; half the strength is half the way", () => {
    const lighter = [0.3, 0.28, 0.26, 1, 1, 1];
    const darker = [0, 0, 0, 0.7, 0.7, 0.72];
    for (const code of [0.05, 0.3, 0.6, 0.95]) {
      const before = grey(code);
      expect(light(throughTables(before, [table(lighter, { limit: "darks" })]))).toBeLessThanOrEqual(
        light(before) + 1e-9,
      );
      expect(light(throughTables(before, [table(darker, { limit: "lights" })]))).toBeGreaterThanOrEqual(
        light(before) - 1e-6,
      );
      expect(light(throughTables(before, [table(lighter)]))).toBeGreaterThan(light(before));
    }
    const whole = codes(throughTables(grey(0.5), [table(warm)]));
    const half = codes(throughTables(grey(0.5), [table(warm, { strength: 0.5 })]));
    half.forEach((v, c) => expect(v).toBeCloseTo((0.5 + whole[c]) / 2, 6));
  });
  test("a second one is laid on what the first has made, and their order matters", () => {
    const [first, second] = [table(warm), table([0, 0, 0, 0.2, 0.25, 0.4, 1, 1, 1], { id: "u", limit: "darks" })];
    const one = throughTables(grey(0.5), [first, second]);
    const other = throughTables(grey(0.5), [second, first]);
    expect(Math.abs(luminanceToLightness(light(one)) - luminanceToLightness(light(other)))).toBeGreaterThan(0.3);
  });
  test("a print is grey as long as its tables are", () => {
    const fresh = defaultRecipe().finish;
    expect(isGrey({ ...fresh, tables: [table([0, 0, 0, 1, 1, 1])] })).toBe(true);
    expect(isGrey({ ...fresh, tables: [table(warm)] })).toBe(false);
    expect(isGrey({ ...fresh, tables: [table(warm, { strength: 0 })] })).toBe(true);
  });
});
