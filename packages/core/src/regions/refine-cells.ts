import { boxMeans } from "../maths/box-means.ts";
import type { PlanarPicture } from "./superpixels.ts";

/** Half windows in which inside and outside are told apart by colour, cells, a round each: wide ones reach sky that leaves cut off. */
const WINDOWS = [24, 12, 7] as const;
/** Colours that vary by less than this share of their mean are one and the same. */
const EVEN = 0.03;
/** A step between cells, as a share of their light, at which a cell counts half: it may be of two things. */
const FLAT = 0.06;
/** Share of a cell from which on it is inside: windows at a border know more of the inside's colours than of what is before it. */
const MOSTLY = 0.6;
/** How much a cell counts of which it is not known where it belongs. */
const UNSURE = 1e-4;
/** Cells that differ from all their neighbours go with them. */
const LONELY = 2;

/** Moves a region's border to where the colours change; see {@link cellRefiner}. */
export type RefineCells = (inside: Uint8Array, unsure?: Uint8Array) => Uint8Array;

/**
 * Makes ready to move borders of regions to where a picture's colours change, cell by cell: in each window inside is fitted as a line of
 * the linear colours (a guided filter: He, Sun, Tang 2010), pure cells counting most, so that a cell that is of two things goes to
 * the one of which it has more; some times over, in ever smaller windows. Of what it is given:
 * `inside` - 1 for cells that are inside at first; `unsure` - 1 for cells of which it is not known where they belong: at first they have
 * no say.
 * @param meansOf - a faster way to the same means.
 */
export function cellRefiner({ width, height, planes }: PlanarPicture, meansOf = boxMeans): RefineCells {
  const n = width * height;
  const [r, g, b] = planes;
  const product = (p: Float32Array, q: Float32Array | Uint8Array) => {
    const out = new Float32Array(n);
    for (let i = 0; i < n; i++) out[i] = p[i] * q[i];
    return out;
  };
  const whole = purity(g, width, height);
  const momentsOf = (pure: Float32Array, window: number) => {
    const mean = (plane: Float32Array) => meansOf(plane, width, height, window);
    const times = (p: Float32Array, q: Float32Array) => mean(product(p, q));
    const weighted = planes.map((plane) => product(plane, pure));
    return {
      pure,
      weighted,
      weight: mean(pure),
      means: weighted.map(mean),
      squares: [times(weighted[0], r), times(weighted[0], g), times(weighted[0], b)],
      others: [times(weighted[1], g), times(weighted[1], b), times(weighted[2], b)],
    };
  };
  const usual = new Map<number, ReturnType<typeof momentsOf>>();
  const usualMoments = (window: number) => {
    const moments = usual.get(window) ?? momentsOf(whole, window);
    usual.set(window, moments);
    return moments;
  };
  return (inside, unsure) => {
    let cells = inside;
    for (const [round, window] of WINDOWS.entries()) {
      const { pure, weighted, weight, means, squares, others } =
        round === 0 && unsure
          ? momentsOf(
              whole.map((v, i) => (unsure[i] ? UNSURE * v : v)),
              window,
            )
          : usualMoments(window);
      const [wr, wg, wb] = means;
      const [rr, rg, rb] = squares;
      const [gg, gb, bb] = others;
      const [wm, rm, gm, bm] = [pure, ...weighted].map((plane) =>
        meansOf(product(plane, cells), width, height, window),
      );
      const next = cells.slice();
      for (let i = 0; i < n; i++) {
        // Far from any border there is nothing to move.
        if (wm[i] <= 1e-4 * weight[i] || wm[i] >= (1 - 1e-4) * weight[i]) continue;
        const w = 1 / weight[i];
        const share = wm[i] * w;
        const [mr, mg, mb] = [wr[i] * w, wg[i] * w, wb[i] * w];
        const ridge = (EVEN * ((mr + mg + mb) / 3)) ** 2 + 1e-10;
        // Covariances of the colours, and of each with what is inside.
        const [vrr, vrg, vrb] = [rr[i] * w - mr * mr + ridge, rg[i] * w - mr * mg, rb[i] * w - mr * mb];
        const [vgg, vgb, vbb] = [gg[i] * w - mg * mg + ridge, gb[i] * w - mg * mb, bb[i] * w - mb * mb + ridge];
        const [ir, ig, ib] = [rm[i] * w - mr * share, gm[i] * w - mg * share, bm[i] * w - mb * share];
        const value = share + alongLine(vrr, vrg, vrb, vgg, vgb, vbb, ir, ig, ib, r[i] - mr, g[i] - mg, b[i] - mb);
        next[i] = value > MOSTLY ? 1 : 0;
      }
      cells = withoutLonely(next, width, height);
    }
    return cells;
  };
}

/**
 * d · M⁻¹ · v of a symmetric M, a number at a time: it is asked for of each cell at a border, some times over, and lists of three would
 * take most of the time.
 */
function alongLine(
  m11: number, m12: number, m13: number, m22: number, m23: number, m33: number,
  v1: number, v2: number, v3: number, d1: number, d2: number, d3: number,
): number {
  const c11 = m22 * m33 - m23 * m23;
  const c12 = m13 * m23 - m12 * m33;
  const c13 = m12 * m23 - m13 * m22;
  const c22 = m11 * m33 - m13 * m13;
  const c23 = m12 * m13 - m11 * m23;
  const c33 = m11 * m22 - m12 * m12;
  const inverse = 1 / (m11 * c11 + m12 * c12 + m13 * c13);
  const [x1, x2, x3] = [c11 * v1 + c12 * v2 + c13 * v3, c12 * v1 + c22 * v2 + c23 * v3, c13 * v1 + c23 * v2 + c33 * v3];
  return inverse * (x1 * d1 + x2 * d2 + x3 * d3);
} // prettier-ignore

/** Cells that have hardly a neighbour of their own go with the others. */
function withoutLonely(cells: Uint8Array, width: number, height: number): Uint8Array {
  const out = cells.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const [up, down] = [i - width, i + width];
      const around =
        cells[up - 1] +
        cells[up] +
        cells[up + 1] +
        cells[i - 1] +
        cells[i + 1] +
        cells[down - 1] +
        cells[down] +
        cells[down + 1];
      if ((cells[i] === 1 ? around : 8 - around) < LONELY) out[i] = 1 - cells[i];
    }
  return out;
}

/** How surely each cell is of one thing, 0–1: where light changes from cell to cell it may be of two. */
function purity(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const across = plane[x + 1 < width ? i + 1 : i] - plane[x > 0 ? i - 1 : i];
      const down = plane[y + 1 < height ? i + width : i] - plane[y > 0 ? i - width : i];
      const step = (across * across + down * down) / (4 * (plane[i] * plane[i] + 1e-6));
      out[i] = 1 / (1 + step / FLAT ** 2) + 0.01;
    }
  return out;
}
