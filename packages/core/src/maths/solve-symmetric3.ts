type Three = readonly [number, number, number];

/** Three unknowns of a symmetric system, its matrix given by rows from the diagonal on: [a11, a12, a13], [a22, a23, a33]. */
export function solveSymmetric3([a11, a12, a13]: Three, [a22, a23, a33]: Three, [b1, b2, b3]: Three): Three {
  const c11 = a22 * a33 - a23 * a23;
  const c12 = a13 * a23 - a12 * a33;
  const c13 = a12 * a23 - a13 * a22;
  const c22 = a11 * a33 - a13 * a13;
  const c23 = a12 * a13 - a11 * a23;
  const c33 = a11 * a22 - a12 * a12;
  const inverse = 1 / (a11 * c11 + a12 * c12 + a13 * c13);
  return [
    (c11 * b1 + c12 * b2 + c13 * b3) * inverse,
    (c12 * b1 + c22 * b2 + c23 * b3) * inverse,
    (c13 * b1 + c23 * b2 + c33 * b3) * inverse,
  ];
}
