import { Type, type Static } from "@sinclair/typebox";
import { KELVIN_RANGE } from "../../colour/temperature.ts";
import { choice, fraction, group, number, stableId, switchedOn } from "../../schema/fields.ts";

export const cropSchema = group(
  {
    centreX: number(-1, 1, 0, "long edges", "Centre, right of the negative's centre."),
    centreY: number(-1, 1, 0, "long edges", "Centre, below the negative's centre."),
    width: number(0.01, 2, 1, "long edges", "Width."),
    height: number(0.01, 2, 1, "long edges", "Height."),
  },
  "Rectangle kept, in the straightened frame, in lengths of the negative's long edge.",
);

export const whiteBalanceSchema = group(
  {
    mode: choice(["as shot", "set"], "as shot", "The camera's own balance, or the light given here."),
    kelvin: number(KELVIN_RANGE.lowest, KELVIN_RANGE.highest, 5500, "K", "Temperature of the light taken for white."),
    tint: number(-60, 60, 0, "thousandths", "Off the locus; + for greenish light, which makes the picture magenta."),
    follow: number(0, 1, 1, "fraction", "How far to go from the temperature as shot to this one; the tint is kept."),
  },
  "White balance: the light that is taken for white. It changes the greys.",
);

export const lensSchema = group(
  {
    fallOffStops: number(
      -1,
      4,
      0,
      "stops",
      "Light that the lens loses in the corners, given back; 0 keeps the fall-off.",
    ),
    distortion: number(-0.3, 0.3, 0, "fraction", "Bending taken out: + straightens a barrel, − a pincushion."),
    keystoneVertical: number(
      -0.6,
      0.6,
      0,
      "per half diagonal",
      "Uprights that lean together at the top (+) made parallel.",
    ),
    keystoneHorizontal: number(
      -0.6,
      0.6,
      0,
      "per half diagonal",
      "Levels that run together at the right (+) made parallel.",
    ),
  },
  "Lens: fall-off, bending and converging lines.",
);

const place = Type.Tuple([Type.Number({ minimum: -0.1, maximum: 1.1 }), Type.Number({ minimum: -0.1, maximum: 1.1 })]);

export const cleanSpotSchema = group(
  {
    id: stableId("Stays with the spot."),
    kind: choice(["heal", "clone"], "heal", "Heal takes the texture of the source and the light around; clone copies."),
    on: switchedOn(),
    points: Type.Array(place, {
      minItems: 1,
      maxItems: 400,
      description: "One place, or a stroke: x, y in long edges from the negative's top left.",
    }),
    radius: number(0.0005, 0.2, 0.008, "long edges", "Radius."),
    softness: fraction(0.4, "Share of the radius over which it fades out."),
    sourceX: number(-1.2, 1.2, 0.03, "long edges", "How far right of the place its source lies."),
    sourceY: number(-1.2, 1.2, 0, "long edges", "How far below the place its source lies."),
  },
  "One place that is mended from another.",
);

export const groundSchema = group(
  {
    exposureEv: number(-5, 5, 0, "stops", "Exposure; +1 doubles the light."),
    whiteBalance: whiteBalanceSchema,
    angleDegrees: number(-45, 45, 0, "degrees", "Straightening; positive turns the picture clockwise."),
    quarterTurns: Type.Integer({ minimum: 0, maximum: 3, default: 0, description: "Quarter turns clockwise." }),
    crop: Type.Union([cropSchema, Type.Null()], {
      default: null,
      description: "Crop; null keeps all that is straight.",
    }),
    lens: lensSchema,
    calm: number(0, 1, 0, "fraction", "How far the grain of the noise is calmed; 0 leaves it."),
    clean: Type.Array(cleanSpotSchema, {
      maxItems: 400,
      noun: "mended places",
      default: [],
      description: "Places mended, first to last.",
    }),
  },
  "Ground: light, lens, noise, clean places and geometry.",
);

export type Ground = Static<typeof groundSchema>;
export type Crop = Static<typeof cropSchema>;
export type Lens = Static<typeof lensSchema>;
export type CleanSpot = Static<typeof cleanSpotSchema>;
