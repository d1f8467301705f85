import type { StationDef } from "../station.ts";
import { SHAPE_STATION_ACTS } from "./acts.ts";
import { ShapeStationOverlay } from "./overlay.tsx";
import { Openings } from "./openings.tsx";
import { ShapeStation } from "./sheet.tsx";

export const shape: StationDef = {
  name: "Shape",
  Sheet: ShapeStation,
  Overlay: ShapeStationOverlay,
  hints: {
    spot: "Click to pin a spot. Pull it up or down to place it, or type its zone: 0 to 9, X.",
  },
  acts: SHAPE_STATION_ACTS,
  Stage: Openings,
  controls: [
    { name: "Black point", words: "blacks darks end", group: "Points and grade" },
    { name: "White point", words: "whites lights end", group: "Points and grade" },
    { name: "Mid point", words: "middle grey", group: "Points and grade" },
    { name: "Grade", words: "contrast", group: "Points and grade" },
    { name: "Spots", words: "place placing zone pin pinned tone", group: "Spots" },
    { name: "Open shadows", words: "lift darks compress range", group: "Open and hold" },
    { name: "Hold highlights", words: "lights compress range", group: "Open and hold" },
    { name: "Fine detail", words: "scale small texture", group: "Local contrast" },
    { name: "Middle detail", words: "scale", group: "Local contrast" },
    { name: "Broad forms", words: "scale large", group: "Local contrast" },
    { name: "Haze", words: "mist fog air distance", group: "Haze and glow" },
    { name: "Glow", words: "bloom scatter halation", group: "Haze and glow" },
    { name: "Softness", words: "soft lens scatter", group: "Haze and glow" },
    { name: "Sharpening", words: "capture deconvolution blur radius", group: "Capture sharpening" },
    { name: "Characteristic", words: "film paper toe shoulder gamma density", group: "Characteristic" },
    { name: "Paper white", words: "Dmin base aged", group: "Characteristic" },
    { name: "Paper black", words: "Dmax lifted faded", group: "Characteristic" },
    { name: "Low tones", words: "local contrast shadows", group: "Local contrast" },
    { name: "Mid tones", words: "local contrast", group: "Local contrast" },
    { name: "High tones", words: "local contrast highlights", group: "Local contrast" },
    { name: "Curve", words: "free curve points", group: "Characteristic" },
  ],
};
