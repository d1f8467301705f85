import { writeFile } from "node:fs/promises";
import { Command, InvalidArgumentError, Option } from "commander";
import { REC2020 } from "@yelm/core";
import { shootJpeg } from "./camera-jpeg.ts";
import { HALDEN_ONE, PATTERNS, referenceCamera } from "./camera.ts";
import { CHARTS, drawChart, type Chart } from "./charts.ts";
import { readScene, resizeScene, turnScene, type Scene } from "./scene.ts";
import { shoot, type ShotOptions } from "./shoot.ts";

const number = (text: string): number => {
  const value = Number(text);
  if (!Number.isFinite(value)) throw new InvalidArgumentError("Expected a number.");
  return value;
};

interface CliOptions extends Omit<ShotOptions, "camera"> {
  readonly out: string;
  readonly chart?: Chart;
  readonly width?: number;
  readonly height?: number;
  readonly bits: 12 | 14;
  readonly reference: boolean;
  readonly level: number;
  readonly turned: boolean;
  readonly quality: number;
}

const program = new Command("yelm-camera")
  .description("The simulated camera: photographs a scene of linear light, or a chart, into a DNG.")
  .argument("[scene]", "scene description (.json) or 16-bit linear TIFF/PNG")
  .requiredOption("-o, --out <file>", "DNG to write; .jpg for a camera's own JPEG")
  .addOption(new Option("--chart <name>", "a chart instead of a scene").choices([...CHARTS]))
  .option("--width <px>", "width of the chart, or scale the scene to it", number)
  .option("--height <px>", "height of the chart", number)
  .option("--level <light>", "light of the flat chart", number, 0.18)
  .option("--stops <n>", "exposure in stops", number, 0)
  .option("--iso <n>", "ISO setting", number, 100)
  .addOption(new Option("--bits <n>", "depth").choices(["12", "14"]).default("14"))
  .addOption(new Option("--pattern <cfa>", "Bayer pattern").choices([...PATTERNS]).default("RGGB"))
  .option("--turned", "camera held upright: turns the scene and states orientation 6", false)
  .option("--orientation <n>", "EXIF orientation", number, 1)
  .option("--fall-off-stops <n>", "light lost in the corners", number, 0)
  .option("--blur-px <n>", "lens blur", number, 0)
  .option("--distortion <k1>", "radial distortion", number, 0)
  .option("--dust <n>", "specks of dust on the sensor", number, 0)
  .option("--shutter-seconds <s>", "shutter time", number, 1 / 125)
  .option("--f-number <n>", "aperture", number, 8)
  .option("--taken-at <time>", "YYYY:MM:DD HH:MM:SS", "2026:10:24 16:05:00")
  .option("--quality <n>", "quality of a JPEG", number, 88)
  .option("--seed <n>", "seed of the noise", number, 1)
  .option("--no-noise", "no noise and no hot pixels")
  .option("--no-compress", "uncompressed")
  .option("--reference", "a camera whose channels are linear Rec.2020", false)
  .action(async (path: string | undefined, options: CliOptions) => {
    const opened = await openScene(path, options);
    const scene = options.turned ? turnScene(opened) : opened;
    if (options.out.endsWith(".jpg")) {
      await writeFile(
        options.out,
        await shootJpeg(scene, { ...options, stops: options.stops ?? 0, seed: options.seed ?? 1 }),
      );
      console.log(`${options.out}: ${scene.width}×${scene.height}`);
      return;
    }
    const base = options.reference ? referenceCamera(REC2020.fromXyz) : HALDEN_ONE;
    const bits = Number(options.bits) as 12 | 14;
    const camera = { ...base, bits, blackLevel: bits === 12 ? 128 : base.blackLevel };
    const { out, iso, stops, pattern, seed, fallOffStops, blurPx, distortion, dust, noise } = options;
    const { shutterSeconds, fNumber, takenAt, compress } = options;
    const orientation = options.turned ? 6 : options.orientation;
    const dng = await shoot(scene, {
      camera, iso, stops, pattern, seed, fallOffStops, blurPx, distortion, dust, noise,
      shutterSeconds, fNumber, takenAt, orientation, compress,
    }); // prettier-ignore
    await writeFile(out, dng);
    console.log(`${out}: ${scene.width}×${scene.height}, ISO ${iso}, ${(dng.length / 1048576).toFixed(2)} MiB`);
  });

async function openScene(path: string | undefined, { chart, width, height, level }: CliOptions): Promise<Scene> {
  if (chart) return drawChart(chart, width ?? 1200, height ?? 800, level);
  if (!path) throw new Error("Expected a scene or --chart but received neither.");
  const scene = await readScene(path);
  return width && width !== scene.width ? resizeScene(scene, width) : scene;
}

try {
  await program.parseAsync();
} catch (error) {
  console.error(`yelm-camera: ${error instanceof Error ? error.message : String(error)}`);
  process.exitCode = 1;
}
