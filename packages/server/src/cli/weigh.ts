import {
  FamilyProbe,
  findNeighbours,
  formatSigned,
  lookAtColours,
  readPicture,
  solve,
  startingPoints,
  throwDice,
  type Family,
  type Goal,
  type Neighbours,
  type Recipe,
  type Solution,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeWholeBytes } from "../files/whole-file.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

export interface WeighOptions {
  readonly recipe: string;
  readonly part?: string;
  readonly partAll?: boolean;
  readonly zone?: string;
  readonly pin?: readonly string[];
  readonly start?: string;
  readonly dice?: number;
  readonly out?: string;
  readonly json?: boolean;
}

/** Tells the families of a capture under a recipe, what has merged and what it costs; and solves for separation. */
export async function weigh(file: string, options: WeighOptions): Promise<void> {
  const recipe = await readRecipe(options.recipe);
  const { engine, info, size } = await openEngine(file);
  if (info.grey) throw new AppError("bad_request", `Expected a capture with colour but ${file} holds none.`);
  const look = await lookAtColours({ engine, size, fetch: () => Promise.resolve() }, recipe);
  const read = readPicture(look, info, recipe);
  const { map } = read;
  const families = read.recipe.weigh.families.map((family) => ({
    ...family,
    pinned: family.pinned || isNamed(family, options.pin ?? []),
  }));
  let full: Recipe = { ...recipe, weigh: { ...recipe.weigh, families } };
  const probeOf = (of: Recipe) => new FamilyProbe(info, of, map.facts);
  if (options.start !== undefined) {
    const points = startingPoints(probeOf(full), map.boundaries, look.cells.cells);
    const chosen = points.find(({ id, name }) => [id, name].includes(options.start!));
    if (!chosen)
      throw new AppError("bad_request", `Expected --start to be one of ${points.map(({ id }) => id).join(", ")}.`);
    full = { ...full, weigh: chosen.weigh };
  }
  if (options.dice !== undefined) full = { ...full, weigh: throwDice(probeOf(full), map.boundaries, options.dice) };
  const goal = goalOf(options, families);
  let solution: Solution | null = null;
  if (goal) {
    solution = solve(probeOf(full), map.boundaries, goal);
    full = { ...full, weigh: solution.weigh };
  }
  if (options.out) await writeWholeBytes(options.out, Buffer.from(`${JSON.stringify(full, null, 2)}\n`));
  const probe = probeOf(full);
  const greys = probe.greys();
  const noise = probe.noiseStops();
  const nameOf = (group: number) => families[group]?.name ?? "neutrals";
  const told = {
    families: map.facts.map(({ share, hint }, i) => ({
      name: nameOf(i),
      share: round(share, 4),
      hint,
      stops: full.weigh.families[i]?.stops ?? 0,
      lightness: round(greys[i].lightness, 1),
      spread: round(greys[i].spread, 1),
      noiseStops: noise[i] === null ? null : round(noise[i], 2),
    })),
    merged: findNeighbours(probe, map.boundaries, greys)
      .filter(({ merged }) => merged)
      .map((pair: Neighbours) => ({
        between: [nameOf(pair.first), nameOf(pair.second)],
        length: round(pair.length, 3),
        colourDifference: round(pair.colourDifference, 1),
        greyDifference: round(pair.greyDifference, 1),
      })),
    solution: solution && {
      reached: solution.reached,
      stoppedBy: solution.stoppedBy?.kind ?? null,
      left: solution.left.map(([first, second]) => [nameOf(first), nameOf(second)]),
      changes: solution.changes.map(({ family, from, to }) => ({ name: nameOf(family), from, to })),
    },
  };
  console.log(options.json ? JSON.stringify(told) : asText(told));
}

function isNamed({ id, name }: Family, wanted: readonly string[]): boolean {
  return wanted.includes(id) || wanted.includes(name);
}

function goalOf({ part, partAll, zone }: WeighOptions, families: readonly Family[]): Goal | null {
  const indexOf = (name: string) => {
    const index = families.findIndex((family) => isNamed(family, [name.trim()]));
    if (index === -1)
      throw new AppError(
        "bad_request",
        `Expected a family but received “${name}”; there are ${families.map((f) => f.name).join(", ")}.`,
      );
    return index;
  };
  if (partAll) return { kind: "part all" };
  if (part !== undefined) {
    const names = part.split(",");
    if (names.length !== 2)
      throw new AppError("bad_request", "Expected --part to name two families, parted by a comma.");
    return { kind: "part", first: indexOf(names[0]), second: indexOf(names[1]) };
  }
  if (zone === undefined) return null;
  const [name, value] = zone.split("=");
  const wanted = Number(value);
  if (!(wanted >= 0 && wanted <= 10))
    throw new AppError("bad_request", "Expected --zone as FAMILY=ZONE with a zone from 0 to 10.");
  return { kind: "zone", family: indexOf(name), zone: wanted };
}

function asText({ families, merged, solution }: Told): string {
  const lines = families.map(
    ({ name, share, stops, lightness, noiseStops }) =>
      `${name.padEnd(24)} ${(100 * share).toFixed(1).padStart(5)} %  Zone ${(lightness / 10).toFixed(1)}  ${formatSigned(stops, 2)} stops` +
      (noiseStops === null ? "" : `  noise ${formatSigned(noiseStops, 1)} stops`),
  );
  for (const { between, greyDifference } of merged)
    lines.push(`${between.join(" and ")} have become one grey (ΔL* ${Math.abs(greyDifference).toFixed(1)})`);
  if (solution) {
    const moved = solution.changes.map(({ name, from, to }) => `${name} ${formatSigned(to - from, 2)}`).join(", ");
    lines.push(`moved: ${moved || "nothing"}${solution.reached ? "" : `; not all the way (${solution.stoppedBy})`}`);
  }
  return lines.join("\n");
}

interface Told {
  readonly families: readonly {
    name: string;
    share: number;
    stops: number;
    lightness: number;
    noiseStops: number | null;
  }[];
  readonly merged: readonly { between: string[]; greyDifference: number }[];
  readonly solution: {
    reached: boolean;
    stoppedBy: string | null;
    changes: { name: string; from: number; to: number }[];
  } | null;
}

function round(value: number, digits: number): number {
  return Number(value.toFixed(digits));
}
