import { execFile } from "node:child_process";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import { drawChart, referenceCamera, shoot } from "@yelm/camera";
import { defaultRecipe, REC2020, type Recipe } from "@yelm/core";
import sharp from "sharp";

const YELM = fileURLToPath(new URL("../../bin/yelm.js", import.meta.url));
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), "yelm-cli-"));
  const camera = { ...referenceCamera(REC2020.fromXyz), hotPixels: 0 };
  await writeFile(
    join(folder, "grey.dng"),
    await shoot(drawChart("flat", 96, 64, 0.18), { camera, noise: false, neutral: [1, 1, 1] }),
  );
  await writeFile(join(folder, "patches.dng"), await shoot(drawChart("patches", 240, 160), { iso: 800 }));
  await writeFile(join(folder, "recipe.json"), JSON.stringify(defaultRecipe()));
});
afterAll(() => rm(folder, { recursive: true }));

function yelm(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  return new Promise((resolve) => {
    execFile(process.execPath, [YELM, ...args], { cwd: folder }, (error, out, err) =>
      resolve({ code: error ? Number(error.code ?? 1) : 0, out, err }),
    );
  });
}

test("info tells size, pattern, levels, neutral, matrices and exposure", async () => {
  const { code, out } = await yelm("info", "patches.dng", "--json");
  expect(code).toBe(0);
  const info = JSON.parse(out) as Record<string, unknown> & { neutral: number[] };
  expect(info).toMatchObject({
    width: 240,
    height: 160,
    cfa: "RGGB",
    black: [512, 512, 512, 512],
    white: 16383,
    iso: 800,
    fNumber: 8,
  });
  expect(info.calibrations).toHaveLength(2);
  expect(Math.max(...info.neutral)).toBe(1);
  expect((await yelm("info", "patches.dng")).out).toContain("ISO 800, 1/125 s, f/8, 40 mm");
});

test("recipe prints the default and the schema", async () => {
  expect(JSON.parse((await yelm("recipe", "--default")).out)).toEqual(defaultRecipe());
  expect(JSON.parse((await yelm("recipe", "--schema")).out)).toMatchObject({ $id: "yelm-recipe", type: "object" });
});

test("light adds a move on a region that stands ready; what there is not is told with what there is", async () => {
  const listed = await yelm("light", "patches.dng", "--json");
  const { regions } = JSON.parse(listed.out) as { regions: { name: string; share: number }[] };
  expect(regions.length).toBeGreaterThan(0);
  const [{ name }] = regions;
  const added = await yelm("light", "patches.dng", "--region", name, "--stops", "0.75", "--out", "lit.json");
  expect([added.code, added.err]).toEqual([0, ""]);
  const { light } = JSON.parse(await readFile(join(folder, "lit.json"), "utf8")) as Recipe;
  expect(light.moves.map(({ stops, shape }) => [stops, shape.kind])).toEqual([[0.75, "region"]]);
  const wrong = await yelm("light", "patches.dng", "--region", "ocean");
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining(name)]);
  expect((await yelm("light", "patches.dng", "--stops", "9")).code).toBe(2);
});

test("look lists the looks, lays one on by an amount, and refuses a file that is none", async () => {
  expect((await yelm("look")).out).toContain("old-print");
  const { code, out } = await yelm("look", "patches.dng", "--look", "gritty", "--amount", "50", "--out", "looked.json");
  expect([code, out]).toEqual([0, expect.stringContaining("Gritty at 50 %")]);
  const looked = JSON.parse(await readFile(join(folder, "looked.json"), "utf8")) as Recipe;
  expect(looked.finish.grain.granularity).toBe(15);
  const wrong = await yelm("look", "patches.dng", "--look", "recipe.json");
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining("kind")]);
});

