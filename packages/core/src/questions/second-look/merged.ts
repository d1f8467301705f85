import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { capital } from "../../judge/words.ts";
import type { FamilyGrey } from "../../parts/weigh/family-probe.ts";
import { findNeighbours } from "../../parts/weigh/separation.ts";
import { solve } from "../../parts/weigh/solve.ts";
import { weighReading } from "../weigh.ts";

type LabelMap = Awaited<ReturnType<typeof weighReading>>["map"];

/** Neighbours of different colour that print as one grey; of the subject when one is marked. */
export async function mergedLook(print: LookedPrint): Promise<Finding[]> {
  const { probe, map, recipe } = await weighReading(print.reader, print.recipe);
  const subject = print.marks.get("subject");
  const names = [...recipe.weigh.families.map(({ name }) => name), "neutrals"];
  const touches = (first: number, second: number) => {
    if (!subject) return true;
    // Either colour has to make up a good part of the subject.
    const counts = new Map<number, number>();
    let all = 0;
    for (let y = 0; y < map.height; y += 2)
      for (let x = 0; x < map.width; x += 2) {
        if (print.markAt("subject", (x + 0.5) / map.width, (y + 0.5) / map.height) < 0.5) continue;
        const label = Math.min(map.labels[y * map.width + x], recipe.weigh.families.length);
        counts.set(label, (counts.get(label) ?? 0) + 1);
        all++;
      }
    return [first, second].some((k) => (counts.get(k) ?? 0) > 0.1 * all);
  };
  const greys = printedGreys(print, map, probe.greys());
  const worst = findNeighbours(probe, map.boundaries, greys).find(
    (pair) => pair.merged && touches(pair.first, pair.second),
  );
  if (!worst) return [];
  const { first, second, colourDifference, greyDifference } = worst;
  const solution = solve(probe, map.boundaries, { kind: "part", first, second });
  const place = meeting(map.labels, map.width, map.height, first, second, recipe.weigh.families.length);
  return [
    {
      id: `merged ${names[first]} ${names[second]}`.slice(0, 80),
      kind: "merged",
      text: `${capital(names[first])} and ${names[second]} differ by ${colourDifference.toFixed(0)} in colour and by ${Math.abs(greyDifference).toFixed(1)} L* in grey: they print as one.`,
      weight: 1 + (colourDifference / 60) * Math.min(1, worst.length) * 3,
      place,
      mend: mended(print.recipe, "Part them", (old) => ({ ...old, weigh: solution.weigh })),
    },
  ];
}

/** Greys of the families as the whole print has them, with its light moves and all else that works by place. */
function printedGreys(
  { lightness, view }: LookedPrint,
  { labels, width, height }: LabelMap,
  greys: readonly FamilyGrey[],
): FamilyGrey[] {
  const sums = greys.map(() => ({ lightness: 0, count: 0 }));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = Math.floor(((x + 0.5) / width) * view.width);
      const j = Math.floor(((y + 0.5) / height) * view.height);
      const sum = sums[Math.min(labels[y * width + x], greys.length - 1)];
      sum.lightness += lightness[j * view.width + i];
      sum.count++;
    }
  return greys.map((grey, k) => (sums[k].count > 0 ? { ...grey, lightness: sums[k].lightness / sums[k].count } : grey));
}

/** Somewhere in the middle of where two labels meet. */
function meeting(labels: Uint8Array, width: number, height: number, first: number, second: number, neutral: number) {
  const found: number[] = [];
  const at = (i: number) => Math.min(labels[i], neutral);
  for (let y = 0; y < height; y++)
    for (let x = 0; x + 3 < width; x++) {
      const [a, b] = [at(y * width + x), at(y * width + x + 3)];
      if ((a === first && b === second) || (a === second && b === first)) found.push(y * width + x);
    }
  if (found.length === 0) return null;
  const i = found[found.length >> 1];
  return { x: ((i % width) + 0.5) / width, y: (Math.floor(i / width) + 0.5) / height };
}
