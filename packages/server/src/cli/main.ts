import { Command, InvalidArgumentError, Option } from "commander";
import { pino } from "pino";
import { AppError } from "../errors.ts";
import type { ImportOptions } from "./import.ts";
import type { JudgeOptions } from "./judge.ts";
import type { LightOptions } from "./light.ts";
import type { LookOptions } from "./look.ts";
import type { RenderOptions } from "./render.ts";
import type { ShapeOptions } from "./shape.ts";
import type { WeighOptions } from "./weigh.ts";

const EXIT_FAILED = 1;
const EXIT_USAGE = 2;

const wholeNumber = (text: string): number => {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0) throw new InvalidArgumentError("Expected a whole number.");
  return value;
};
const dataOption = () => new Option("--data <dir>", "data folder").env("YELM_DATA").default("data");

const program = new Command("yelm")
  .description("Black and white from colour captures, without the browser.")
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : EXIT_USAGE));

program
  .command("info")
  .description("what a capture is: size, CFA, levels, neutral, matrices, exposure")
  .argument("<file>")
  .option("--json", "as JSON")
  .action(async (file: string, options: { json?: boolean }) => (await import("./info.ts")).info(file, options));

program
  .command("recipe")
  .description("the default recipe, or the schema of recipes")
  .option("--default", "print the default recipe (the default)")
  .option("--schema", "print the JSON Schema")
  .action(async (options: { schema?: boolean }) => {
    const { defaultRecipe, recipeSchema } = await import("@yelm/core");
    console.log(JSON.stringify(options.schema ? recipeSchema : defaultRecipe(), null, 2));
  });

program
  .command("render")
  .description("a capture and a recipe to a TIFF, PNG or JPEG")
  .argument("<file>")
  .requiredOption("--recipe <file>", "recipe, JSON; - for the default")
  .requiredOption("--out <file>", ".tif, .png or .jpg")
  .option("--long-edge <px>", "scale down to this long edge", wholeNumber)
  .addOption(new Option("--encoding <name>", "code values").choices(["srgb", "gamma22", "lightness"]).default("srgb"))
  .option("--no-metadata", "leave out everything but the pixels and their profile")
  .option("--json", "print milliseconds for each stage and peak memory")
  .action(async (file: string, options: RenderOptions) => (await import("./render.ts")).render(file, options));

program
  .command("weigh")
  .description("the families of a capture's colours, what has merged and what it costs; and parting them")
  .argument("<file>")
  .option("--recipe <file>", "recipe, JSON; - for the default", "-")
  .option("--start <id>", "begin with a starting point, such as contrast or panchromatic/red")
  .option("--dice <seed>", "begin with a random conversion within bounds", wholeNumber)
  .option("--pin <family...>", "families that nothing moves")
  .option("--part <a,b>", "part two families by the smallest change")
  .option("--part-all", "part every merged pair of neighbours")
  .option("--zone <family=zone>", "bring a family to a zone")
  .option("--out <file>", "write the recipe with what was changed")
  .option("--json", "as JSON")
  .action(async (file: string, options: WeighOptions) => (await import("./weigh.ts")).weigh(file, options));

program
  .command("shape")
  .description("the key, ends and characteristic of a print; ways to begin with its tones; the capture's blur")
  .argument("<file>")
  .option("--recipe <file>", "recipe, JSON; - for the default", "-")
  .option("--opening <id>", "begin with an opening: flat, full, hard, low, high")
  .option("--measure-blur", "take the sharpening's radius from the picture's edges")
  .option("--out <file>", "write the recipe with what was changed")
  .option("--json", "as JSON")
  .action(async (file: string, options: ShapeOptions) => (await import("./shape.ts")).shape(file, options));

program
  .command("light")
  .description("the regions of a capture that stand ready, where its light comes from; a light move on a region")
  .argument("<file>")
  .option("--recipe <file>", "recipe, JSON; - for the default", "-")
  .option("--region <name>", "add a move on a region: sky, subject, even 1, …")
  .option("--stops <stops>", "stops of that move, -4 to 4", Number, -0.5)
  .option("--out <file>", "write the recipe with the move")
  .option("--json", "as JSON")
  .action(async (file: string, options: LightOptions) => (await import("./light.ts")).light(file, options));

