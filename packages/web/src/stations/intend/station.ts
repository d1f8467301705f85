import { MARK_KINDS } from "@yelm/core";
import type { StationDef } from "../station.ts";
import { INTEND_ACTS } from "./acts.ts";
import { MARKS, markTool } from "./mark-words.ts";
import { IntendOverlay } from "./overlay.tsx";
import { IntendStation } from "./sheet.tsx";

export const intend: StationDef = {
  name: "Intend",
  Sheet: IntendStation,
  Overlay: IntendOverlay,
  hints: Object.fromEntries(
    MARK_KINDS.map((kind) => [
      markTool(kind),
      `Draw a rough loop: ${MARKS[kind].name}. A click makes a circle; Esc lays the pen down`,
    ]),
  ),
  acts: INTEND_ACTS,
  controls: [
    { name: "What it is to say", words: "plan sentence intent purpose", group: "What it is to say" },
    { name: "Key", words: "plan low normal high", group: "What it is to say" },
    { name: "Marks", words: "plan subject bring up hold back keep detail", group: "Marks" },
    { name: "What is there", words: "reading of the capture range light", group: "What is there" },
  ],
};
