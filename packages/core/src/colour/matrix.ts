/** A 3×3 matrix, row-major. */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];
/** Three components: a colour, a white point or one row of a matrix. */
export type Vector3 = readonly [number, number, number];

export const IDENTITY3: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** Matrix product a·b: applies `b` first. */
export function multiply3(a: Matrix3, b: Matrix3): Matrix3 {
  const out: number[] = [];
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 3; column++)
      out.push(a[3 * row] * b[column] + a[3 * row + 1] * b[column + 3] + a[3 * row + 2] * b[column + 6]);
  return out as unknown as Matrix3;
}

/** Matrix · column vector. */
export function transform3(m: Matrix3, v: Vector3): Vector3 {
  return [
    m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
    m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
    m[6] * v[0] + m[7] * v[1] + m[8] * v[2],
  ];
}

/** Matrix with `v` on its diagonal. */
export function diagonal3(v: Vector3): Matrix3 {
  return [v[0], 0, 0, 0, v[1], 0, 0, 0, v[2]];
}

/**
 * Inverse by cofactors.
 * @throws {RangeError} when the matrix is singular or holds a value that is not finite.
 */
export function invert3(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  if (!Number.isFinite(determinant) || Math.abs(determinant) < 1e-12)
    throw new RangeError(`Expected an invertible matrix but received determinant ${determinant}.`);
  const s = 1 / determinant;
  return [
    (e * i - f * h) * s,
    (c * h - b * i) * s,
    (b * f - c * e) * s,
    (f * g - d * i) * s,
    (a * i - c * g) * s,
    (c * d - a * f) * s,
    (d * h - e * g) * s,
    (b * g - a * h) * s,
    (a * e - b * d) * s,
  ];
}

export function transpose3(m: Matrix3): Matrix3 {
  return [m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]];
}
