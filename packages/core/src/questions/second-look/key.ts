import type { Finding } from "../../judge/finding.ts";
import { type LookedPrint } from "./looked-print.ts";
import { histograms } from "../../measure/histogram.ts";
import { readKey } from "../../measure/key.ts";

/** A key other than the one the plan asks for. */
export function keyLook(print: LookedPrint): Finding[] {
  const wanted = print.plan.key;
  if (wanted === "") return [];
  const { light, reflectance } = print.ends;
  const { key, middle } = readKey(histograms(light, reflectance));
  if (key === wanted) return [];
  return [
    {
      id: "key",
      kind: "key",
      text: `The plan asks for a ${wanted} key; half of the print lies above zone ${middle.toFixed(1)}, which is ${key}.`,
      weight: 1.5,
      place: null,
      mend: null,
    },
  ];
}
