/** (x, y) ↦ (ax·x + bx·y + cx, ay·x + by·y + cy). */
export interface Affine {
  readonly ax: number;
  readonly bx: number;
  readonly cx: number;
  readonly ay: number;
  readonly by: number;
  readonly cy: number;
}

/** Applies a map to a point. */
export function applyAffine(map: Affine, x: number, y: number): [number, number] {
  return [map.ax * x + map.bx * y + map.cx, map.ay * x + map.by * y + map.cy];
}

/** First `inner`, then `outer`. */
export function composeAffine(outer: Affine, inner: Affine): Affine {
  const [cx, cy] = applyAffine(outer, inner.cx, inner.cy);
  return {
    ax: outer.ax * inner.ax + outer.bx * inner.ay,
    bx: outer.ax * inner.bx + outer.bx * inner.by,
    cx,
    ay: outer.ay * inner.ax + outer.by * inner.ay,
    by: outer.ay * inner.bx + outer.by * inner.by,
    cy,
  };
}

/** The inverse map. */
export function invertAffine({ ax, bx, cx, ay, by, cy }: Affine): Affine {
  const s = 1 / (ax * by - bx * ay);
  return {
    ax: by * s,
    bx: -bx * s,
    cx: (bx * cy - by * cx) * s,
    ay: -ay * s,
    by: ax * s,
    cy: (ay * cx - ax * cy) * s,
  };
}
