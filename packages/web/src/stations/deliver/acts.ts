import { facts } from "../../keys/act-facts.ts";

export const DELIVER_ACTS = facts({
  write: ["Deliver", "Write the file", "mod+enter"],
});
