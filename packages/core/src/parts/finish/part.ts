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
    toning: ["toning.on", "toning.toner", "toning.second", "toning.darks", "toning.lights", "toning.paper"],
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
  const tone = toneWords(toning);
  if (tone !== "") add("toning", toning.on ? tone : `${tone} (off)`);
  if (edgeBurn.stops) add("edges", `edges ${edgeBurn.stops < 0 ? "burned" : "lifted"} ${formatStops(edgeBurn.stops)}`);
  return lines;
}

function toneWords({ toner, strength, second, secondStrength, darks, lights, paper }: Finish["toning"]): string {
  const percent = (share: number) => `${Math.round(100 * share)} %`;
  const words = [
    toner !== "none" && strength > 0 && `${toner} ${percent(strength)}`,
    second !== "none" && secondStrength > 0 && `then ${second} ${percent(secondStrength)}`,
    darks.chroma > 0 && `darks toned ${Math.round(darks.hueDegrees)}°`,
    lights.chroma > 0 && `lights toned ${Math.round(lights.hueDegrees)}°`,
    paper.chroma > 0 && "tinted paper",
  ];
  return words.filter((word) => word !== false).join(", ");
}
