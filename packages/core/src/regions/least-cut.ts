/** A graph whose nodes go to one side or the other. */
export interface CutGraph {
  readonly count: number;
  /** What it costs to put a node on the far side (`toFar`) or on the near one. */
  readonly toNear: ArrayLike<number>;
  readonly toFar: ArrayLike<number>;
  /** What it costs to part two nodes, the same both ways. */
  readonly from: ArrayLike<number>;
  readonly to: ArrayLike<number>;
  readonly parting: ArrayLike<number>;
}

/** Flow less than this is none. */
const NOTHING = 1e-7;

/**
 * The cheapest way to part a graph's nodes: 1 for those on the near side. The least cut is the greatest flow (Ford, Fulkerson
 * 1956), found along shortest paths in layers (Dinic 1970).
 */
export function leastCut({ count, toNear, toFar, from, to, parting }: CutGraph): Uint8Array {
  const [source, sink] = [count, count + 1];
  const arcs = 2 * (2 * count + from.length);
  const [head, capacity, next] = [new Int32Array(arcs), new Float64Array(arcs), new Int32Array(arcs)];
  const first = new Int32Array(count + 2).fill(-1);
  let used = 0;
  const way = (p: number, q: number, most: number) => {
    head[used] = q;
    capacity[used] = most;
    next[used] = first[p];
    first[p] = used++;
  };
  const arc = (p: number, q: number, there: number, back: number) => {
    way(p, q, there);
    way(q, p, back);
  };
  for (let i = 0; i < count; i++) {
    // What is cut from the source goes to the far side, and costs that.
    arc(source, i, toFar[i], 0);
    arc(i, sink, toNear[i], 0);
  }
  for (let e = 0; e < from.length; e++) arc(from[e], to[e], parting[e], parting[e]);

  const layer = new Int32Array(count + 2);
  const at = new Int32Array(count + 2);
  const queue = new Int32Array(count + 2);
  const reach = (): boolean => {
    layer.fill(-1);
    layer[source] = 0;
    let [head_, tail] = [0, 1];
    queue[0] = source;
    while (head_ < tail) {
      const p = queue[head_++];
      for (let e = first[p]; e >= 0; e = next[e])
        if (capacity[e] > NOTHING && layer[head[e]] < 0) {
          layer[head[e]] = layer[p] + 1;
          queue[tail++] = head[e];
        }
    }
    return layer[sink] >= 0;
  };
  const path = new Int32Array(count + 2);
  while (reach()) {
    at.set(first);
    // One path after the other, each followed from the source anew.
    let [p, depth] = [source, 0];
    for (;;) {
      if (p === sink) {
        let least = Infinity;
        for (let d = 0; d < depth; d++) least = Math.min(least, capacity[path[d]]);
        let back = 0;
        for (let d = depth - 1; d >= 0; d--) {
          capacity[path[d]] -= least;
          capacity[path[d] ^ 1] += least;
          if (capacity[path[d]] <= NOTHING) back = d;
        }
        depth = back;
        p = head[path[back] ^ 1];
        continue;
      }
      let e = at[p];
      while (e >= 0 && !(capacity[e] > NOTHING && layer[head[e]] === layer[p] + 1)) e = next[e];
      at[p] = e;
      if (e >= 0) {
        path[depth++] = e;
        p = head[e];
      } else {
        if (p === source) break;
        layer[p] = -1;
        depth--;
        p = head[path[depth] ^ 1];
      }
    }
  }
  return Uint8Array.from({ length: count }, (_, i) => (layer[i] >= 0 ? 1 : 0));
}
