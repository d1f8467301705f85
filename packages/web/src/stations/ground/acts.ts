import { facts } from "../../keys/act-facts.ts";

export const GROUND_ACTS = facts({
  heal: ["Ground", "Heal", "m"],
  clone: ["Ground", "Clone", "shift+m"],
  dust: ["Ground", "Find dust", "z"],
  "dust-take": ["Ground", "It is dust: heal it", "y"],
  "dust-leave": ["Ground", "It is no dust: leave it", "d"],
  "clean-wider": ["Ground", "Wider", "w"],
  "clean-narrower": ["Ground", "Narrower", "q"],
  "clean-remove": ["Ground", "Take the mended place away", "delete backspace"],
  crop: ["Ground", "Crop", "x"],
  level: ["Ground", "Draw a level line", "a"],
  "slant-left": ["Ground", "Slant a tenth left", "alt+left"],
  "slant-right": ["Ground", "Slant a tenth right", "alt+right"],
  "turn-right": ["Ground", "Turn clockwise", ">"],
  "turn-left": ["Ground", "Turn anticlockwise", "<"],
  uprights: ["Ground", "Draw uprights", "shift+a"],
  "tool-done": ["Ground", "Leave the tool", "enter escape"],
  pick: ["Ground", "Pick a neutral", "v"],
  "colour-noise": ["Ground", "Colour noise of the file: smoothed, or as it is", ""],
  propose: ["Ground", "Take the exposure that is proposed", "j"],
});
