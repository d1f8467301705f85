import type { StationDef } from "../station.ts";
import { SHAPE_ACTS } from "../../shapes/acts.ts";
import { TOOL_ACTS } from "../../shapes/shape-tools.ts";
import { LIGHT_ACTS } from "./acts.ts";
import { LightOverlay } from "./overlay.tsx";
import { LightStation } from "./sheet.tsx";

export const light: StationDef = {
  name: "Light",
  Sheet: LightStation,
  Overlay: LightOverlay,
  hints: {},
  acts: { ...TOOL_ACTS, ...SHAPE_ACTS, ...LIGHT_ACTS },
  controls: [
    { name: "Light moves", words: "dodge burn lift", group: "Light moves" },
    { name: "Stops", words: "lift burn dodge", group: "Light moves" },
    { name: "Amount", words: "of a light move", group: "Light moves" },
  ],
};
