const { abs, max, min } = Math;

/** Nodes along log2(red / green), and along log2(blue / green). */
export const CHROMA_NODES = 37;
const MIDDLE = (CHROMA_NODES - 1) / 2;
/** The grid ends where one channel is this many stops above or below green. */
const REACH_STOPS = 4.5;
/** Stops s lie at s / (1 + BEND·|s|), so that nodes are densest about neutral; the kernel `weighByColour` has the same. */
const BEND = 0.45;
const REACH = REACH_STOPS / (1 + BEND * REACH_STOPS);

/** log2 of the ratio to green at a node. */
export function chromaStops(node: number): number {
  const bent = ((node - MIDDLE) / MIDDLE) * REACH;
  return bent / (1 - BEND * abs(bent));
}

/** Where a log2 ratio lies among the nodes; inside the grid, so that the next node is there. */
export function chromaNode(stops: number): number {
  const bent = stops / (1 + BEND * abs(stops));
  return min(CHROMA_NODES - 1.000001, max(0, MIDDLE + (bent / REACH) * MIDDLE));
}
