import { Type, type Static } from "@sinclair/typebox";
import { MOST_NODES } from "../../encode/cube.ts";
import { choice, fraction, group, number, stableId, switchedOn } from "../../schema/fields.ts";

export const TONERS = ["none", "sepia", "selenium", "gold", "copper", "blue", "coffee", "tea"] as const;

/** Strongest chroma of a tone of one's own, OKLab. */
export const MOST_TONE_CHROMA = 0.12;

const tint = (hueDegrees: number, most: number, description: string) =>
  group(
    {
      hueDegrees: number(
        0,
        360,
        hueDegrees,
        "degrees",
        "Hue in OKLab: 30 red, 70 orange, 110 yellow, 150 green, 255 blue.",
      ),
      chroma: number(0, most, 0, "chroma", "Strength; 0 is none."),
    },
    description,
  );

export const tonedEndSchema = tint(255, MOST_TONE_CHROMA, "A tone for one end of the scale.");

export const GRAIN_FORMATS = ["half frame", "small", "medium", "large"] as const;

export const ROOM_SIDES = ["below", "above", "left", "right"] as const;

export const MEDIA = ["screen", "paper"] as const;
export const TABLE_LIMITS = ["all", "darks", "lights"] as const;

export const toneTableSchema = group(
  {
    id: stableId("Stays with the table."),
    name: Type.String({ maxLength: 80, description: "What the user calls it." }),
    limit: choice(TABLE_LIMITS, "all", "darks: it never lightens; lights: it never darkens."),
    strength: fraction(1, "How far it is followed."),
    values: Type.Array(Type.Number({ minimum: 0, maximum: 1 }), {
      minItems: 6,
      maxItems: 3 * MOST_NODES,
      description: "Red, green and blue codes (sRGB, 0–1) of evenly spaced grey codes from black to white.",
    }),
  },
  "A table of colours by grey.",
);

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
        on: switchedOn(),
        toner: choice(TONERS, "none", "Toner whose hue is simulated."),
        strength: fraction(0.5, "Depth of the tone."),
        balance: number(-1, 1, 0, "fraction", "−1 tones the darks only, +1 the lights only, 0 all."),
        byDensity: Type.Boolean({
          default: false,
          description: "The bath takes densities in the order of its chemistry; strength is then time in the bath.",
        }),
        second: choice(TONERS, "none", "A second bath, which finds the silver that the first has left."),
        secondStrength: fraction(0.5, "Time in the second bath."),
        keepLightness: Type.Boolean({
          default: true,
          description: "Tones change no lightness; else toners deepen or bleach the print as they do.",
        }),
        darks: tint(255, MOST_TONE_CHROMA, "Tone of the darks."),
        lights: tint(70, MOST_TONE_CHROMA, "Tone of the lights."),
        between: number(-1, 1, 0, "fraction", "Where darks and lights meet: −1 at black, +1 at white."),
        overlap: fraction(0.5, "How far they reach into each other."),
        paper: tint(85, 0.05, "Tint of the paper base."),
      },
      "Toning by density at constant lightness.",
    ),
    halation: group(
      {
        amount: fraction(0, "Light that bright places throw about themselves on the film."),
        radiusUm: number(
          10,
          400,
          70,
          "µm",
          "How far it reaches on the film of the grain's format: its standard deviation.",
        ),
      },
      "Halation: highlights scattered in the film, in linear light, before grain.",
    ),
    oldGlass: group(
      {
        corners: fraction(
          0,
          "How much of the light in the corners is scattered, as an old lens does that covers its plate barely.",
        ),
        spread: number(0.0005, 0.01, 0.0025, "long edge", "How far: its standard deviation."),
        start: fraction(0.3, "Where it begins between centre (0) and corner (1)."),
      },
      "Softness of old glass toward the corners of the cropped frame, in linear light, before halation and grain.",
    ),
    output: group(
      {
        amount: fraction(0, "How much of what the screen or the eye at its distance takes away is given back."),
        medium: choice(MEDIA, "screen", "For a screen, pixel by pixel, or for paper by size and distance."),
        paperCm: number(5, 200, 40, "cm", "Long edge of the picture on paper."),
        viewingCm: number(10, 400, 50, "cm", "From where it is looked at."),
      },
      "Sharpening for the output, after scaling and before grain.",
    ),
    tables: Type.Array(toneTableSchema, {
      maxItems: 2,
      noun: "tone tables",
      default: [],
      description: "Tables of colours by grey, laid on after the tone, one on the other.",
    }),
    edgeBurn: group(
      {
        stops: number(-2, 1, 0, "stops", "Burn (−) or lift (+) in the corners."),
        start: fraction(0.5, "Where it begins between centre (0) and corner (1)."),
        roundness: fraction(0.6, "0 follows the edges, 1 is round."),
        centreX: number(0.1, 0.9, 0.5, "frame", "Where its centre lies across the cropped frame."),
        centreY: number(0.1, 0.9, 0.5, "frame", "Where its centre lies down the cropped frame."),
      },
      "Burned-in edges, from the cropped frame.",
    ),
    wear: group(
      {
        fade: fraction(0, "How far the whole print has faded: its black lifted, its white lowered."),
        edges: fraction(0, "How much further its edges have."),
        yellow: fraction(0.5, "How much it yellows where it fades."),
      },
      "The wear of an old print.",
    ),
    mount: group(
      {
        border: number(0, 0.3, 0, "long edge", "Even border around the picture."),
        borderLightness: number(0, 100, 100, "L*", "Its lightness: 0 black, 100 paper white."),
        line: number(0, 0.02, 0, "long edge", "Line around the border, as a bevel shows it."),
        lineLightness: number(0, 100, 70, "L*", "Its lightness."),
        mat: number(0, 0.5, 0, "long edge", "Mat around it, on every side."),
        matLightness: number(0, 100, 94, "L*", "Its lightness."),
        toned: Type.Boolean({ default: false, description: "Border and mat take the print's tone." }),
        room: number(0, 1, 0, "long edge", "More of the mat on one side, for text."),
        roomAt: choice(ROOM_SIDES, "below", "On which side."),
        caption: Type.String({ default: "", maxLength: 160, description: "A line of text in the mat." }),
        captionSize: number(0.005, 0.08, 0.018, "long edge", "Height of its letters."),
      },
      "Border, mat and caption around the picture.",
    ),
  },
  "Finish: grain, tone, edges and what lies around the picture.",
);

export type Finish = Static<typeof finishSchema>;
export type Grain = Finish["grain"];
export type Toning = Finish["toning"];
export type Toner = (typeof TONERS)[number];
export type GrainFormat = (typeof GRAIN_FORMATS)[number];
export type Mount = Finish["mount"];
export type Wear = Finish["wear"];
export type ToneTable = Static<typeof toneTableSchema>;
