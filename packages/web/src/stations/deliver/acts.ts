import { facts } from "../../keys/act-facts.ts";

export const DELIVER_ACTS = facts({
  write: ["Deliver", "Write the file", "mod+enter"],
  "print-sheet": ["Deliver", "Print sheet, PDF", "mod+shift+enter"],
});
