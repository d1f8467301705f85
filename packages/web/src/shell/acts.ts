import { facts } from "../keys/act-facts.ts";

export const SHELL_ACTS = facts({
  "every-act": ["Go", "Every act", "k"],
  keys: ["Go", "List the keys", "?"],
  rolls: ["Go", "Go to rolls", "shift+r"],
  exports: ["Go", "Go to exports", "shift+e"],
  theme: ["Go", "Night or day bench", "shift+n"],
});
