import { GRAIN_FORMATS, GRAIN_STARTS, TONERS } from "@yelm/core";
import type { StationDef } from "../station.ts";
import { FINISH_ACTS } from "./acts.ts";
import { FinishStation } from "./sheet.tsx";
import { Wall } from "./wall.tsx";

export const finish: StationDef = {
  name: "Finish",
  Sheet: FinishStation,
  Overlay: null,
  hints: {},
  acts: FINISH_ACTS,
  Stage: Wall,
  controls: [
    { name: "Granularity", words: "grain", group: "Grain" },
    { name: "Halation", words: "film highlights scatter glow", group: "Grain" },
    { name: "Old glass", words: "lens corners softness plate process", group: "Grain" },
    { name: "Crystal size", words: "grain clumps", group: "Grain" },
    ...GRAIN_FORMATS.map((name) => ({ name, words: "film format of the grain", group: "Grain" })),
    ...TONERS.filter((name) => name !== "none").map((name) => ({ name, words: "toner toning tone", group: "Tone" })),
    { name: "Tone", words: "toning toner strength balance", group: "Tone" },
    { name: "Second bath", words: "toner toning sequence", group: "Tone" },
    { name: "Tone the darks", words: "toning hue cold", group: "Tone" },
    { name: "Tone the lights", words: "toning hue warm", group: "Tone" },
    { name: "Tone the paper", words: "tint base", group: "Tone" },
    { name: "Tables", words: "cube colour table file lut tone", group: "Tables" },
    { name: "Output sharpening", words: "sharpen paper screen size distance", group: "Output sharpening" },
    { name: "Looks", words: "wall manner style saved", group: "Looks" },
    ...GRAIN_STARTS.map(({ name }) => ({ name, words: "film grain", group: "Grain" })),
    { name: "Faded", words: "wear old print", group: "Wear" },
    { name: "Edges faded", words: "wear old print yellowed", group: "Wear" },
    { name: "Border", words: "frame edge white black", group: "Border and mat" },
    { name: "Mat", words: "mount passe-partout caption text room", group: "Border and mat" },
    { name: "Edge burn", words: "corners darkening", group: "Edges" },
    { name: "Begins at", words: "edge burn start", group: "Edges" },
    { name: "Roundness", words: "edge burn", group: "Edges" },
  ],
};
