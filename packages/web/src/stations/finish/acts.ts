import { facts } from "../../keys/act-facts.ts";

export const FINISH_ACTS = facts({
  "tone-flip": ["Finish", "Tone off and on", "x"],
  wall: ["Finish", "The wall: looks on this picture", "l"],
  "keep-look": ["Finish", "Keep as a look", "shift+l"],
  "print-distance": ["Finish", "As a print on paper seen from half a metre", "shift+x"],
  "leave-wall": ["Finish", "Back from the wall", "escape"],
});
