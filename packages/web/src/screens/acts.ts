import { facts } from "../keys/act-facts.ts";

export const SCREEN_ACTS = facts({
  "bring-in": ["Roll", "Bring in files", "i"],
  "bring-folder": ["Roll", "Bring in a folder", "shift+i"],
  card: ["Roll", "The card and its camera", "l"],
  "colour-sheet": ["Roll", "Negatives in colour", "c", "held"],
  "rate-none": ["Roll", "Take the rating away", "u"],
  "frame-left": ["Roll", "Frame before", "left"],
  "frame-right": ["Roll", "Next frame", "right"],
  "frame-up": ["Roll", "Frame above", "up"],
  "frame-down": ["Roll", "Frame below", "down"],
  "frame-choose": ["Roll", "Choose this frame", "space"],
  "choose-all": ["Roll", "Choose all shown", "mod+a"],
  "choose-none": ["Roll", "Choose none", "escape"],
  "frame-open": ["Roll", "Open this frame", "enter"],
  "parts-paste-many": ["Roll", "Paste parts on the chosen frames", "mod+shift+v"],
  "new-roll": ["Roll", "New roll", "n"],
  "rate-keep": ["Roll", "Keep", "y"],
  "rate-maybe": ["Roll", "Maybe", "m"],
  "rate-no": ["Roll", "No", "d"],
  "put-away": ["Roll", "Put away", "delete backspace"],
});
