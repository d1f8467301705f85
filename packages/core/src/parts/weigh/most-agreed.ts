import { nearestOf, type Cluster } from "./cluster-colours.ts";

/**
 * Of several ways to divide colours the one that agrees most with all others (the medoid).
 * @param candidates - of which one is taken, one at least; `others` only have a say. None of them is empty.
 */
export function mostAgreed(
  points: readonly Cluster[],
  candidates: readonly Cluster[][],
  others: readonly Cluster[][],
): Cluster[] {
  const wayOf = (clusters: Cluster[]): Way => ({ clusters, owners: points.map((point) => nearestOf(point, clusters)) });
  const all = [...candidates, ...others].map(wayOf);
  const agreed = all
    .slice(0, candidates.length)
    .map((way) => all.reduce((sum, other) => sum + (other === way ? 0 : agreement(points, way, other)), 0));
  return [...candidates[agreed.indexOf(Math.max(...agreed))]];
}

interface Way {
  readonly clusters: readonly Cluster[];
  readonly owners: readonly number[];
}

/** What of the colours lies in clusters that two ways share, by the way that shares less. */
function agreement(points: readonly Cluster[], one: Way, other: Way): number {
  const [rows, columns] = [one.clusters.length, other.clusters.length];
  const shared = new Float64Array(rows * columns);
  points.forEach(({ weight }, i) => (shared[one.owners[i] * columns + other.owners[i]] += weight));
  let total = 0;
  const byRow = new Float64Array(rows);
  const byColumn = new Float64Array(columns);
  shared.forEach((weight, at) => {
    const [row, column] = [Math.floor(at / columns), at % columns];
    total += weight;
    byRow[row] = Math.max(byRow[row], weight);
    byColumn[column] = Math.max(byColumn[column], weight);
  });
  const sum = (list: Float64Array) => list.reduce((all, value) => all + value, 0);
  return Math.min(sum(byRow), sum(byColumn)) / total;
}
