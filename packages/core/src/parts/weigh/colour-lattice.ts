import { transform3, type Vector3 } from "../../colour/matrix.ts";
import { LMS_TO_LAB, WORKING_TO_LMS } from "../../colour/oklab.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { CHROMA_NODES, chromaNode, chromaStops } from "./chroma-grid.ts";
import { colourShare, familyPlace, familyToPlace, LIGHTNESS_COUNTS, placeToWorking } from "./family.ts";
import { familyShares, flooredFilmStops, positive, type GreyModel } from "./grey-model.ts";
import { fallOf, MIDDLE_SQUARED } from "./membership.ts";
import { mixtureColour, NEARNESS_COUNTS, pairsOf } from "./mixed-shares.ts";

/** Nodes along log2 of green, from 2^-11 to 2^1, one a stop. */
const GREEN_NODES = 13;
const LOWEST_GREEN = -11;
const CHROMAS = CHROMA_NODES * CHROMA_NODES;
/** Planes of what is known of each two ratios of channels, and their length: a whole number of vectors. */
const CHROMA_PLANES = 8;
const PLANE = (CHROMAS + 3) & ~3;
/** Values of what the kernel reads of a pair of families. */
const PAIR_VALUES = 12;

/**
 * What colours get of each family, tabulated for the kernel `gatherVotes`. A node has the share of each family times the film's gain, that
 * of the neutrals, then 1. Nodes lie over log2(red / green), log2(blue / green) and log2 green, the last fastest; beyond the lattice
 * its edge goes on. What families' stops are does not matter here, so that moving one bakes nothing.
 */
export interface ColourLattice {
  /** False when no family is moved: then the film's gain alone is told, as if everything were neutral. */
  readonly byFamily: boolean;
  /** Values of a node that count: families, neutrals, and the 1. */
  readonly targets: number;
  /** Values from one node to the next. */
  readonly nodeLength: number;
  /** The film's gain at each two ratios of channels, which hangs on nothing else; least and greatest of them. */
  readonly film: Float32Array;
  readonly filmLeast: number;
  readonly filmMost: number;
}

export function planLattice(model: GreyModel, byFamily = true): ColourLattice {
  const targets = (byFamily ? model.membership.count : 0) + 2;
  const film = Float32Array.from({ length: CHROMAS }, (_, n) =>
    model.film ? 2 ** flooredFilmStops(model, chromaColour(n)) : 1,
  );
  const [filmLeast, filmMost] = [Math.min(...film), Math.max(...film)];
  return { byFamily, targets, nodeLength: (targets + 3) & ~3, film, filmLeast, filmMost };
}

/** Bakes a lattice into kernel memory, where it stays until the caller's mark is released. @returns its first node. */
export function bakeLattice(heap: KernelHeap, model: GreyModel, lattice: ColourLattice): number {
  const { byFamily, nodeLength, film } = lattice;
  const { weigh } = model.membership;
  const families = byFamily ? weigh.families : [];
  const { pairs, own } = byFamily && weigh.passage === "mixture" ? pairsOf(weigh) : { pairs: [], own: 0 };
  const table = heap.allocate(4 * CHROMAS * GREEN_NODES * nodeLength);
  const mark = heap.mark();
  const ofFamilies = families.flatMap((family) => {
    const [a, b, lightness] = familyToPlace(family);
    return [a, b, LIGHTNESS_COUNTS * lightness, family.reach ** -2];
  });
  const ofPairs = new Float32Array(PAIR_VALUES * pairs.length);
  const numbers = new Int32Array(ofPairs.buffer);
  pairs.forEach(({ j, k, from, way, squared, off }, p) => {
    numbers.set([j, k], PAIR_VALUES * p);
    const inverse = squared === 0 ? 0 : 1 / squared;
    ofPairs.set([...from, ...way, inverse, off, families[j].reach, families[k].reach], PAIR_VALUES * p + 2);
  });
  const chroma = chromaPlanes(model, families.length > 0);
  chroma.set(film, (CHROMA_PLANES - 1) * PLANE);
  const lights = Float32Array.from({ length: GREEN_NODES }, (_, level) => 2 ** ((LOWEST_GREEN + level) / 3));
  heap.kernels.bakeShares(
    heap.place(chroma), CHROMAS, heap.place(lights), heap.place(Float32Array.from(ofFamilies)), families.length, fallOf(weigh),
    MIDDLE_SQUARED, heap.place(ofPairs), pairs.length, own, pairs.length > 0 ? NEARNESS_COUNTS : 1,
    heap.place(Float32Array.from([...WORKING_TO_LMS, ...LMS_TO_LAB])), table, 4 * nodeLength,
    heap.allocate(32 * (families.length + pairs.length)),
  ); // prettier-ignore
  heap.release(mark);
  if (byFamily) meetMiddles(model, lattice, heap.floats(table, CHROMAS * GREEN_NODES * nodeLength));
  return table;
}

