import { facts } from "../../keys/act-facts.ts";

export const SHAPE_STATION_ACTS = facts({
  "spot-pin": ["Shape", "Pin a spot and place it", "p"],
  "spot-done": ["Shape", "Leave the spots", "enter escape"],
  "spot-remove": ["Shape", "Take the spot away", "delete backspace"],
  openings: ["Shape", "Lay out ways to begin", "l"],
  "leave-openings": ["Shape", "Back from the ways to begin", "escape"],
  "show-spared": ["Shape", "Show what sharpening spares", "h", "held"],
  "show-ends": ["Shape", "Show what prints black or bare", "e", "held"],
});
