import { facts } from "../../keys/act-facts.ts";

export const WEIGH_ACTS = facts({
  "family-move": ["Weigh", "Move families on the picture", "u"],
  "family-pick": ["Weigh", "Pick a family from the picture", "y"],
  "families-still": ["Weigh", "Put all families back to 0", ""],
  "leave-starting-points": ["Weigh", "Back from the starting points", "escape"],
  dice: ["Weigh", "Throw dice for a conversion", "d"],
  plain: ["Weigh", "Plain luminance", "shift+l"],
  "starting-points": ["Weigh", "Lay out starting points", "l"],
  "weigh-done": ["Weigh", "Leave the tool", "enter escape"],
});
