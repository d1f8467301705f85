import { Type, type Static } from "@sinclair/typebox";
import { choice, fraction, group, number } from "../../schema/fields.ts";

export const TONERS = ["none", "sepia", "selenium", "copper", "coffee", "blue"] as const;

export const GRAIN_FORMATS = ["half frame", "small", "medium", "large"] as const;

export const finishSchema = group(
  {
    grain: group(
      {
        granularity: number(0, 60, 0, "1000·σ(D)", "RMS granularity at D 1.0 through a 48 µm aperture; 0 is off."),
        crystalUm: number(0.5, 20, 6, "µm", "Size of the silver clumps on film."),
        format: choice(GRAIN_FORMATS, "small", "Film format: long edge 24, 36, 56 or 127 mm."),
        seed: Type.Integer({ minimum: 0, maximum: 2147483647, default: 1, description: "Which piece of film." }),
      },
      "Grain of the film.",
    ),
    toning: group(
      {
        toner: choice(TONERS, "none", "Toner whose hue is simulated."),
        strength: fraction(0.5, "Depth of the tone."),
        balance: number(-1, 1, 0, "fraction", "−1 tones the darks only, +1 the lights only, 0 all."),
      },
      "Toning by density at constant lightness.",
    ),
    edgeBurn: group(
      {
        stops: number(-2, 1, 0, "stops", "Burn (−) or lift (+) in the corners."),
        start: fraction(0.5, "Where it begins between centre (0) and corner (1)."),
        roundness: fraction(0.6, "0 follows the edges, 1 is round."),
      },
      "Burned-in edges, from the cropped frame.",
    ),
  },
  "Finish: grain, tone and edges.",
);

export type Finish = Static<typeof finishSchema>;
export type Grain = Finish["grain"];
export type Toning = Finish["toning"];
export type Toner = (typeof TONERS)[number];
export type GrainFormat = (typeof GRAIN_FORMATS)[number];
