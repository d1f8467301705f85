import { difference, type Superpixels } from "./superpixels.ts";

/** The patches beside each patch. */
export function neighbours({ count, from, to }: Superpixels): number[][] {
  const links: number[][] = Array.from({ length: count }, () => []);
  from.forEach((p, e) => {
    links[p].push(to[e]);
    links[to[e]].push(p);
  });
  return links;
}

/** The patches that are marked with a value. */
export function patchesOf(marks: Uint8Array, value = 1): number[] {
  return [...marks.keys()].filter((i) => marks[i] === value);
}

/** Cells of the patches of a kind. */
export function areaOf({ sizes }: Superpixels, isOf: (i: number) => boolean): number {
  return sizes.reduce((sum, size, i) => (isOf(i) ? sum + size : sum), 0);
}

/** What is reached from some patches over those that may be passed. */
export function reached(
  links: readonly number[][],
  from: readonly number[],
  may: (i: number, from: number) => boolean,
): Uint8Array {
  const out = new Uint8Array(links.length);
  const queue = [...from];
  for (const i of queue) out[i] = 1;
  for (let i = queue.pop(); i !== undefined; i = queue.pop())
    for (const j of links[i])
      if (!out[j] && may(j, i)) {
        out[j] = 1;
        queue.push(j);
      }
  return out;
}

/** What a step from patch to patch costs at least. */
const LEAST_STEP = 0.012;

/**
 * How far each patch is from some: the least sum of steps of colour on the way (Bai & Sapiro 2007). Infinite where there is no way.
 * @param may - patches that may be passed.
 */
export function farFrom(patches: Superpixels, from: readonly number[], may: (i: number) => boolean): Float64Array {
  const { count } = patches;
  const links = neighbours(patches);
  const far = new Float64Array(count).fill(Infinity);
  const done = new Uint8Array(count);
  for (const i of from) far[i] = 0;
  for (;;) {
    let next = -1;
    for (let i = 0; i < count; i++) if (!done[i] && far[i] < Infinity && (next < 0 || far[i] < far[next])) next = i;
    if (next < 0) return far;
    done[next] = 1;
    for (const j of links[next])
      if (!done[j] && may(j)) far[j] = Math.min(far[j], far[next] + difference(patches, next, j) + LEAST_STEP);
  }
}
