import { patchesOf, reached } from "./patch-graph.ts";
import { difference, type Superpixels } from "./superpixels.ts";

/** Cells over which a sky goes on behind what stands before it, and the step of colour from one side to the other at most. */
const BEHIND = 24;
const SAME = 0.045;

/**
 * What is reached from some patches over those that may be passed, also behind thin things before them, such as cables and branches:
 * where most of what lies close by looks the same as what is nearest to it.
 */
export function reachedBehind(
  patches: Superpixels,
  links: readonly number[][],
  from: readonly number[],
  may: (i: number) => boolean,
): Uint8Array {
  const { count, labels } = patches;
  let found = reached(links, from, may);
  for (;;) {
    const near = new Int32Array(count);
    const same = new Int32Array(count);
    visitAround(patches, found, (at, nearest) => {
      const i = labels[at];
      if (!may(i)) return;
      near[i]++;
      if (difference(patches, nearest, i) < SAME) same[i]++;
    });
    const more = [...near.keys()].filter((i) => 2 * same[i] > near[i]);
    if (more.length === 0) return found;
    found = reached(links, patchesOf(found).concat(more), may);
  }
}

/** Visits the cells around some patches, as far as {@link BEHIND} steps, with the patch that is nearest to each. */
function visitAround(
  { labels, width, height }: Superpixels,
  set: Uint8Array,
  visit: (at: number, nearest: number) => void,
): void {
  const nearest = new Int32Array(labels.length).fill(-1);
  const queue = new Int32Array(labels.length);
  let end = 0;
  const come = (to: number, from: number) => {
    if (set[labels[to]] || nearest[to] >= 0) return;
    nearest[to] = from;
    queue[end++] = to;
  };
  const around = (at: number, from: number) => {
    const x = at % width;
    if (x > 0) come(at - 1, from);
    if (x < width - 1) come(at + 1, from);
    if (at >= width) come(at - width, from);
    if (at < width * (height - 1)) come(at + width, from);
  };
  labels.forEach((label, at) => {
    if (set[label]) around(at, label);
  });
  let start = 0;
  for (let step = 1; step < BEHIND; step++)
    for (const ring = end; start < ring; start++) around(queue[start], nearest[queue[start]]);
  for (let k = 0; k < end; k++) visit(queue[k], nearest[queue[k]]);
}
