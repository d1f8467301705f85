import { formatZone } from "../words.ts";
import type { LightEffects } from "./schema.ts";

const signed = (share: number) => `${share < 0 ? "−" : "+"}${Math.round(100 * Math.abs(share))} %`;

/** What a move does beyond stops, in words. */
export function effectWords(effects: LightEffects): string[] {
  const { grade, gradeZone, open, hold, local, fine, softness, haze, tone, grain } = effects;
  const words = [
    grade !== 0 && `grade ${signed(grade)} about zone ${formatZone(gradeZone)}`,
    open !== 0 && `${open > 0 ? "open" : "close"} ${Math.round(100 * Math.abs(open))} %`,
    hold !== 0 && `${hold > 0 ? "hold" : "let go"} ${Math.round(100 * Math.abs(hold))} %`,
    local !== 0 && `local contrast ${signed(local)}`,
    fine !== 0 && `fine detail ${signed(fine)}`,
    softness !== 0 && `soft ${Math.round(100 * softness)} %`,
    tone !== 0 && `tone ${signed(tone)}`,
    grain !== 0 && `grain ${signed(grain)}`,
    haze !== 0 && `haze ${haze > 0 ? "out" : "in"} ${Math.round(100 * Math.abs(haze))} %`,
  ];
  return words.filter((word) => word !== false);
}
