import { Type, type Static } from "@sinclair/typebox";
import { SENSOR_WHITE_STOPS } from "../../colour/stops.ts";
import { choice, fraction, group, number } from "../../schema/fields.ts";

/** The black point that leaves the darkest light alone. */
export const DEEPEST_BLACK_STOPS = -12;

export const localContrastSchema = group(
  {
    low: number(-1, 2, 0, "gain", "Local contrast of what is darker than a stop below Zone V; −1 removes it."),
    mid: number(-1, 2, 0, "gain", "Local contrast of the middle."),
    high: number(-1, 2, 0, "gain", "Local contrast of what is lighter than a stop above Zone V."),
  },
  "Gain of the detail about an edge-keeping base, by the tone of the base.",
);

export const shapeSchema = group(
  {
    blackPoint: number(DEEPEST_BLACK_STOPS, 0, DEEPEST_BLACK_STOPS, "stops", "Light that prints black, from Zone V."),
    whitePoint: number(
      0.25,
      8,
      SENSOR_WHITE_STOPS,
      "stops",
      "Light that is paper white at grade 2 on the straight characteristic, from Zone V; a softer grade or film's shoulder prints it darker, a harder grade lighter light too.",
    ),
    midPoint: number(-2, 2, 0, "stops", "Lifts (+) or lowers (−) middle grey, ends fixed."),
    grade: number(0, 5, 2, "grade", "Contrast about middle grey; 2 is normal."),
    characteristic: choice(["straight", "film"], "straight", "Straight, or film-like with toe and shoulder."),
    toe: fraction(0.35, "Softness of the light end of a film-like curve."),
    localContrast: localContrastSchema,
    shoulder: fraction(0.45, "Softness of the dark end of a film-like curve."),
    curve: Type.Array(Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 1 })]), {
      minItems: 2,
      maxItems: 16,
      default: [
        [0, 0],
        [1, 1],
      ],
      description: "Free curve: points (print lightness in, print lightness out), L*/100, x rising; monotone cubic.",
    }),
  },
  "Shape: the tone curve from light to print.",
);

export type Shape = Static<typeof shapeSchema>;
