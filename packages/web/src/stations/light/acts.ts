import { facts } from "../../keys/act-facts.ts";

export const LIGHT_ACTS = facts({
  less: ["Light", "A little darker", "["],
  more: ["Light", "A little lighter", "]"],
  halve: ["Light", "Halve the move", "h"],
  opposite: ["Light", "Opposite of the move", "o"],
  invert: ["Light", "Inside or outside", "i"],
  "duplicate-move": ["Light", "Duplicate the move", "shift+d"],
  "remove-move": ["Light", "Take the move away", "delete backspace"],
});
