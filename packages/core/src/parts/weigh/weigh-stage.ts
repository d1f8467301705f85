import { channelValues } from "../ground/facts.ts";
import type { WeighPrint } from "./print.ts";
import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Stage } from "../../graph/stage.ts";
import { tileSize } from "../../tiles/tiles.ts";
import { placesIn } from "../../tiles/view.ts";
import { fieldNeed } from "./field-stage.ts";

/**
 * Colour into grey: scene light E = red·R + green·G + blue·B, exposure in the weights; where families or a film move colours,
 * by the field's weights instead.
 */
export const weighStage: Stage<WeighPrint> = {
  name: "weigh",
  grid: "negative",
  planes: 1,
  costNs: 14,
  after: null,
  reads: ({ grey, overShare, recipe }) => [grey.weights, overShare, recipe.ground.lens.fallOffStops],
  isActive: () => true,
  needs: (print, level, rect) => (print.colourMoves ? [fieldNeed(print, level, rect)] : []),
  negativeTiles: (_print, level, rect) => placesIn(rect, level),
  compute({ heap, print, negativeTile, read }, level, rect, [out]) {
    const place = { level, column: rect.x / SLOT_EDGE, row: rect.y / SLOT_EDGE };
    const { width, height } = tileSize(print.negative, place);
    const tile = negativeTile(place);
    const halves = heap.place(tile);
    const plane = 2 * width * height;
    const { grey, colourMoves } = print;
    const planes = [halves, halves + plane, halves + 2 * plane] as const;
    if (colourMoves) {
      const need = fieldNeed(print, level, rect);
      const field = read(need);
      const [{ stride, width: across, height: down, x, y }] = field;
      const [x0, x1, x2, x3, x4, x5, x6, x7, x8, x9, x10] = field.map(({ pointer }) => pointer);
      const ratio = 2 ** (level - need.level);
      heap.kernels.weighByField(
        ...planes, width, height, out, SLOT_EDGE, x0, x1, x2, x3, x4, x5, x6, x7, x8, x9, x10, stride, across, down, heap.allocate(352 * ((width + 3) >> 2)),
        (rect.x + 0.5) * ratio - 0.5 - x, (rect.y + 0.5) * ratio - 0.5 - y, ratio, ...grey.weights,
        colourMoves.filmLeast, colourMoves.filmMost, heap.place(channelValues(colourMoves.toChannels)),
      ); // prettier-ignore
    } else heap.kernels.weighHalf(...planes, width, height, out, SLOT_EDGE, ...grey.weights);
    if (print.overShare !== 0 && tile.length > 3 * width * height) {
      const over = halves + 3 * plane;
      const [red, green, blue] = grey.weights;
      const light = heap.allocate(4 * SLOT_EDGE * height);
      const gain = (red + green + blue) * print.overShare;
      heap.kernels.weighHalf(over, over, over, width, height, light, SLOT_EDGE, gain, 0, 0);
      heap.kernels.addPlane(out, light, SLOT_EDGE * height);
    }
    const { fallOffStops } = print.recipe.ground.lens;
    if (fallOffStops === 0) return;
    const radius = Math.hypot(print.negative.width, print.negative.height) / 2;
    const step = 2 ** level / radius;
    const from = (corner: number, whole: number) => (corner + 0.5) * step - whole / 2 / radius;
    const { x, y } = rect;
    heap.kernels.liftCorners(
      out, SLOT_EDGE, width, height, from(x, print.negative.width), from(y, print.negative.height), step, fallOffStops,
    ); // prettier-ignore
  },
};
