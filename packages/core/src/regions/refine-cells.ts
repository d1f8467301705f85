import { boxMeans } from "../maths/box-means.ts";
import { solveSymmetric3 } from "../maths/solve-symmetric3.ts";
import type { PlanarPicture } from "./superpixels.ts";

/** Half window in which inside and outside are told apart by colour, cells, and rounds. */
const WINDOW = 7;
const ROUNDS = 3;
/** Colours that vary by less than this share of their mean are one and the same. */
const EVEN = 0.03;
/** A step between cells, as a share of their light, at which a cell counts half: it may be of two things. */
const FLAT = 0.06;
/** Share of a cell from which on it is inside: windows at a border know more of the inside's colours than of what is before it. */
const MOSTLY = 0.58;
/** How much a cell counts of which it is not known where it belongs. */
const UNSURE = 1e-4;
/** Cells that differ from all their neighbours go with them. */
const LONELY = 2;

/** Moves a region's border to where the colours change; see {@link cellRefiner}. */
export type RefineCells = (inside: Uint8Array, unsure?: Uint8Array) => Uint8Array;

/**
 * Makes ready to move borders of regions to where a picture's colours change, cell by cell: in each window inside is fitted as a line of
 * the linear colours (a guided filter: He, Sun, Tang 2010), pure cells counting most, so that a cell that is of two things goes to
 * the one of which it has more; some times over. Of what it is given:
 * `inside` - 1 for cells that are inside at first; `unsure` - 1 for cells of which it is not known where they belong: at first they have
 * no say.
 */
export function cellRefiner({ width, height, planes }: PlanarPicture): RefineCells {
  const n = width * height;
  const [r, g, b] = planes;
  const mean = (plane: Float32Array) => boxMeans(plane, width, height, WINDOW);
  const product = (p: Float32Array, q: Float32Array) => {
    const out = new Float32Array(n);
    for (let i = 0; i < n; i++) out[i] = p[i] * q[i];
    return out;
  };
  const times = (p: Float32Array, q: Float32Array) => mean(product(p, q));
  const whole = purity(g, width, height);
  const momentsOf = (pure: Float32Array) => {
    const weighted = planes.map((plane) => product(plane, pure));
    return {
      pure,
      weight: mean(pure),
      means: weighted.map(mean),
      squares: [times(weighted[0], r), times(weighted[0], g), times(weighted[0], b)],
      others: [times(weighted[1], g), times(weighted[1], b), times(weighted[2], b)],
    };
  };
  let usual: ReturnType<typeof momentsOf> | null = null;
  return (inside, unsure) => {
    let cells = inside;
    for (let round = 0; round < ROUNDS; round++) {
      const { pure, weight, means, squares, others } =
        round === 0 && unsure
          ? momentsOf(whole.map((v, i) => (unsure[i] ? UNSURE * v : v)))
          : (usual ??= momentsOf(whole));
      const [wr, wg, wb] = means;
      const [rr, rg, rb] = squares;
      const [gg, gb, bb] = others;
      const own = new Float32Array(n);
      for (let i = 0; i < n; i++) own[i] = cells[i] * pure[i];
      const wm = mean(own);
      const [rm, gm, bm] = planes.map((plane) => times(own, plane));
      const next = new Uint8Array(n);
      for (let i = 0; i < n; i++) {
        const share = wm[i] / weight[i];
        if (!(share > 1e-4 && share < 1 - 1e-4)) {
          next[i] = cells[i];
          continue;
        }
        const w = 1 / weight[i];
        const [mr, mg, mb] = [wr[i] * w, wg[i] * w, wb[i] * w];
        const ridge = (EVEN * ((mr + mg + mb) / 3)) ** 2 + 1e-10;
        const line = solveSymmetric3(
          [rr[i] * w - mr * mr + ridge, rg[i] * w - mr * mg, rb[i] * w - mr * mb],
          [gg[i] * w - mg * mg + ridge, gb[i] * w - mg * mb, bb[i] * w - mb * mb + ridge],
          [rm[i] * w - mr * share, gm[i] * w - mg * share, bm[i] * w - mb * share],
        );
        const value = share + line[0] * (r[i] - mr) + line[1] * (g[i] - mg) + line[2] * (b[i] - mb);
        next[i] = value > MOSTLY ? 1 : 0;
      }
      cells = withoutLonely(next, width, height);
    }
    return cells;
  };
}

/** Cells that have hardly a neighbour of their own go with the others. */
function withoutLonely(cells: Uint8Array, width: number, height: number): Uint8Array {
  const out = cells.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      let like = 0;
      for (const j of [i - width - 1, i - width, i - width + 1, i - 1, i + 1, i + width - 1, i + width, i + width + 1])
        if (cells[j] === cells[i]) like++;
      if (like < LONELY) out[i] = 1 - cells[i];
    }
  return out;
}

/** How surely each cell is of one thing, 0–1: where light changes from cell to cell it may be of two. */
function purity(plane: Float32Array, width: number, height: number): Float32Array {
  return Float32Array.from(plane, (v, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    const across = plane[x + 1 < width ? i + 1 : i] - plane[x > 0 ? i - 1 : i];
    const down = plane[y + 1 < height ? i + width : i] - plane[y > 0 ? i - width : i];
    const step = (across * across + down * down) / (4 * (v * v + 1e-6));
    return 1 / (1 + step / FLAT ** 2) + 0.01;
  });
}
