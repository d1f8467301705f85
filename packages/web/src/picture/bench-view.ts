import { createStore } from "zustand/vanilla";
import type { DustPlace, Join, Probe, Recipe, RegionShape } from "@yelm/core";
import type { PictureMode } from "../workers/questions.ts";
import { FIT, type Zoom } from "./placement.ts";

/** What the hand is doing on the picture: "look", the name of a shape that is drawn, or a tool of a station's own. */
export type Tool = string;

/** Lines over the crop that help to compose. */
export const GUIDES = ["thirds", "diagonals", "centre", "none"] as const;
export type Guide = (typeof GUIDES)[number];

/** What the pointer is over. */
export interface Spot extends Probe {
  /** Pane place, CSS pixels. */
  readonly x: number;
  readonly y: number;
  /** The same in full-size pixels of the frame. */
  readonly frameX: number;
  readonly frameY: number;
}

/** An amount that a test strip can be made of. */
export interface AmountInHand {
  readonly label: string;
  /** As it stands at present. */
  readonly now: () => AmountNow;
}

export interface AmountNow {
  readonly value: number;
  readonly range: { readonly minimum: number; readonly maximum: number };
  readonly step: number;
  readonly format: (value: number) => string;
  readonly onChange: (value: number) => void;
  readonly onEnd: () => void;
}

/** State of the bench that is not part of the print. */
export interface BenchView {
  readonly zoom: Zoom;
  /** Device pixels per picture pixel at present, whatever `zoom` says. */
  readonly scale: number;
  readonly mode: PictureMode;
  readonly tool: Tool;
  readonly moveId: string | null;
  readonly spot: Spot | null;
  readonly ticketOpen: boolean;
  readonly guide: Guide;
  /** The mended place that is being looked at. */
  readonly cleanId: string | null;
  /** Radius of new mended places, long edges. */
  readonly cleanRadius: number;
  /** Places that may be dust, and the one that is asked about. */
  readonly dust: readonly DustPlace[];
  readonly dustIndex: number;
  /** The family that is looked at, and one that is held beside it; by id, "neutral" for neutrals. */
  readonly familyId: string | null;
  readonly besideId: string | null;
  /** What is pointed at: families that light up in the picture, or two whose common edge does. */
  readonly pointed: readonly string[];
  /** The family under the pointer in the picture; by id, "neutral" for neutrals. */
  readonly under: string | null;
  /** A shape that is pointed at in its list, and whether all are shown at present. */
  readonly pointedShape: string | null;
  readonly allShapes: boolean;
  /** How the next shape is laid onto the one in hand; null makes something new. */
  readonly laying: Join | null;
  /** Of several shapes that act as one, the one in hand. */
  readonly partId: string | null;
  /** A region that is offered and pointed at. */
  readonly offered: RegionShape | null;
  /** Whether areas are shown on the picture, and the one that is looked at. */
  readonly areasOpen: boolean;
  readonly areaId: string | null;
  /** What is seen instead of the print while the pointer rests on an act that would make it so. */
  readonly tried: Recipe | null;
  /** The pinned spot in hand. */
  readonly spotId: string | null;
  /** The mark of the plan in hand. */
  readonly markId: string | null;
  /** Whether the plan is held over the picture. */
  readonly planHeld: boolean;
  /** The finding that is pointed at. */
  readonly findingId: string | null;
  /** Whether the picture is seen small, as from a step back. */
  readonly stepBack: boolean;
  /** Whether the picture is seen in the eleven greys of its zones. */
  readonly byZones: boolean;
  /** The pen of the contour plan: whether it lifts. */
  readonly pen: boolean;
  readonly planShown: boolean;
  /** How much detail is left out while lit planes are shown, 0–1. */
  readonly smoothing: number;
  /** Where light comes from, degrees clockwise from the right on the flat picture, while it is told of. */
  readonly lightAngle: number | null;
  /** Whether the print is seen as by squinting eyes. */
  readonly squint: boolean;
  /** Whether the burn map is held. */
  readonly burnMap: boolean;
  /** The zone that is held on the ladder. */
  readonly zone: number | null;
  /** Which end of the scale is shown by what it clips. */
  readonly ends: "black" | "white" | "both" | null;
  /** Whether what sharpening spares is shown. */
  readonly spared: boolean;
  /** What is laid out to choose from where the picture is: the station's ways to begin, or a test strip of amounts. */
  readonly laidOut: "starts" | "strip" | null;
  /** The amounts of the test strip: one in a row, or two in a grid. */
  readonly stripOf: readonly AmountInHand[];
  /** How far the brush lags behind a shaky hand, 0–0.95 of each step. */
  readonly steadiness: number;
  readonly brush: {
    readonly radius: number;
    readonly softness: number;
    readonly flow: number;
    readonly erase: boolean;
  };
}

const START: BenchView = {
  zoom: FIT,
  scale: 1,
  mode: "print",
  tool: "look",
  moveId: null,
  spot: null,
  ticketOpen: false,
  guide: "thirds",
  cleanId: null,
  cleanRadius: 0.01,
  dust: [],
  dustIndex: 0,
  familyId: null,
  besideId: null,
  pointed: [],
  under: null,
  pointedShape: null,
  allShapes: false,
  laying: null,
  partId: null,
  offered: null,
  areasOpen: false,
  areaId: null,
  tried: null,
  spotId: null,
  markId: null,
  planHeld: false,
  findingId: null,
  stepBack: false,
  byZones: false,
  pen: true,
  planShown: false,
  smoothing: 0.7,
  lightAngle: null,
  squint: false,
  burnMap: false,
  zone: null,
  ends: null,
  spared: false,
  laidOut: null,
  stripOf: [],
  steadiness: 0,
  brush: { radius: 0.07, softness: 1, flow: 0.25, erase: false },
};

export const benchView = createStore<BenchView>(() => START);

/** A new negative starts from the whole picture. */
export function resetBenchView(): void {
  const { brush, steadiness, guide, cleanRadius } = benchView.getState();
  benchView.setState({ ...START, brush, steadiness, guide, cleanRadius });
}
