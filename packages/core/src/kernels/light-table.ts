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

/**
 * Tabulates a function of linear light over scene stops, from 2^-20 to 2^6, 64 nodes a stop (`lookUpStopsx4` is the other half of
 * this fact). Look-up is linear between nodes: a linear function of light comes back to within 2e-5 of itself. What is darker
 * counts as the first node.
 */
export function bakeStopsTable(f: (light: number) => number): Float32Array {
  return Float32Array.from({ length: NODES + 1 }, (_, i) =>
    f(2 ** (LOWEST_EXPONENT + Math.min(i, NODES - 1) / NODES_PER_OCTAVE)),
  );
}

/** Deepest density that is told, octaves: where the kernels cut reflectance off, too. */
const DEEPEST_OCTAVES = -Math.log2(1e-6);

/** A table of reflectance as one of density in octaves, −log2 reflectance, at the same nodes; what is brighter than white counts as white. */
export function densityTableOf(reflectances: Float32Array): Float32Array {
  return reflectances.map((r) => Math.min(DEEPEST_OCTAVES, Math.max(0, -Math.log2(r))));
}

/** Octaves of density that a code table covers. */
const DENSITY_OCTAVES = 16;
const CODE_SCALE = 128;

/**
 * Packs codes for `encodeRgba8`: nodes over density in octaves (−log2 reflectance), each with red, green, blue and opaque here and
 * at the next node, times 128.
 * @param code - codes 0–255 of a reflectance, not rounded.
 */
export function bakeCodeTable(code: (reflectance: number) => readonly [number, number, number]): Int16Array {
  const nodes = DENSITY_OCTAVES * NODES_PER_OCTAVE;
  const table = new Int16Array(8 * nodes);
  const scaled = Array.from({ length: nodes + 1 }, (_, i) =>
    [...code(2 ** (-i / NODES_PER_OCTAVE)), 255].map((v) => Math.round(CODE_SCALE * v)),
  );
  for (let i = 0; i < nodes; i++)
    for (let c = 0; c < 4; c++) {
      table[8 * i + 2 * c] = scaled[i][c];
      table[8 * i + 2 * c + 1] = scaled[i + 1][c];
    }
  return table;
}
