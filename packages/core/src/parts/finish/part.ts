import type { Part, PartLine } from "../part.ts";
import { formatStops } from "../words.ts";
import { codesStage, grainStage, outputStage } from "./view-stages.ts";
import { isMounted } from "./mount.ts";
import { finishSchema, type Finish } from "./schema.ts";

export const finishPart: Part<Finish, "finish"> = {
  name: "finish",
  station: "Finish",
  schema: finishSchema,
  prepare: () => ({}),
  stages: [],
  viewStages: [outputStage, grainStage, codesStage],
  describe,
  lines: {
    halation: ["halation.amount"],
    glass: ["oldGlass.corners"],
    output: ["output.amount"],
    grain: ["grain.granularity"],
    toning: ["toning.on", "toning.toner", "toning.second", "toning.darks", "toning.lights", "toning.paper"],
    tables: ["tables"],
    edges: ["edgeBurn.stops"],
    wear: ["wear.fade", "wear.edges"],
    mount: ["mount.border", "mount.line", "mount.mat", "mount.room"],
  },
  itemLines: {},
  carry: (finish) => finish,
  copies: [
    { id: "halation", name: "halation", fields: ["halation"], usual: true },
    { id: "glass", name: "old glass", fields: ["oldGlass"], usual: true },
    { id: "output", name: "output sharpening", fields: ["output"], usual: true },
    { id: "grain", name: "grain", fields: ["grain"], usual: true },
    { id: "toning", name: "tone", fields: ["toning", "tables"], usual: true },
    { id: "edges", name: "edges", fields: ["edgeBurn"], usual: true },
    { id: "wear", name: "wear", fields: ["wear"], usual: true },
    { id: "mount", name: "border and mat", fields: ["mount"], usual: true },
  ],
  check: () => null,
};

function describe({ halation, oldGlass, output, grain, toning, tables, edgeBurn, wear, mount }: Finish): PartLine[] {
  const lines: PartLine[] = [];
  const add = (id: string, text: string) => lines.push({ id, text });
  if (halation.amount > 0) add("halation", `halation ${percent(halation.amount)}, ${halation.radiusUm.toFixed(0)} µm`);
  if (oldGlass.corners > 0) add("glass", `corners of old glass ${percent(oldGlass.corners)}`);
  if (output.amount > 0)
    add(
      "output",
      `sharpened for ${output.medium === "screen" ? "the screen" : `${output.paperCm} cm of paper from ${output.viewingCm} cm`} ${percent(output.amount)}`,
    );
  if (grain.granularity) add("grain", `grain ${grain.granularity.toFixed(0)}, ${grain.crystalUm} µm, ${grain.format}`);
  const tone = toneWords(toning);
  if (tone !== "") add("toning", toning.on ? tone : `${tone} (off)`);
  const laid = tables.filter(({ strength }) => strength > 0);
  if (laid.length > 0) add("tables", laid.map((one) => `table “${one.name}” ${percent(one.strength)}`).join(", then "));
  if (edgeBurn.stops) add("edges", `edges ${edgeBurn.stops < 0 ? "burned" : "lifted"} ${formatStops(edgeBurn.stops)}`);
  const worn = [wear.fade > 0 && `faded ${percent(wear.fade)}`, wear.edges > 0 && `edges worn ${percent(wear.edges)}`];
  if (wear.fade > 0 || wear.edges > 0) add("wear", worn.filter(Boolean).join(", "));
  const around = [
    mount.border > 0 && `border ${percent(mount.border, 1)}`,
    mount.line > 0 && "line",
    mount.mat + mount.room > 0 && `mat ${percent(mount.mat, 1)}`,
    mount.caption !== "" && isMounted(mount) && "caption",
  ];
  if (isMounted(mount)) add("mount", around.filter(Boolean).join(", "));
  return lines;
}

const percent = (share: number, digits = 0) => `${(100 * share).toFixed(digits)} %`;

function toneWords({ toner, strength, second, secondStrength, darks, lights, paper }: Finish["toning"]): string {
  const words = [
    toner !== "none" && strength > 0 && `${toner} ${percent(strength)}`,
    second !== "none" && secondStrength > 0 && `then ${second} ${percent(secondStrength)}`,
    darks.chroma > 0 && `darks toned ${Math.round(darks.hueDegrees)}°`,
    lights.chroma > 0 && `lights toned ${Math.round(lights.hueDegrees)}°`,
    paper.chroma > 0 && "tinted paper",
  ];
  return words.filter((word) => word !== false).join(", ");
}
