import type {
  CaptureInfo,
  CleanSpot,
  ClippingCost,
  ColourCell,
  EdgeDamage,
  EdgePlace,
  ExposureProposal,
  FallOff,
  Family,
  FamilyMap,
  FilmResponse,
  Goal,
  Histograms,
  Recipe,
  Seam,
  Size,
  Solution,
  StartingPoint,
  TilePlace,
  Vector3,
  View,
  WeightSolution,
  ZoneShift,
} from "@yelm/core";

/** What is drawn: the print, the plain conversion it is compared with, or the negative's colours. */
export type PictureMode = "print" | "plain" | "colour";

/** What the page asks of a render worker. Every request is answered once, by its `id`. */
export type WorkerRequest =
  | {
      readonly kind: "open";
      readonly id: number;
      readonly size: Size;
      readonly capture: CaptureInfo;
      /** Slots of 1 MiB to begin with; fewer are taken when memory is short. */
      readonly slots: number;
      /** Leads to the tile worker. */
      readonly tiles: MessagePort;
    }
  | {
      readonly kind: "render";
      readonly id: number;
      readonly recipe: Recipe;
      readonly view: View;
      readonly mode: PictureMode;
      /** Memory to write into, handed back with the answer; it may be too small. */
      readonly memory: ArrayBuffer;
    }
  /** A new way to the tile worker, after the old one died; not answered. */
  | { readonly kind: "feed"; readonly id: 0; readonly tiles: MessagePort }
  /** The whole print, small. */
  | { readonly kind: "sketch"; readonly id: number; readonly recipe: Recipe; readonly longEdge: number }
  | { readonly kind: "prefetch"; readonly id: number; readonly recipe: Recipe; readonly view: View }
  | { readonly kind: "measure"; readonly id: number; readonly recipe: Recipe }
  /** The picture's colours, seen through the recipe's families or through those found in it. */
  | { readonly kind: "colours"; readonly id: number; readonly recipe: Recipe }
  /** What the recipe's film sees of every colour. */
  | { readonly kind: "film"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "solve"; readonly id: number; readonly recipe: Recipe; readonly goal: Goal }
  /** The nearest weights that part two groups, by their indices. */
  | {
      readonly kind: "partByWeights";
      readonly id: number;
      readonly recipe: Recipe;
      readonly first: number;
      readonly second: number;
    }
  | { readonly kind: "startingPoints"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "dice"; readonly id: number; readonly recipe: Recipe; readonly seed: number }
  | { readonly kind: "clipping"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "edgePlaces"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "edge"; readonly id: number; readonly recipe: Recipe; readonly place: EdgePlace }
  | { readonly kind: "seam"; readonly id: number; readonly recipe: Recipe; readonly index: number }
  /** The colour of a spot as shot, before white balance and exposure. */
  | { readonly kind: "pick"; readonly id: number; readonly recipe: Recipe; readonly x: number; readonly y: number }
  | { readonly kind: "probe"; readonly id: number; readonly recipe: Recipe; readonly x: number; readonly y: number }
  /** What white balance does to the zones, and the exposure that suits the picture. */
  | { readonly kind: "ground"; readonly id: number; readonly recipe: Recipe; readonly headroomStops: number }
  | { readonly kind: "fallOff"; readonly id: number; readonly recipe: Recipe }
  /** Where a spot is best mended from. */
  | { readonly kind: "healSource"; readonly id: number; readonly recipe: Recipe; readonly spot: CleanSpot }
  | { readonly kind: "dust"; readonly id: number; readonly recipe: Recipe };

/** A place that looks like dust, in long edges from the negative's top left. */
export interface DustPlace {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
}

/** What a picture is made of. */
export interface PictureColours {
  readonly families: readonly Family[];
  readonly map: FamilyMap;
  /** The commonest colours. */
  readonly cells: readonly ColourCell[];
}

/** The light and grey at one spot. */
export interface Probe {
  /** Scene light after weighing and light moves, 1.0 = sensor white. */
  readonly light: number;
  readonly reflectance: number;
}

/** A rendered view. */
export interface RenderedPiece {
  /** Begins with RGBA, width·height·4. */
  readonly memory: ArrayBuffer;
  /** Milliseconds of computing, without waiting for tiles. */
  readonly computeMs: number;
}

/** A small picture, RGBA. */
export interface Sketch extends Size {
  readonly memory: ArrayBuffer;
}

export interface WorkerResults {
  /** Slots that could be had. */
  open: number;
  render: RenderedPiece;
  sketch: Sketch;
  prefetch: null;
  measure: Histograms;
  colours: PictureColours;
  film: FilmResponse;
  solve: Solution;
  partByWeights: WeightSolution;
  startingPoints: readonly StartingPoint[];
  dice: Recipe["weigh"];
  clipping: ClippingCost;
  edgePlaces: readonly EdgePlace[];
  edge: EdgeDamage | null;
  seam: Seam | null;
  probe: Probe;
  pick: Vector3;
  ground: { readonly trace: readonly ZoneShift[]; readonly proposal: ExposureProposal };
  fallOff: FallOff;
  healSource: { readonly sourceX: number; readonly sourceY: number };
  dust: readonly DustPlace[];
}

export type WorkerAnswer =
  | { readonly id: number; readonly value: WorkerResults[keyof WorkerResults] }
  | { readonly id: number; readonly error: string };

/** What the page tells the tile worker: which negative, and one port for each render worker. */
export type TileWorkerSetup =
  | { readonly kind: "negative"; readonly negativeId: string; readonly limitBytes: number }
  | { readonly kind: "port"; readonly port: MessagePort };

/** What a render worker asks for: tiles to use now, or tiles that may soon be wanted (not answered). */
export interface TileRequest {
  readonly id: number;
  readonly places: readonly TilePlace[];
  readonly soon?: boolean;
}

/** Tiles in the order asked for, in memory that all workers share where the browser allows it. */
export type TileAnswer =
  | { readonly id: number; readonly tiles: readonly (SharedArrayBuffer | ArrayBuffer)[] }
  | { readonly id: number; readonly error: string };