describe("weigh", () => {
  interface Told {
    readonly families: readonly { name: string; share: number; stops: number; lightness: number }[];
    readonly merged: readonly { between: string[] }[];
    readonly solution: { reached: boolean; changes: unknown[]; left: string[][] } | null;
  }
  const told = async (...args: string[]) => {
    const { code, out, err } = await yelm("weigh", "patches.dng", "--json", ...args);
    expect([code, err]).toEqual([0, ""]);
    return JSON.parse(out) as Told;
  };

  test("tells the families, brings one to a zone, and writes a recipe that does it again", async () => {
    const { families } = await told();
    expect(families.length).toBeGreaterThan(3);
    expect(families.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 2);
    const [{ name }] = families;
    const solved = await told("--zone", `${name}=6`, "--out", "weighed.json");
    expect(solved.solution).toMatchObject({ reached: true });
    expect(Math.abs(solved.families[0].lightness - 60)).toBeLessThan(0.6);
    const again = await told("--recipe", "weighed.json");
    expect(again.families).toEqual(solved.families);
    const pinned = await told("--zone", `${name}=6`, "--pin", ...families.map((family) => family.name));
    expect(pinned.solution).toMatchObject({ reached: false, stoppedBy: "pinned", changes: [] });
  });

  test("parts all merged neighbours; the same dice give the same print; starting points by name", async () => {
    // Of a chart of thirteen colours not all can be parted within bounds: the worst are, and the rest is told.
    const [before, after] = [await told(), await told("--part-all")];
    const left = new Set(after.solution!.left.map((pair) => pair.join()));
    expect(after.merged.every(({ between }) => left.has(between.join()))).toBe(true);
    expect(left.size).toBeLessThan(before.merged.length);
    expect(after.merged.map(({ between }) => between)).not.toContainEqual(before.merged[0].between);
    expect(await told("--dice", "7")).toEqual(await told("--dice", "7"));
    const red = await told("--start", "panchromatic/red");
    expect(red.families.map(({ lightness }) => lightness)).not.toEqual((await told()).families.map((f) => f.lightness));
  });

  test.each([
    [["--part", "nobody,else"], /Expected a family but received “nobody”; there are /],
    [["--part", "one"], /two families, parted by a comma/],
    [["--zone", "x=12"], /a zone from 0 to 10/],
    [["--start", "x"], /Expected --start to be one of luminance, contrast/],
  ])("%j is refused with what was expected", async (args, message) => {
    const { code, err } = await yelm("weigh", "patches.dng", ...args);
    expect(code).toBe(2);
    expect(err).toMatch(message);
  });
});

describe("render", () => {
  test("local contrast, which looks at coarser levels, makes edges steeper and leaves the mean", async () => {
    await writeFile(join(folder, "edge.dng"), await shoot(drawChart("edge", 1400, 600), { noise: false }));
    const recipe = defaultRecipe();
    recipe.shape.localContrast = { low: 1, mid: 1, high: 1 };
    await writeFile(join(folder, "contrast.json"), JSON.stringify(recipe));
    const pixels = async (name: string) => {
      const { code, err } = await yelm("render", "edge.dng", "--recipe", name, "--out", `${name}.png`);
      expect([code, err]).toEqual([0, ""]);
      return sharp(join(folder, `${name}.png`))
        .raw({ depth: "ushort" })
        .toBuffer();
    };
    const values = (data: Buffer) => new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    const [plain, steep] = [values(await pixels("recipe.json")), values(await pixels("contrast.json"))];
    const mean = (v: Uint16Array) => v.reduce((sum, value) => sum + value, 0) / v.length;
    expect(plain.length).toBe(steep.length);
    expect(Math.abs(mean(steep) / mean(plain) - 1)).toBeLessThan(0.02);
    // Far from the edge nothing changes: a wrong tile would show there.
    const corner = (v: Uint16Array) => v[5 * 1400 + 5] / v[5 * 1400 + 1390];
    expect(corner(steep) / corner(plain)).toBeGreaterThan(0.97);
    expect(corner(steep) / corner(plain)).toBeLessThan(1.03);
    expect(Buffer.compare(Buffer.from(steep.buffer), Buffer.from(plain.buffer))).not.toBe(0);
  });

  test("an 18 % neutral is sRGB 117–118 in 8 bit and the same to a hundredth in 16", async () => {
    const { code, out } = await yelm("render", "grey.dng", "--recipe", "recipe.json", "--out", "grey.tif", "--json");
    expect(code).toBe(0);
    const report = JSON.parse(out) as { width: number; stages: Record<string, number>; peakMemoryMb: number };
    expect(report).toMatchObject({ width: 96, height: 64 });
    expect(Object.keys(report.stages)).toEqual(["unpackMs", "demosaicMs", "renderMs", "encodeMs"]);
    expect(report.peakMemoryMb).toBeGreaterThan(20);
    const { data } = await sharp(join(folder, "grey.tif"))
      .toColourspace("grey16")
      .raw({ depth: "ushort" })
      .toBuffer({ resolveWithObject: true });
    const codes = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    for (const code16 of codes) expect(Math.abs(code16 / 257 - 117.65)).toBeLessThan(0.3);
    await yelm("render", "grey.dng", "--recipe", "-", "--out", "grey.jpg");
    const { channels } = await sharp(join(folder, "grey.jpg")).stats();
    expect(Math.abs(channels[0].mean - 117.65)).toBeLessThan(0.6);
  });
  test("scales to a long edge", async () => {
    await yelm("render", "patches.dng", "--recipe", "-", "--out", "small.png", "--long-edge", "100");
    expect(await sharp(join(folder, "small.png")).metadata()).toMatchObject({
      width: 100,
      height: 67,
      depth: "ushort",
      channels: 1,
    });
  });
});

