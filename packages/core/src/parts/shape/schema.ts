import { STRAIGHT_CURVE } from "../../maths/curve-points.ts";
import { Type, type Static } from "@sinclair/typebox";
import { SENSOR_WHITE_STOPS } from "../../colour/stops.ts";
import { choice, fraction, group, number, stableId } from "../../schema/fields.ts";
import { PLACE_RANGE } from "../../shapes/shape.ts";

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

export const detailSchema = group(
  {
    fine: number(-1, 2, 0, "gain", "Contrast of the finest detail, about a thousandth of the long edge wide."),
    middle: number(-1, 2, 0, "gain", "Contrast of what is wider, up to a hundredth of the long edge."),
    broad: number(-1, 1, 0, "gain", "Contrast of forms, up to a twentieth of the long edge; large steps stay."),
  },
  "Gain of detail about edge-keeping bases, by how wide it is. It multiplies the local contrast of the tone.",
);

export const scatterSchema = group(
  {
    glow: fraction(0, "Share of the light that is scattered widely: what is bright shines into what is beside it."),
    reach: number(0.004, 0.05, 0.015, "long edges", "How wide it is scattered: the standard deviation of its core."),
    softness: fraction(0, "Share of the light that is scattered narrowly: soft, with its edges kept."),
  },
  "Light scattered as by a soft lens, in linear light: none is lost.",
);

export const sharpeningSchema = group(
  {
    amount: number(0, 1.5, 0, "strength", "How much of the capture's own blur is undone; 0 is nothing."),
    radius: number(
      0.3,
      2.5,
      0.7,
      "pixels",
      "The capture's blur: the standard deviation of its spread, pixels of the negative.",
    ),
    sparing: fraction(0.5, "How clearly an edge must stand out of the noise to be sharpened."),
  },
  "Capture sharpening by deconvolution; smooth areas and noise are spared.",
);

const place = (description: string) =>
  Type.Number({ minimum: PLACE_RANGE.lowest, maximum: PLACE_RANGE.highest, description });

export const spotSchema = group(
  {
    id: stableId("Stays with the spot."),
    x: place("Long edges from the negative's left."),
    y: place("Long edges from the negative's top."),
    placed: Type.Boolean({ default: false, description: "Whether it is to print on its zone, or is only read." }),
    zone: number(0, 10, 5, "zones", "The zone it is placed on."),
  },
  "A spot of the picture that is read, and may be placed on a zone.",
);
export type ToneSpot = Static<typeof spotSchema>;

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
    detail: detailSchema,
    haze: number(-1, 1, 0, "strength", "Takes haze out (+) or lays it in (−), by how far away things look."),
    scatter: scatterSchema,
    sharpening: sharpeningSchema,
    openShadows: number(-1, 1, 0, "strength", "Opens (+) or closes (−) the shadows, their texture untouched."),
    holdHighlights: number(-1, 1, 0, "strength", "Holds (+) or lets go (−) the highlights, their texture untouched."),
    shoulder: fraction(0.45, "Softness of the dark end of a film-like curve."),
    paperWhite: number(
      0,
      0.5,
      0,
      "density",
      "Density of the bare paper: an aged or tinted paper is darker than white.",
    ),
    paperBlack: number(0.6, 3.3, 3.3, "density", "Density of the deepest black that the paper gives; 3.3 is black."),
    curve: Type.Array(Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 1 })]), {
      minItems: 2,
      maxItems: 16,
      default: STRAIGHT_CURVE,
      description: "Free curve: points (print lightness in, print lightness out), L*/100, x rising; monotone cubic.",
    }),
    spots: Type.Array(spotSchema, {
      maxItems: 24,
      noun: "spots",
      default: [],
      description: "Spots that stay with the print. The curve is what places them.",
    }),
    letBlack: Type.Boolean({ default: false, description: "What prints as the deepest black is meant to." }),
    letWhite: Type.Boolean({ default: false, description: "What prints as bare paper is meant to." }),
  },
  "Shape: the tone curve from light to print.",
);

export type Shape = Static<typeof shapeSchema>;
