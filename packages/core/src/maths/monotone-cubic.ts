/**
 * Monotone cubic through points with rising x (Fritsch & Carlson 1980, tangents limited to the monotone region).
 * Constant beyond the first and last point.
 * @throws {RangeError} with fewer than two points, or when x does not rise.
 */
export function monotoneCubic(points: readonly (readonly [number, number])[]): (x: number) => number {
  const n = points.length;
  if (n < 2) throw new RangeError(`Expected at least two points but received ${n}.`);
  const slopes: number[] = [];
  for (let i = 0; i + 1 < n; i++) {
    const width = points[i + 1][0] - points[i][0];
    if (!(width > 0)) throw new RangeError(`Expected rising x but received ${points[i][0]} then ${points[i + 1][0]}.`);
    slopes.push((points[i + 1][1] - points[i][1]) / width);
  }
  const tangents = points.map((_, i) => {
    if (i === 0) return slopes[0];
    if (i === n - 1) return slopes[n - 2];
    return slopes[i - 1] * slopes[i] <= 0 ? 0 : (slopes[i - 1] + slopes[i]) / 2;
  });
  for (let i = 0; i + 1 < n; i++) {
    if (slopes[i] === 0) {
      tangents[i] = tangents[i + 1] = 0;
      continue;
    }
    const a = tangents[i] / slopes[i];
    const b = tangents[i + 1] / slopes[i];
    const size = Math.hypot(a, b);
    if (size > 3) {
      tangents[i] = (3 * a * slopes[i]) / size;
      tangents[i + 1] = (3 * b * slopes[i]) / size;
    }
  }
  return (x) => {
    if (x <= points[0][0]) return points[0][1];
    if (x >= points[n - 1][0]) return points[n - 1][1];
    let i = 0;
    while (x > points[i + 1][0]) i++;
    const h = points[i + 1][0] - points[i][0];
    const t = (x - points[i][0]) / h;
    const u = 1 - t;
    return (
      u * u * (1 + 2 * t) * points[i][1] +
      t * t * (3 - 2 * t) * points[i + 1][1] +
      h * t * u * (u * tangents[i] - t * tangents[i + 1])
    );
  };
}