describe("messages and exit codes", () => {
  test.each([
    ["no such capture", ["render", "none.dng", "--recipe", "-", "--out", "x.tif"], 1, ""],
    [
      "a file name that says no format",
      ["render", "grey.dng", "--recipe", "-", "--out", "x.bmp"],
      2,
      "Expected --out to end in .tif, .png or .jpg",
    ],
    ["a recipe that is no JSON", ["render", "grey.dng", "--recipe", "grey.dng", "--out", "x.tif"], 2, "Expected JSON"],
    [
      "a long edge that is no number",
      ["render", "grey.dng", "--recipe", "-", "--out", "x.tif", "--long-edge", "wide"],
      2,
      "Expected a whole number",
    ],
    ["a missing option", ["render", "grey.dng"], 2, "--recipe"],
    ["an unknown command", ["paint"], 2, "unknown command"],
    ["a broken capture", ["info", "recipe.json"], 1, "Expected a raw file"],
  ])("%s", async (_name, args, code, message) => {
    const found = await yelm(...args);
    expect([found.code, found.err.includes(message)]).toEqual([code, true]);
    expect(found.err).not.toMatch(/\n\s+at /);
  });
  test("a recipe out of range names the field", async () => {
    await writeFile(
      join(folder, "wrong.json"),
      JSON.stringify({ ...defaultRecipe(), weigh: { ...defaultRecipe().weigh, red: 9 } }),
    );
    const { code, err } = await yelm("render", "grey.dng", "--recipe", "wrong.json", "--out", "x.tif");
    expect([code, err]).toEqual([2, expect.stringContaining("Expected at most 3 for weigh.red but received 9")]);
  });
});

test("import goes on after a file that fails, and reports each", async () => {
  await writeFile(join(folder, "broken.dng"), "no picture");
  const { code, out } = await yelm(
    "import",
    "--data",
    "data",
    "--json",
    "grey.dng",
    "broken.dng",
    "patches.dng",
    "grey.dng",
  );
  expect(code).toBe(1);
  const lines = out
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line) as { status: string });
  expect(lines.map(({ status }) => status)).toEqual(["imported", "failed", "imported", "duplicate"]);
  expect((await readFile(join(folder, "grey.dng"))).length).toBeGreaterThan(0);
});

test("a roll goes to an archive and comes back in another folder; a print goes to a sheet and to a file that renders", async () => {
  const done = async (...args: string[]) => {
    const { code, out, err } = await yelm(...args);
    expect([code, err]).toEqual([0, ""]);
    return out;
  };
  await done("import", "--data", "along", "--roll", "Along", "grey.dng");
  await done("archive", "--data", "along", "--roll", "Along", "--out", "along.zip");
  const came = JSON.parse(await done("open-archive", "--data", "back", "--json", "along.zip")) as object;
  expect(came).toEqual({ roll: "Along", negatives: 1, prints: 1, failed: [] });
  const print = ["--data", "back", "--roll", "Along", "--file", "grey.dng"];
  await done("sheet", ...print, "--out", "sheet.pdf");
  expect((await readFile(join(folder, "sheet.pdf"))).subarray(0, 5).toString()).toBe("%PDF-");
  await done("sheet", ...print, "--out", "print.json");
  await done("render", "grey.dng", "--recipe", "print.json", "--out", "from-file.png");
  const none = await yelm("archive", "--data", "back", "--roll", "Nothing", "--out", "none.zip");
  expect([none.code, none.err]).toEqual([2, expect.stringContaining("Expected a roll “Nothing”")]);
}, 120_000);
