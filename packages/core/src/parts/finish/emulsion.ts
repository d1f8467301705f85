import type { Grain } from "./schema.ts";

/** Diameter of the aperture through which RMS granularity is stated, µm. */
export const GRANULARITY_APERTURE_UM = 48;
/** Spread of the grains' diameters about their mean: standard deviation of their logarithm. */
export const DIAMETER_SPREAD = 0.35;

/**
 * The film as stochastic geometry: grains are discs whose places are a Poisson process, their diameters log-normal, each
 * letting 1 − `opacity` of the light through (the Boolean model of Newson, Delon and Galerne 2017, whose grains are opaque: 1).
 *
 * Where grains in the mean pass R = e^-x of the light, the light at two places h apart has the covariance
 * R²·(e^{opacity·x·g(h)} − 1), g being the share of a grain that covers both. Faint grains give Nutting's law (1913): the
 * variance of density grows with density.
 */
export interface Emulsion {
  /** Mean diameter of the grains, µm. */
  readonly diameterUm: number;
  /** 0–1. */
  readonly opacity: number;
}

/** Films to begin with. */
export const GRAIN_STARTS = [
  { name: "fine", granularity: 8, crystalUm: 4 },
  { name: "medium", granularity: 13, crystalUm: 6 },
  { name: "fast", granularity: 22, crystalUm: 9 },
  { name: "pushed", granularity: 38, crystalUm: 11 },
] as const;

/** ln 10: what x is at density 1. */
export const X_AT_DENSITY_1 = Math.LN10;

/**
 * The emulsion with stated granularity and grain size. Fine grains, even opaque, cannot be as rough as one may ask for; they
 * lie in clumps then, as large as it takes.
 */
export function emulsionOf({ granularity, crystalUm }: Pick<Grain, "granularity" | "crystalUm">): Emulsion {
  const wanted = granularity / 1000;
  let diameterUm = crystalUm;
  if (densityDeviation({ diameterUm, opacity: 1 }, 1) < wanted)
    diameterUm = bisect(crystalUm, 40, (one) => densityDeviation({ diameterUm: one, opacity: 1 }, 1) - wanted);
  return {
    diameterUm,
    opacity: bisect(0, 1, (opacity) => densityDeviation({ diameterUm, opacity }, 1) - wanted),
  };
}

/**
 * Standard deviation of density through a round aperture, where the mean density is `density`.
 * @param apertureUm - its diameter, µm.
 */
export function densityDeviation(emulsion: Emulsion, density: number, apertureUm = GRANULARITY_APERTURE_UM): number {
  const { diameterUm, opacity } = emulsion;
  const strength = opacity * X_AT_DENSITY_1 * density;
  const area = (Math.PI / 4) * apertureUm ** 2;
  // Pairs of places in the aperture, by their distance.
  const variance = integrate(strength, (h) => sharedDisc((h * diameterUm) / apertureUm)) * (diameterUm ** 2 / area);
  return Math.LOG10E * Math.sqrt(Math.log1p(variance));
}

/** Integral of e^{strength·g} − 1 over the plane, µm²: variance of light through a large aperture, times its area. */
export function covarianceVolume({ diameterUm, opacity }: Emulsion, x: number): number {
  return integrate(opacity * x, () => 1) * diameterUm ** 2;
}

const SIZES = diameters();
const STEPS = 240;
/** Distance in mean diameters beyond which hardly two places lie in one grain. */
const REACH = 3.5;
const SHARED = Float64Array.from({ length: STEPS }, (_, i) => sharedGrain(((i + 0.5) * REACH) / STEPS));

function integrate(strength: number, weight: (h: number) => number): number {
  const step = REACH / STEPS;
  let sum = 0;
  for (let i = 0; i < STEPS; i++) {
    const h = (i + 0.5) * step;
    sum += Math.expm1(strength * SHARED[i]) * weight(h) * 2 * Math.PI * h * step;
  }
  return sum;
}

/** Share of a grain, by area, that covers a second place h mean diameters away. */
function sharedGrain(h: number): number {
  let [sum, total] = [0, 0];
  for (const { diameter, weight } of SIZES) {
    const area = weight * diameter ** 2;
    sum += area * sharedDisc(h / diameter);
    total += area;
  }
  return sum / total;
}

/** Share of a disc of diameter 1 that lies in another, their centres `t` apart. */
function sharedDisc(t: number): number {
  return t >= 1 ? 0 : (2 / Math.PI) * (Math.acos(t) - t * Math.sqrt(1 - t * t));
}

/** Log-normal diameters of mean 1, with how frequent each is. */
function diameters(): { diameter: number; weight: number }[] {
  return Array.from({ length: 25 }, (_, i) => {
    const z = (i - 12) / 4;
    return { diameter: Math.exp(DIAMETER_SPREAD * z - DIAMETER_SPREAD ** 2 / 2), weight: Math.exp((-z * z) / 2) };
  });
}

/** Where a rising function crosses zero between two places, or the end that is nearer to it. */
function bisect(low: number, high: number, rising: (at: number) => number): number {
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    if (rising(middle) < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
