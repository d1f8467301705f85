export interface Cell {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/**
 * Pictures in rows, in their order, as large as an area allows: all the pictures of a spread have the same area, and of all
 * numbers of rows the one with the largest is taken.
 * @param ratios - width over height of each.
 * @param caption - room below each, px.
 */
export function layOut(ratios: readonly number[], width: number, height: number, caption: number, gap: number): Cell[] {
  let best: Cell[] = [];
  let largest = 0;
  for (let rows = 1; rows <= ratios.length; rows++) {
    const perRow = Math.ceil(ratios.length / rows);
    const lines = Array.from({ length: rows }, (_, r) => ratios.slice(r * perRow, (r + 1) * perRow)).filter(
      (line) => line.length > 0,
    );
    // With area s² each is s·√ratio wide and s/√ratio high.
    const tall = lines.map((line) => Math.max(...line.map((ratio) => 1 / Math.sqrt(ratio))));
    const free = height - lines.length * caption - (lines.length - 1) * gap;
    const byHeight = free / tall.reduce((sum, one) => sum + one, 0);
    const byWidth = Math.min(
      ...lines.map(
        (line) => (width - (line.length - 1) * gap) / line.reduce((sum, ratio) => sum + Math.sqrt(ratio), 0),
      ),
    );
    const side = Math.min(byHeight, byWidth);
    if (side <= largest) continue;
    largest = side;
    best = [];
    let y = Math.max(0, (free - side * tall.reduce((sum, one) => sum + one, 0)) / 2);
    lines.forEach((line, r) => {
      const used = side * line.reduce((sum, ratio) => sum + Math.sqrt(ratio), 0) + (line.length - 1) * gap;
      let x = (width - used) / 2;
      for (const ratio of line) {
        const [w, h] = [side * Math.sqrt(ratio), side / Math.sqrt(ratio)];
        best.push({ x, y: y + side * tall[r] - h, width: w, height: h });
        x += w + gap;
      }
      y += side * tall[r] + caption + gap;
    });
  }
  return best;
}
