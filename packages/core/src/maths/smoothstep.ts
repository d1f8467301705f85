const { max, min } = Math;

/** 0 up to `from`, 1 beyond `to`, between them 3t² − 2t³: level at both ends. */
export function smoothstep(value: number, from: number, to: number): number {
  const t = min(1, max(0, (value - from) / (to - from)));
  return t * t * (3 - 2 * t);
}
