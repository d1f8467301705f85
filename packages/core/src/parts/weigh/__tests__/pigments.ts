import { spectrumOf, type Spectrum } from "../../../colour/spectrum.ts";

const rise = (nm: number, at: number, width: number) => 1 / (1 + Math.exp(-(nm - at) / width));
const fall = (nm: number, at: number, width: number) => 1 - rise(nm, at, width);
const bump = (nm: number, at: number, width: number) => Math.exp(-0.5 * ((nm - at) / width) ** 2);

/** Reflectances of the kinds that pigments, plants, earth and skin have; made up, and none of the form that is fitted. */
const FORMULAS: Record<string, (nm: number) => number> = {
  brick: (n) => 0.06 + 0.32 * rise(n, 585, 18),
  madder: (n) => 0.04 + 0.45 * rise(n, 600, 12) + 0.05 * bump(n, 430, 30),
  woad: (n) => 0.08 + 0.3 * bump(n, 450, 45) + 0.1 * rise(n, 690, 15),
  weld: (n) => 0.06 + 0.6 * rise(n, 505, 14),
  leaf: (n) => 0.04 + 0.1 * bump(n, 550, 30) + 0.4 * rise(n, 700, 10),
  sage: (n) => 0.1 + 0.15 * bump(n, 540, 50) + 0.2 * rise(n, 690, 15),
  indigo: (n) => 0.04 + 0.1 * bump(n, 440, 35) + 0.12 * rise(n, 700, 15),
  walnut: (n) => 0.05 + 0.15 * rise(n, 600, 50),
  skin: (n) => 0.18 + 0.4 * rise(n, 590, 18) + 0.08 * bump(n, 510, 30),
  "pale skin": (n) => 0.3 + 0.35 * rise(n, 585, 20) + 0.06 * bump(n, 500, 30),
  "sky paint": (n) => 0.15 + 0.4 * fall(n, 520, 50),
  teal: (n) => 0.06 + 0.3 * bump(n, 490, 35),
  violet: (n) => 0.06 + 0.25 * bump(n, 430, 30) + 0.2 * rise(n, 640, 20),
  orange: (n) => 0.05 + 0.6 * rise(n, 565, 14),
  lemon: (n) => 0.08 + 0.75 * rise(n, 490, 12),
  grass: (n) => 0.06 + 0.2 * bump(n, 555, 38) + 0.3 * rise(n, 700, 12),
  cream: (n) => 0.5 + 0.3 * rise(n, 480, 25),
  grey: () => 0.2,
  copper: (n) => 0.12 + 0.45 * rise(n, 575, 25),
  "dark red": (n) => 0.03 + 0.2 * rise(n, 610, 15),
  denim: (n) => 0.08 + 0.15 * bump(n, 450, 50) + 0.1 * rise(n, 720, 20),
  moss: (n) => 0.06 + 0.12 * rise(n, 510, 18) * fall(n, 620, 30) + 0.05 * rise(n, 700, 10),
  purple: (n) => 0.08 + 0.2 * bump(n, 440, 40) + 0.25 * rise(n, 620, 20),
  sand: (n) => 0.2 + 0.3 * rise(n, 540, 50),
};

export const PIGMENTS: readonly (readonly [name: string, reflectance: Spectrum])[] = Object.entries(FORMULAS).map(
  ([name, formula]) => [name, spectrumOf(formula)] as const,
);
