import type { Part, PartLine } from "../part.ts";
import { formatSigned, formatStops } from "../words.ts";
import { calmStage } from "./calm-stage.ts";
import { cleanStage } from "./clean-stage.ts";
import { frameStage } from "./frame-stage.ts";
import { prepareGround } from "./print.ts";
import { formatRatio } from "./ratios.ts";
import { groundSchema, type Ground } from "./schema.ts";

export const groundPart: Part<Ground, "ground"> = {
  name: "ground",
  station: "Ground",
  schema: groundSchema,
  prepare: prepareGround,
  // They work on weighed light, so Weigh's first stage comes before them.
  stages: [cleanStage, calmStage, frameStage],
  viewStages: [],
  describe,
  lines: {
    exposure: ["exposureEv"],
    white: ["whiteBalance"],
    "fall-off": ["lens.fallOffStops"],
    bending: ["lens.distortion"],
    keystone: ["lens.keystoneVertical", "lens.keystoneHorizontal"],
    calm: ["calm"],
    clean: ["clean"],
    turn: ["quarterTurns"],
    straighten: ["angleDegrees"],
    crop: ["crop"],
  },
  itemLines: {},
  // Mended places lie on the negative, because dust does.
  carry: (ground) => ground,
  copies: [
    { id: "exposure", name: "exposure", fields: ["exposureEv"], usual: false },
    { id: "white", name: "white balance", fields: ["whiteBalance"], usual: false },
    { id: "lens", name: "lens", fields: ["lens"], usual: true },
    { id: "calm", name: "calming", fields: ["calm"], usual: true },
    { id: "clean", name: "mended places", fields: ["clean"], usual: false },
    { id: "crop", name: "crop and level", fields: ["crop", "angleDegrees", "quarterTurns"], usual: false },
  ],
  check: () => null,
};

function describe(ground: Ground): PartLine[] {
  const lines: PartLine[] = [];
  const add = (id: string, text: string) => lines.push({ id, text });
  if (ground.exposureEv !== 0) add("exposure", `exposure ${formatStops(ground.exposureEv)}`);
  if (ground.whiteBalance.mode === "set") {
    const { kelvin, tint, follow } = ground.whiteBalance;
    const eased = follow < 1 ? `, followed ${Math.round(100 * follow)} %` : "";
    add("white", `white at ${Math.round(kelvin)} K, tint ${formatSigned(tint, 0)}${eased}`);
  }
  const { fallOffStops, distortion, keystoneVertical, keystoneHorizontal } = ground.lens;
  if (fallOffStops) add("fall-off", `corners given back ${formatStops(fallOffStops)}`);
  if (distortion)
    add("bending", `${distortion > 0 ? "barrel" : "pincushion"} straightened ${formatSigned(100 * distortion, 1)} %`);
  if (keystoneVertical || keystoneHorizontal) {
    const which = [keystoneVertical && "uprights", keystoneHorizontal && "levels"].filter(Boolean).join(" and ");
    add("keystone", `${which} made parallel`);
  }
  if (ground.calm) add("calm", `noise calmed ${Math.round(100 * ground.calm)} %`);
  const mended = ground.clean.filter((spot) => spot.on).length;
  if (ground.clean.length > 0) add("clean", `mended in ${mended} ${mended === 1 ? "place" : "places"}`);
  if (ground.quarterTurns) add("turn", `turned ${90 * ground.quarterTurns}°`);
  if (ground.angleDegrees) add("straighten", `straightened ${formatSigned(ground.angleDegrees, 1)}°`);
  if (ground.crop) add("crop", `cropped to ${formatRatio(ground.crop.width / ground.crop.height)}`);
  return lines;
}
