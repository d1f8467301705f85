import type { Vector3 } from "../../colour/matrix.ts";
import { CHROMA_NODES, chromaStops } from "./chroma-grid.ts";
import { familyShares, flooredFilmStops, type GreyModel } from "./grey-model.ts";

const { min, max } = Math;

/** Nodes along log2 of green, from 2^-11 to 2^1, one a stop. */
const GREEN_NODES = 13;
const LOWEST_GREEN = -11;
const NODES = CHROMA_NODES * CHROMA_NODES * GREEN_NODES;

/** What colours get of each family, tabulated for the kernel `gatherVotes`. */
export interface ColourLattice {
  /**
   * `nodeLength` values a node: the share of each family times the film's gain, that of the neutrals, then 1. Nodes lie over
   * log2(red / green), log2(blue / green) and log2 green, the last fastest; beyond the lattice its edge goes on.
   */
  readonly table: Float32Array;
  readonly nodeLength: number;
  /** Values of a node that count: families, neutrals, and the 1. */
  readonly targets: number;
  /** Least and greatest gain of the film; 1 without one. */
  readonly filmLeast: number;
  readonly filmMost: number;
}

/**
 * Tabulates a model's memberships and film. What families' stops are does not matter here, so that moving one bakes nothing.
 * @param byFamily - false when no family is moved: then the film's gain alone is told, as if everything were neutral.
 */
export function bakeLattice(model: GreyModel, byFamily = true): ColourLattice {
  const count = byFamily ? model.membership.count : 0;
  const targets = count + 2;
  const nodeLength = (targets + 3) & ~3;
  const table = new Float32Array(NODES * nodeLength);
  const shares = new Float64Array(count + 1);
  let [filmLeast, filmMost] = [Infinity, 0];
  let at = 0;
  forEachNode((colour) => {
    if (byFamily) familyShares(model, colour, shares);
    else shares[0] = 1;
    const film = 2 ** flooredFilmStops(model, colour);
    filmLeast = min(filmLeast, film);
    filmMost = max(filmMost, film);
    for (let k = 0; k <= count; k++) table[at + k] = shares[k] * film;
    table[at + count + 1] = 1;
    at += nodeLength;
  });
  return { table, nodeLength, targets, filmLeast, filmMost };
}

function forEachNode(work: (colour: Vector3) => void): void {
  for (let i = 0; i < CHROMA_NODES; i++)
    for (let j = 0; j < CHROMA_NODES; j++) for (let k = 0; k < GREEN_NODES; k++) work(nodeColour(i, j, k));
}

/** Light of a channel at each chroma node and each level of green. */
let nodeLights: Float64Array | null = null;

/** The colour of a node, floor included. */
function nodeColour(i: number, j: number, k: number): Vector3 {
  nodeLights ??= Float64Array.from({ length: CHROMA_NODES * GREEN_NODES }, (_, at) =>
    kernelExp2(LOWEST_GREEN + (at % GREEN_NODES) + chromaStops(Math.floor(at / GREEN_NODES))),
  );
  return [nodeLights[i * GREEN_NODES + k], 2 ** (LOWEST_GREEN + k), nodeLights[j * GREEN_NODES + k]];
}

/**
 * Inverse of the kernel's `roughLog2x4`, exponent + x + x·(1 − x)·(a + b·x) for a mantissa of 1 + x, so that nodes stand
 * exactly where the kernel looks them up.
 */
function kernelExp2(stops: number): number {
  const exponent = Math.floor(stops);
  const target = stops - exponent;
  let x = 2 ** target - 1;
  for (let round = 0; round < 6; round++) {
    const value = x + x * (1 - x) * (0.4199 - 0.162 * x);
    const slope = 1 + (1 - 2 * x) * (0.4199 - 0.162 * x) - 0.162 * x * (1 - x);
    x -= (value - target) / slope;
  }
  return 2 ** exponent * (1 + x);
}
