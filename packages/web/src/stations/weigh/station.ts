import { FILM_LIGHTS, FILM_NAMES, FILTER_NAMES } from "@yelm/core";
import { rememberPage } from "../../controls/sheet-memory.ts";
import type { StationDef } from "../station.ts";
import { WEIGH_ACTS } from "./acts.ts";
import { WeighOverlay } from "./overlay.tsx";
import { WeighStation } from "./sheet.tsx";
import { StartingPoints } from "./starting-points.tsx";

const page = (name: string) => () => rememberPage("Weigh", name);
const ofFilm = (words: string) => (name: string) => ({ name, words, group: "Film and filter", reveal: page("film") });

export const weigh: StationDef = {
  name: "Weigh",
  Sheet: WeighStation,
  Overlay: WeighOverlay,
  hints: {
    family: "Drag up or down: the colours under the pointer become lighter or darker; U or Esc leaves it",
    "family pick": "Click a colour that should be moved by itself; Esc leaves it",
  },
  acts: WEIGH_ACTS,
  controls: [
    { name: "Families", words: "colours rungs lighter darker", group: "Families", reveal: page("families") },
    { name: "Red light", words: "weights", group: "Three weights", reveal: page("weights") },
    { name: "Green light", words: "weights", group: "Three weights", reveal: page("weights") },
    { name: "Blue light", words: "weights", group: "Three weights", reveal: page("weights") },
    { name: "Film and filter", words: "response spectra", group: "Film and filter", reveal: page("film") },
    ...FILM_NAMES.filter((name) => name !== "own").map(ofFilm("film")),
    ...FILTER_NAMES.filter((name) => name !== "own" && name !== "none").map(ofFilm("filter")),
    ...FILM_LIGHTS.map(ofFilm("light of the film")),
    { name: "Areas", words: "own conversion", group: "Areas", reveal: page("areas") },
    { name: "Neighbours", words: "merged part separation", group: "Neighbours" },
    { name: "Price", words: "noise edges clipping", group: "Price" },
    { name: "Hue and lightness", words: "reach softness map", group: "Hue and lightness" },
    { name: "Usual advice", words: "portrait landscape", group: "Usual advice" },
  ],
  Stage: StartingPoints,
};
