import type { StationDef } from "../station.ts";
import { DELIVER_ACTS } from "./acts.ts";
import { DeliverStation } from "./sheet.tsx";

export const deliver: StationDef = {
  name: "Deliver",
  Sheet: DeliverStation,
  Overlay: null,
  hints: {},
  acts: DELIVER_ACTS,
  controls: [
    { name: "File", words: "tiff png jpeg format export", group: "File" },
    { name: "Size", words: "long edge pixels export", group: "Size" },
    { name: "Coding", words: "srgb gamma profile export", group: "Coding" },
    { name: "Name", words: "file name pattern export", group: "Name" },
  ],
};