program
  .command("look")
  .description("looks: a list of them, or one laid on a recipe and fitted to the capture")
  .argument("[file]")
  .option("--recipe <file>", "recipe, JSON; - for the default", "-")
  .option("--look <id>", "a look of ours, or the file of one")
  .option("--amount <percent>", "0 to 150", wholeNumber, 100)
  .option("--out <file>", "write the recipe")
  .option("--json", "as JSON")
  .action(async (file: string | undefined, options: LookOptions) => {
    if (options.amount > 150) throw new AppError("bad_request", "Expected --amount from 0 to 150.");
    await (await import("./look.ts")).look(file, options);
  });

program
  .command("judge")
  .description("a second look at a print: findings with their measure, and what would mend them")
  .argument("<file>")
  .option("--recipe <file>", "recipe, JSON; - for the default", "-")
  .option("--plan <file>", "plan of the print, JSON")
  .option("--json", "as JSON")
  .action(async (file: string, options: JudgeOptions) => (await import("./judge.ts")).judge(file, options));

program
  .command("import")
  .description("bring captures into a data folder")
  .addOption(dataOption())
  .option("--roll <title>", "roll to put them in; made when there is none of that title", "Imported")
  .option("--json", "print one JSON line for each file")
  .argument("<files...>")
  .action(async (files: string[], options: ImportOptions) => (await import("./import.ts")).importFiles(files, options));

program
  .command("archive")
  .description("a roll with its captures, prints and plans to a zip")
  .addOption(dataOption())
  .requiredOption("--roll <title>", "which roll")
  .requiredOption("--out <file>", ".zip")
  .action(async (options: { data: string; roll: string; out: string }) =>
    (await import("./along.ts")).takeAlong(options),
  );

program
  .command("open-archive")
  .description("bring a roll in from such a zip; what is here already stays as it is")
  .addOption(dataOption())
  .option("--json", "as JSON")
  .argument("<file>")
  .action(async (file: string, options: { data: string; json?: boolean }) =>
    (await import("./along.ts")).openAlong(file, options),
  );

program
  .command("sheet")
  .description("the sheet of a print as a PDF; with .json, the print as a file")
  .addOption(dataOption())
  .requiredOption("--roll <title>", "which roll")
  .requiredOption("--file <name>", "which capture of it")
  .option("--print <name>", "which print of that; the first when it is not given")
  .requiredOption("--out <file>", ".pdf or .json")
  .action(async (options: { data: string; roll: string; file: string; print?: string; out: string }) =>
    (await import("./along.ts")).printAlong(options),
  );

program
  .command("serve")
  .description("start Yelm on this machine")
  .addOption(dataOption())
  .addOption(new Option("--port <n>", "port").env("PORT").default(4480).argParser(wholeNumber))
  .addOption(new Option("--demo <dir>", "import the demo roll from here when there is no roll yet"))
  .action(async (options: { data: string; port: number; demo?: string }) => {
    const { serve } = await import("../serve.ts");
    const log = pino({ level: process.env.YELM_LOG ?? "warn" });
    const service = await serve({ ...options, log });
    const stop = () => void service.close().then(() => process.exit(0));
    process.once("SIGINT", stop).once("SIGTERM", stop);
    if (options.demo) {
      const { importDemo } = await import("../services/demo.ts");
      try {
        await importDemo(service.context, options.demo, (line) => console.log(line));
      } catch (error) {
        await service.close();
        throw error;
      }
    }
    console.log(`Yelm is at ${service.url}`);
  });

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof AppError) {
    console.error(`yelm: ${error.message}${error.detail.hint ? ` ${error.detail.hint}` : ""}`);
    process.exitCode = error.code === "bad_request" || error.code === "bad_recipe" ? EXIT_USAGE : EXIT_FAILED;
  } else {
    console.error(`yelm: ${error instanceof Error ? error.message : String(error)}`);
    process.exitCode = EXIT_FAILED;
  }
}