/** Rounds in which middles that share nodes come to terms. */
const ROUNDS = 3;

/**
 * Sets nodes about each family's middle so that what is looked up there is the formula's: of a mixture with any other family the share begins
 * to fall at the middle, and between nodes that point would be lost. What a node gives in all stays the film's gain.
 */
function meetMiddles(model: GreyModel, { film, nodeLength, targets }: ColourLattice, table: Float32Array): void {
  const shares = new Float64Array(targets - 1);
  const middles = model.membership.weigh.families.map((family) => positive(placeToWorking(familyToPlace(family))));
  for (let round = 0; round < ROUNDS; round++)
    for (const [red, green, blue] of middles) {
      const corners = cornersAbout(red / green, blue / green);
      const squares = corners.reduce((sum, { weight }) => sum + weight * weight, 0);
      const gain = corners.reduce((sum, { node, weight }) => sum + weight * film[node], 0);
      for (let level = 0; level < GREEN_NODES; level++) {
        const light = 2 ** (LOWEST_GREEN + level) / green;
        familyShares(model, [red * light, green * light, blue * light], shares);
        const valueAt = ({ node }: Corner) => (node * GREEN_NODES + level) * nodeLength;
        shares.forEach((share, k) => {
          const found = corners.reduce((sum, corner) => sum + corner.weight * table[valueAt(corner) + k], 0);
          for (const corner of corners)
            table[valueAt(corner) + k] += (corner.weight * (gain * share - found)) / squares;
        });
        for (const corner of corners) {
          const node = table.subarray(valueAt(corner), valueAt(corner) + shares.length);
          const sum = node.reduce((all, value, k) => all + (node[k] = Math.max(0, value)), 0);
          for (let k = 0; k < node.length; k++) node[k] *= film[corner.node] / sum;
        }
      }
    }
}

/** A node of the two ratios of channels, and how much it counts at a place. */
interface Corner {
  readonly node: number;
  readonly weight: number;
}

/** The four nodes that the kernel looks between for two ratios to green. */
function cornersAbout(toRed: number, toBlue: number): Corner[] {
  const [i, j] = [toRed, toBlue].map((ratio) => chromaNode(kernelLog2(ratio)));
  const [row, column] = [Math.floor(i), Math.floor(j)];
  return [0, 1].flatMap((down) =>
    [0, 1].map((across) => ({
      node: (row + down) * CHROMA_NODES + column + across,
      weight: Math.abs(1 - down - (i - row)) * Math.abs(1 - across - (j - column)),
    })),
  );
}

/** What the kernel reads of each two ratios of channels, but for the film. */
function chromaPlanes(model: GreyModel, byFamily: boolean): Float32Array {
  const planes = new Float32Array(CHROMA_PLANES * PLANE);
  for (let n = 0; byFamily && n < CHROMAS; n++) {
    const colour = chromaColour(n);
    const place = familyPlace(colour);
    let coloured = colourShare(place);
    // What the white balance makes neutral is neutral.
    if (model.balance) coloured *= colourShare(familyPlace(positive(transform3(model.balance, colour))));
    const values = [place[0], place[1], LIGHTNESS_COUNTS * place[2], coloured, ...mixtureColour(place[0], place[1])];
    for (let k = 0; k < values.length; k++) planes[k * PLANE + n] = values[k];
  }
  return planes;
}

let channelLights: Float64Array | null = null;

/** The colour of two ratios of channels, green being 1. */
function chromaColour(n: number): Vector3 {
  channelLights ??= Float64Array.from({ length: CHROMA_NODES }, (_, node) => kernelExp2(chromaStops(node)));
  return [channelLights[Math.floor(n / CHROMA_NODES)], 1, channelLights[n % CHROMA_NODES]];
}

/** The kernel's `roughLog2x4`. */
function kernelLog2(value: number): number {
  const exponent = Math.floor(Math.log2(value));
  const x = value / 2 ** exponent - 1;
  return exponent + x + x * (1 - x) * (0.4199 - 0.162 * x);
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
