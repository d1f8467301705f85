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
  hints: { contour: "Draw along the contour; the plan changes nothing until it is made moves; Esc leaves it" },
  acts: { ...TOOL_ACTS, ...SHAPE_ACTS, ...LIGHT_ACTS },
  controls: [
    { name: "Light moves", words: "dodge burn lift", group: "Light moves" },
    { name: "Stops", words: "lift burn dodge", group: "Light moves" },
    { name: "Grade", words: "contrast of a light move", group: "Effects of the move" },
    { name: "Local contrast", words: "of a light move", group: "Effects of the move" },
    { name: "Soften", words: "softness glow of a light move", group: "Effects of the move" },
    { name: "Follow edges", words: "edge-following mask", group: "Limits of the move" },
    { name: "Near edges", words: "limit of a light move", group: "Limits of the move" },
    {
      name: "Planes smoothed",
      words: "lit shaded planes guide contour plan direction of light splashes",
      group: "Guides",
    },
    { name: "Amount", words: "of a light move", group: "Light moves" },
  ],
};
