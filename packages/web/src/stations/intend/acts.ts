import { facts } from "../../keys/act-facts.ts";

export const INTEND_ACTS = facts({
  "mark-subject": ["Intend", "Mark the subject", "v"],
  "mark-bring-up": ["Intend", "Mark: bring up", "u"],
  "mark-hold-back": ["Intend", "Mark: hold back", "d"],
  "mark-keep-detail": ["Intend", "Mark: must keep detail", "e"],
  "mark-may-go-black": ["Intend", "Mark: may go black", "shift+u"],
  "mark-may-go-white": ["Intend", "Mark: may go white", "shift+w"],
  "mark-done": ["Intend", "Lay the pen down", "escape"],
  "mark-remove": ["Intend", "Take the mark away", "delete backspace"],
  "intend-on": ["Intend", "On to Ground", "enter"],
});
