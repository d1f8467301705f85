/** Nodes per octave and the domain of every light table; the kernels' `lookUpx4` is the other half of this fact. */
const NODES_PER_OCTAVE = 64;
const LOWEST_EXPONENT = -20;
const HIGHEST_EXPONENT = 6;
const NODES = (HIGHEST_EXPONENT - LOWEST_EXPONENT) * NODES_PER_OCTAVE + 1;

/**
 * Tabulates a function of linear light for the kernels: entry 0 is f(0), then f at 2^-20 … 2^6, 64 nodes an octave,
 * evenly spaced within it. Look-up is linear between nodes, so a linear function comes back exact; a smooth one of
 * slope and curvature about 1 per octave to within 3e-5.
 */
export function bakeLightTable(f: (light: number) => number): Float32Array {
  const table = new Float32Array(NODES + 1);
  table[0] = f(0);
  for (let i = 0; i < NODES; i++) table[i + 1] = f(lightAtNode(i));
  return table;
}

/** The light at node `i`, in scene units (1.0 = sensor white). */
function lightAtNode(i: number): number {
  const octave = Math.floor(i / NODES_PER_OCTAVE);
  return 2 ** (LOWEST_EXPONENT + octave) * (1 + (i % NODES_PER_OCTAVE) / NODES_PER_OCTAVE);
}
