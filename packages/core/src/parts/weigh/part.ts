import { carryShape } from "../../shapes/shapes.ts";
import type { Fault, Part, PartLine } from "../part.ts";
import { risingFault } from "../rising.ts";
import { formatSigned } from "../words.ts";
import { areasStage } from "./areas-stage.ts";
import { prepareWeigh } from "./print.ts";
import { fieldStage } from "./field-stage.ts";
import { weighSchema, type Family, type FilmChoice, type Weigh, type WeighArea } from "./schema.ts";
import { weighStage } from "./weigh-stage.ts";

export const weighPart: Part<Weigh, "weigh"> = {
  name: "weigh",
  station: "Weigh",
  schema: weighSchema,
  prepare: prepareWeigh,
  stages: [fieldStage, weighStage, areasStage],
  viewStages: [],
  describe,
  lines: {
    film: ["by"],
    weights: ["red", "green", "blue"],
    families: {
      strike: (weigh) => moveFamiliesTo(weigh, () => 0),
      restore: (weigh, source) =>
        moveFamiliesTo(weigh, (id) => source.families.find((family) => family.id === id)?.stops ?? 0),
    },
  },
  itemLines: { area: "areas" },
  carry: (weigh, carry) => ({
    ...weigh,
    areas: weigh.areas.map((area) => ({ ...area, shape: carryShape(area.shape, carry) })),
  }),
  copies: [
    {
      id: "conversion",
      name: "conversion",
      fields: [
        "by",
        "red",
        "green",
        "blue",
        "lockSum",
        "film",
        "families",
        "softness",
        "passage",
        "evenness",
        "noisyColours",
        "clippedBy",
      ],
      usual: true,
    },
    { id: "areas", name: "areas", fields: ["areas"], usual: true },
  ],
  // Until version 11 colours between families were shared by nearness alone, until 12 only very even ones had a say, until 13
  // noisy ones were followed, until 14 clipping was told by them.
  earlier: ({ families, by }) => {
    const moved = Array.isArray(families) && families.some(isMoved);
    const changed = moved || by === "film";
    return {
      ...(moved && { passage: "nearness" }),
      ...(changed && { evenness: "strict", noisyColours: "followed", clippedBy: "colours" }),
    };
  },
  check: ({ film, areas }) =>
    filmFault(film, "film") ?? areas.map((area, i) => filmFault(area.film, `areas.${i}.film`)).find(Boolean) ?? null,
};

const isMoved = (family: unknown) => (family as Partial<Family> | null)?.stops !== 0;

function moveFamiliesTo(weigh: Weigh, stopsOf: (id: string) => number): Weigh {
  return { ...weigh, families: weigh.families.map((family) => ({ ...family, stops: stopsOf(family.id) })) };
}

function describe(weigh: Weigh, fresh: Weigh): PartLine[] {
  const lines: PartLine[] = [];
  if (weigh.by === "film") lines.push({ id: "film", text: describeFilm(weigh.film) });
  else if (!isPlainLuminance(weigh, fresh)) lines.push({ id: "weights", text: describeWeights(weigh) });
  const moved = weigh.families.filter(({ stops }) => stops !== 0).sort((p, q) => Math.abs(q.stops) - Math.abs(p.stops));
  if (moved.length > 0) {
    const told = moved.map(({ name, stops }) => `${name} ${formatSigned(stops, 1)}`).join(", ");
    lines.push({ id: "families", text: `${told} stops${weigh.passage === "nearness" ? ", by nearness" : ""}` });
  }
  for (const area of weigh.areas) {
    const how =
      area.by === "film"
        ? describeFilm(area.film)
        : isPlainLuminance(area, fresh)
          ? "plain luminance"
          : describeWeights(area);
    lines.push({ id: `area:${area.id}`, text: `${area.name}: ${how}${area.on ? "" : " (off)"}` });
  }
  return lines;
}

/** "orthochromatic through deep yellow, tungsten". */
export function describeFilm(choice: FilmChoice): string {
  const film = choice.film === "own" ? (choice.ownFilm?.name ?? "own film") : choice.film;
  const filter = choice.filter === "own" ? (choice.ownFilter?.name ?? "own filter") : choice.filter;
  const through = choice.filter === "none" ? "" : ` through ${filter}`;
  return `${film}${through}, ${choice.light}`;
}

type Weights = Pick<WeighArea, "red" | "green" | "blue">;

function isPlainLuminance({ red, green, blue }: Weights, fresh: Weights): boolean {
  return red === fresh.red && green === fresh.green && blue === fresh.blue;
}

function describeWeights({ red, green, blue }: Weights): string {
  const [r, g, b] = [red, green, blue].map((weight) => formatSigned(weight, 2).replace("+", ""));
  return `red ${r}, green ${g}, blue ${b}`;
}

/** A film or filter of the user's own has a curve, whose wavelengths rise. */
function filmFault({ film, filter, ownFilm, ownFilter }: FilmChoice, field: string): Fault | null {
  for (const [chosen, own, name] of [
    [film, ownFilm, "ownFilm"],
    [filter, ownFilter, "ownFilter"],
  ] as const) {
    if (chosen === "own" && !own) return { field: `${field}.${name}`, expected: "a curve", received: "null" };
    const fault = own && risingFault(own.points, `${field}.${name}.points`, "wavelengths");
    if (fault) return fault;
  }
  return null;
}
