import { labDifference, luminanceToLightness, workingToLab } from "../../colour/lab.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import type { ColourCell } from "./colour-cells.ts";

/** Weights that sum to 1 are tried in steps of this, none negative: 66 of them. */
const STEPS = 10;
const MOST_CELLS = 140;
/** Width of the two modes, as a share of the largest difference; Lu et al. use 0.02. */
const WIDTH = 0.04;

/** The 66 candidate weights: red + green + blue = 1 in tenths. */
export function candidateWeights(): Vector3[] {
  const out: Vector3[] = [];
  for (let red = 0; red <= STEPS; red++)
    for (let green = 0; green <= STEPS - red; green++)
      out.push([red / STEPS, green / STEPS, (STEPS - red - green) / STEPS]);
  return out;
}

/**
 * The weights that keep most of the picture's colour contrast in grey: Lu, Xu and Jia 2012, whose measure lets each pair of
 * colours be lighter or darker than the other (two modes), over pairs of the picture's colours weighted by area, in L* of
 * linear light.
 */
export function contrastWeights(cells: readonly ColourCell[]): Vector3 {
  const chosen = [...cells].sort((p, q) => q.share - p.share).slice(0, MOST_CELLS);
  const labs = chosen.map(({ working }) => workingToLab(working));
  let best = candidateWeights()[0];
  let most = -Infinity;
  for (const weights of candidateWeights()) {
    const greys = chosen.map(({ working }) => luminanceToLightness(Math.min(1, weigh(weights, working))));
    let sum = 0;
    for (let i = 0; i < chosen.length; i++)
      for (let j = 0; j < i; j++) {
        const colour = labDifference(labs[i], labs[j]) / 100;
        const grey = (greys[i] - greys[j]) / 100;
        const fit = (sign: 1 | -1) => Math.exp(-((grey - sign * colour) ** 2) / (2 * WIDTH));
        sum += Math.sqrt(chosen[i].share * chosen[j].share) * Math.log(fit(1) + fit(-1));
      }
    if (sum > most) {
      most = sum;
      best = weights;
    }
  }
  return best;
}

/** The weights under which the picture's colours lie closest together in L*. */
export function flattestWeights(cells: readonly ColourCell[]): Vector3 {
  const candidates = candidateWeights();
  const spread = (weights: Vector3) => spreadOf(cells, (working) => weigh(weights, working));
  return candidates.reduce((best, one) => (spread(one) < spread(best) ? one : best));
}

/** Deviation of L* over cells, by area. */
function spreadOf(cells: readonly ColourCell[], light: (working: Vector3) => number): number {
  let sum = 0;
  let mean = 0;
  let squares = 0;
  for (const { working, share } of cells) {
    const l = luminanceToLightness(Math.min(1, Math.max(0, light(working))));
    sum += share;
    mean += share * l;
    squares += share * l * l;
  }
  return sum > 0 ? Math.sqrt(Math.max(0, squares / sum - (mean / sum) ** 2)) : 0;
}

function weigh(weights: Vector3, working: Vector3): number {
  return weights[0] * working[0] + weights[1] * working[1] + weights[2] * working[2];
}
