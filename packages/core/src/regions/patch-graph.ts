import type { Superpixels } from "./superpixels.ts";

/** The patches beside each patch. */
export function neighbours({ count, from, to }: Superpixels): number[][] {
  const links: number[][] = Array.from({ length: count }, () => []);
  from.forEach((p, e) => {
    links[p].push(to[e]);
    links[to[e]].push(p);
  });
  return links;
}

/** What is reached from some patches over those that may be passed. */
export function reached(links: readonly number[][], from: readonly number[], may: (i: number) => boolean): Uint8Array {
  const out = new Uint8Array(links.length);
  const queue = [...from];
  for (const i of queue) out[i] = 1;
  for (let i = queue.pop(); i !== undefined; i = queue.pop())
    for (const j of links[i])
      if (!out[j] && may(j)) {
        out[j] = 1;
        queue.push(j);
      }
  return out;
}
