import type { Part, PartLine } from "../part.ts";
import { formatStops } from "../words.ts";
import { codesStage, grainStage } from "./view-stages.ts";
import { finishSchema, type Finish } from "./schema.ts";

export const finishPart: Part<Finish, "finish"> = {
  name: "finish",
  station: "Finish",
  schema: finishSchema,
  prepare: () => ({}),
  stages: [],
  viewStages: [grainStage, codesStage],
  describe,
  lines: {
    grain: ["grain.granularity"],
    toning: ["toning.toner"],
    edges: ["edgeBurn.stops"],
  },
  itemLines: {},
  carry: (finish) => finish,
  copies: [
    { id: "grain", name: "grain", fields: ["grain"], usual: true },
    { id: "toning", name: "tone", fields: ["toning"], usual: true },
    { id: "edges", name: "edges", fields: ["edgeBurn"], usual: true },
  ],
  check: () => null,
};

function describe({ grain, toning, edgeBurn }: Finish): PartLine[] {
  const lines: PartLine[] = [];
  const add = (id: string, text: string) => lines.push({ id, text });
  if (grain.granularity) add("grain", `grain ${grain.granularity.toFixed(0)}, ${grain.crystalUm} µm, ${grain.format}`);
  if (toning.toner !== "none" && toning.strength)
    add("toning", `${toning.toner} ${Math.round(100 * toning.strength)} %`);
  if (edgeBurn.stops) add("edges", `edges ${edgeBurn.stops < 0 ? "burned" : "lifted"} ${formatStops(edgeBurn.stops)}`);
  return lines;
}
