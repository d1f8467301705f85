import type { Histograms, PaletteColour, Recipe, Size, View } from "@yelm/core";

/** What is drawn: the print, the plain conversion it is compared with, or the negative's colours. */
export type PictureMode = "print" | "plain" | "colour";

/** What the page asks of a render worker. Every request is answered once, by its `id`. */
export type WorkerRequest =
  | { readonly kind: "open"; readonly id: number; readonly negativeId: string; readonly size: Size }
  | {
      readonly kind: "render";
      readonly id: number;
      readonly recipe: Recipe;
      readonly view: View;
      readonly mode: PictureMode;
    }
  | { readonly kind: "measure"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "palette"; readonly id: number; readonly recipe: Recipe }
  | { readonly kind: "probe"; readonly id: number; readonly recipe: Recipe; readonly x: number; readonly y: number };

/** The light and grey at one spot. */
export interface Probe {
  /** Scene light after weighing and light moves, 1.0 = sensor white. */
  readonly light: number;
  readonly reflectance: number;
}

export interface WorkerResults {
  open: null;
  /** RGBA, width·height·4. */
  render: Uint8Array<ArrayBuffer>;
  measure: Histograms;
  palette: PaletteColour[];
  probe: Probe;
}

export type WorkerAnswer =
  | { readonly id: number; readonly value: WorkerResults[keyof WorkerResults] }
  | { readonly id: number; readonly error: string };
