import type { StationDef } from "../station.ts";
import { ShapeStation } from "./sheet.tsx";

export const shape: StationDef = {
  name: "Shape",
  Sheet: ShapeStation,
  Overlay: null,
  hints: {},
  acts: {},
  controls: [
    { name: "Black point", words: "blacks darks end", group: "Points and grade" },
    { name: "White point", words: "whites lights end", group: "Points and grade" },
    { name: "Mid point", words: "middle grey", group: "Points and grade" },
    { name: "Grade", words: "contrast", group: "Points and grade" },
    { name: "Characteristic", words: "film-like straight toe shoulder", group: "Characteristic" },
    { name: "Low tones", words: "local contrast shadows", group: "Local contrast" },
    { name: "Mid tones", words: "local contrast", group: "Local contrast" },
    { name: "High tones", words: "local contrast highlights", group: "Local contrast" },
    { name: "Curve", words: "free curve points", group: "Curve" },
  ],
};
