import type { Toning, Toner } from "./schema.ts";
import { luminanceToLightness } from "../../colour/lab.ts";
import { transform3, type Vector3 } from "../../colour/matrix.ts";
import { oklabToXyz, xyzToOklab } from "../../colour/oklab.ts";
import { REC709 } from "../../colour/rgb-space.ts";
import { chromaticityToXyz, D65 } from "../../colour/white.ts";
import { smoothstep } from "../../maths/smoothstep.ts";

/** OKLab hue (degrees) and greatest chroma of each toner, chosen on screen to resemble a full bath. */
const TONER_COLOUR: Readonly<Record<Exclude<Toner, "none">, { hueDegrees: number; chroma: number }>> = {
  sepia: { hueDegrees: 70, chroma: 0.075 },
  selenium: { hueDegrees: 345, chroma: 0.035 },
  copper: { hueDegrees: 42, chroma: 0.085 },
  coffee: { hueDegrees: 58, chroma: 0.045 },
  blue: { hueDegrees: 255, chroma: 0.075 },
};
const WHITE = chromaticityToXyz(D65);

/** True when a recipe's toning changes nothing. */
export function isNeutral(toning: Toning): boolean {
  return toning.toner === "none" || toning.strength === 0;
}

/**
 * Print reflectance → linear Rec.709 of the toned print. The colour is laid on in OKLab by density: none on bare paper,
 * most where there is silver; luminance Y, and so L*, stays that of the untoned print. Colour that the screen cannot
 * show is reduced, never the lightness.
 */
export function tonedColour(reflectance: number, toning: Toning): Vector3 {
  const grey: Vector3 = [reflectance, reflectance, reflectance];
  if (toning.toner === "none" || reflectance <= 0 || reflectance >= 1) return grey;
  const { hueDegrees, chroma } = TONER_COLOUR[toning.toner];
  const hue = (hueDegrees * Math.PI) / 180;
  const at = (c: number) => atLuminance(reflectance, c * Math.cos(hue), c * Math.sin(hue));
  const wanted = chroma * toning.strength * tonerUptake(reflectance, toning.balance);
  const full = at(wanted);
  if (isShown(full)) return full;
  // The most chroma that the screen shows, found by halving: the colour changes as smoothly as the lightness does.
  let [shown, beyond] = [0, wanted];
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (shown + beyond) / 2;
    if (isShown(at(middle))) shown = middle;
    else beyond = middle;
  }
  return shown > 0 ? at(shown) : grey;
}

const HALVINGS = 20;
const isShown = (rgb: Vector3) => Math.min(...rgb) >= 0 && Math.max(...rgb) <= 1;

/** How much toner the print takes at this reflectance, 0–1, by lightness and balance. */
function tonerUptake(reflectance: number, balance: number): number {
  const t = luminanceToLightness(reflectance) / 100;
  const silver = 4 * Math.sqrt(t) * (1 - t) * 0.65;
  const darks = balance > 0 ? 1 - balance + balance * smoothstep(t, 0, 1) : 1;
  const lights = balance < 0 ? 1 + balance - balance * (1 - smoothstep(t, 0, 1)) : 1;
  return Math.min(1, silver) * darks * lights;
}

/** The colour of given OKLab a, b whose luminance is Y, found by Newton's method on OKLab L. */
function atLuminance(y: number, a: number, b: number): Vector3 {
  let lightness = xyzToOklab([WHITE[0] * y, y, WHITE[2] * y])[0];
  for (let i = 0; i < 4; i++) {
    const here = oklabToXyz([lightness, a, b])[1];
    const there = oklabToXyz([lightness + 1e-4, a, b])[1];
    lightness += ((y - here) * 1e-4) / (there - here);
  }
  return transform3(REC709.fromXyz, oklabToXyz([lightness, a, b]));
}
