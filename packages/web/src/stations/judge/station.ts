import type { StationDef } from "../station.ts";
import { JUDGE_ACTS } from "./acts.ts";
import { JudgeOverlay } from "./overlay.tsx";
import { JudgeStation } from "./sheet.tsx";

export const judge: StationDef = {
  name: "Judge",
  Sheet: JudgeStation,
  Overlay: JudgeOverlay,
  hints: {},
  acts: JUDGE_ACTS,
  controls: [
    { name: "Second look", words: "findings faults clipping halo noise lean merged", group: "Second look" },
    { name: "The eye", words: "pulls subject squint contrast", group: "The eye" },
    { name: "Compare", words: "before after wipe side by side difference", group: "Compare" },
    { name: "States", words: "named state history return", group: "States" },
  ],
};
