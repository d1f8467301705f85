import type { Station } from "@yelm/core";
import { facts, type ActFacts } from "../keys/act-facts.ts";
import { stationNumber } from "../stations/stations.ts";

export const BENCH_ACTS = facts({
  verify: ["Picture", "Check that the capture is untouched", ""],
  undo: ["Print", "Undo", "mod+z"],
  redo: ["Print", "Redo", "mod+shift+z mod+y"],
  ticket: ["Bench", "Ticket", "t"],
  "print-new": ["Print", "New print of this negative", "n"],
  "print-copy": ["Print", "Duplicate this print", "shift+c"],
  "print-next": ["Print", "Next print", "."],
  "print-back": ["Print", "Print before", ","],
  "print-away": ["Print", "Put this print away", "shift+delete"],
  "parts-copy": ["Print", "Copy parts of this print", "mod+shift+c"],
  "parts-paste": ["Print", "Paste parts on this print", "mod+shift+v"],
  before: ["Picture", "Before: plain luminance", "b", "held"],
  colour: ["Picture", "The negative in colour", "c", "held"],
  fit: ["Picture", "Whole picture", "f"],
  full: ["Picture", "100 %", "g"],
  "step-back": ["Picture", "Step back: the picture small", "shift+f", "held"],
  "zones-only": ["Picture", "By zones: the picture in eleven greys", "alt+z", "held"],
  squint: ["Picture", "Squint: where the eye goes", "shift+s", "held"],
  "squint-stay": ["Picture", "Squint, and stay", ""],
  "plan-held": ["Picture", "The plan over the picture", "shift+z", "held"],
  loupe: ["Picture", "Loupe: 100 % about the pointer", "shift+g", "held"],
  nearer: ["Picture", "Nearer", "+ ="],
  farther: ["Picture", "Farther", "-"],
  "test-strip": ["Bench", "Test strip of the amount pointed at", "shift+t"],
  "leave-strip": ["Bench", "Back from the test strip", "escape"],
  surround: ["Bench", "Next surround", "s"],
});

/** Going to a station; its number is its key. */
export function stationAct(name: Station): ActFacts {
  return {
    id: `station-${name.toLowerCase()}`,
    group: "Stations",
    label: name,
    keys: String(stationNumber(name)),
    held: false,
  };
}
