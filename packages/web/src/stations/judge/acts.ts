import { facts } from "../../keys/act-facts.ts";

export const JUDGE_ACTS = facts({
  "judge-mend-eye": ["Judge", "Bring the subject first", "m"],
  "judge-wipe": ["Judge", "Wipe", "w"],
  "judge-beside": ["Judge", "Side by side", "d"],
  "judge-difference": ["Judge", "Difference in stops", "i"],
  "judge-one": ["Judge", "The print alone", "escape"],
  "state-name": ["Judge", "Name this state", "shift+a"],
});
