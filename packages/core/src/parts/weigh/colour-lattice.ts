import type { Vector3 } from "../../colour/matrix.ts";
import { CHROMA_NODES, chromaStops } from "./chroma-grid.ts";
import { familyShares, flooredFilmStops, type GreyModel } from "./grey-model.ts";

/** Nodes along log2 of green, from 2^-11 to 2^1, one a stop. */
const GREEN_NODES = 13;
const LOWEST_GREEN = -11;
/** Values of a lattice. */
const LATTICE_LENGTH = CHROMA_NODES * CHROMA_NODES * GREEN_NODES;

/**
 * What of a lattice a drag does not change: each node's memberships in the families, count values a node.
 * Nodes lie over log2(red / green), log2(blue / green) and log2 green, the last fastest.
 */
export function bakeMemberships(model: GreyModel): Float32Array {
  const { count } = model.membership;
  const out = new Float32Array(LATTICE_LENGTH * count);
  if (count === 0) return out;
  const shares = new Float64Array(count + 1);
  let at = 0;
  forEachNode((colour) => {
    familyShares(model, colour, shares);
    for (let k = 0; k < count; k++) out[at++] = shares[k];
  });
  return out;
}

/**
 * Tabulates a model's stops for the kernel `weighByColour`, which looks them up trilinearly; beyond the lattice its edge
 * goes on. All channels have the floor in them.
 */
export function bakeLattice(model: GreyModel, memberships: Float32Array): Float32Array {
  const { familyStops } = model;
  const { count } = model.membership;
  const out = new Float32Array(LATTICE_LENGTH);
  let node = 0;
  forEachNode((colour) => {
    let stops = flooredFilmStops(model, colour);
    for (let k = 0; k < count; k++) stops += memberships[node * count + k] * familyStops[k];
    out[node++] = stops;
  });
  return out;
}

function forEachNode(work: (colour: Vector3) => void): void {
  for (let i = 0; i < CHROMA_NODES; i++)
    for (let j = 0; j < CHROMA_NODES; j++) for (let k = 0; k < GREEN_NODES; k++) work(nodeColour(i, j, k));
}

/** The colour of a node, floor included. */
function nodeColour(i: number, j: number, k: number): Vector3 {
  const green = LOWEST_GREEN + k;
  return [kernelExp2(green + chromaStops(i)), kernelExp2(green), kernelExp2(green + chromaStops(j))];
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
