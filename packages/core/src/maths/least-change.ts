/** a·x ≥ atLeast. */
export interface LinearBound {
  readonly a: readonly number[];
  readonly atLeast: number;
}

const SWEEPS = 400;
const EXACT = 1e-6;

/**
 * The shortest x with a·x ≥ atLeast for every bound: Hildreth's method (1957), coordinate ascent on the dual.
 * @returns x, and the largest shortfall of any bound that is left, 0 when all are met.
 */
export function leastChange(length: number, bounds: readonly LinearBound[]): { x: number[]; shortfall: number } {
  const x = new Array<number>(length).fill(0);
  const pull = new Array<number>(bounds.length).fill(0);
  const size = bounds.map(({ a }) => a.reduce((sum, v) => sum + v * v, 0));
  const missing = ({ a, atLeast }: LinearBound) => atLeast - a.reduce((sum, v, i) => sum + v * x[i], 0);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    let moved = 0;
    bounds.forEach((bound, k) => {
      if (size[k] < 1e-12) return;
      const next = Math.max(0, pull[k] + missing(bound) / size[k]);
      const change = next - pull[k];
      pull[k] = next;
      bound.a.forEach((v, i) => (x[i] += change * v));
      moved = Math.max(moved, Math.abs(change) * Math.sqrt(size[k]));
    });
    if (moved < EXACT) break;
  }
  return { x, shortfall: Math.max(0, ...bounds.map(missing)) };
}
