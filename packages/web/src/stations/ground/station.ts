import type { StationDef } from "../station.ts";
import { GROUND_ACTS } from "./acts.ts";
import { GroundOverlay } from "./overlay.tsx";
import { GroundStation } from "./sheet.tsx";

export const ground: StationDef = {
  name: "Ground",
  Sheet: GroundStation,
  Overlay: GroundOverlay,
  hints: {
    pick: "Click something that should be neutral; V or Esc leaves it",
    level: "Draw along something that should be level or upright; Esc leaves it",
    uprights: "Draw along two uprights, one after the other; Esc leaves it",
    heal: "Click dust, or stroke along a scratch; drag a source to move it; Esc leaves it",
    clone: "Click or stroke over what should go; drag the source to what should stand there; Esc leaves it",
  },
  acts: GROUND_ACTS,
  controls: [
    { name: "Exposure", words: "brighter darker stops", group: "Light" },
    { name: "White", words: "white balance light lamp shade", group: "White" },
    { name: "Temperature", words: "white balance kelvin warm cold", group: "White" },
    { name: "Tint", words: "white balance green magenta", group: "White" },
    { name: "Follow", words: "white balance ease", group: "White" },
    { name: "Straighten", words: "slant angle level horizon", group: "Frame" },
    { name: "Frame", words: "crop ratio guides turn", group: "Frame" },
    { name: "Clean", words: "heal clone dust scratch radius", group: "Clean" },
    { name: "Corners", words: "lens fall-off", group: "Lens" },
    { name: "Bending", words: "lens distortion barrel pincushion", group: "Lens" },
    { name: "Uprights", words: "lens keystone converging", group: "Lens" },
    { name: "Levels", words: "lens keystone converging", group: "Lens" },
    { name: "Calm it", words: "noise", group: "Noise" },
    { name: "Capture", words: "camera file iso", group: "Capture" },
  ],
  // While the crop is drawn, all that could be kept is seen.
  shownWith: (recipe, tool) => (tool === "crop" ? { ...recipe, ground: { ...recipe.ground, crop: null } } : recipe),
};
