import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { GraphPrint, Need, Stage } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import { BAND_BYTES, bands, drawLine } from "./coarse-line.ts";
import { guidedBase } from "./guided-base.ts";
import type { Shape } from "./schema.ts";
import { onOverview } from "./overview.ts";
import { toneBaseStage } from "./tone-base-stage.ts";

type Read = "localContrast" | "detail" | "openShadows" | "holdHighlights";
type LocalPrint = GraphPrint & { readonly recipe: { readonly shape: Pick<Shape, Read> } };

/** Share of the slope that opening and holding take at full strength. */
const OPEN_SLOPE = 0.5;
const HOLD_SLOPE = 0.6;
/** Where shadows begin to open, where that ends, and over how much it sets in: stops below Zone V. */
const SHADOWS = [0.25, 5.5, 2] as const;
/** The same of highlights, stops above Zone V. */
const HIGHLIGHTS = [0, 4, 1.5] as const;

const hasTones = ({ recipe: { shape } }: LocalPrint) => Object.values(shape.localContrast).some((gain) => gain !== 0);
/** Whether fine detail gets another gain than what is wider. */
const hasFine = ({ recipe: { shape } }: LocalPrint) => shape.detail.fine !== shape.detail.middle;
const hasMiddle = (print: LocalPrint) => {
  const { middle, broad } = print.recipe.shape.detail;
  return hasTones(print) || middle !== 0 || broad !== 0;
};
const hasBroad = ({ recipe: { shape } }: LocalPrint) =>
  shape.detail.broad !== 0 || shape.openShadows !== 0 || shape.holdHighlights !== 0;

const fine = guidedBase<LocalPrint>("fine-base", "haze", 0.0012, 1, hasFine);
const middle = guidedBase<LocalPrint>("base", "haze", 0.008, 5, hasMiddle);
const toneBase = toneBaseStage<LocalPrint>(hasBroad);

/** Contrast in space: detail about edge-keeping bases, by tone and by scale, and what belongs to the tone base. */
const localStage: Stage<LocalPrint> = {
  name: "local",
  grid: "frame",
  planes: 1,
  costNs: 14,
  after: "haze",
  reads: ({ recipe: { shape } }) => [shape.localContrast, shape.detail, shape.openShadows, shape.holdHighlights],
  isActive: (print) => hasFine(print) || hasMiddle(print) || hasBroad(print),
  needs: (print, level, rect) => [
    { stage: "haze", level, rect },
    ...(hasFine(print) ? [fine.need(print, level, rect)] : []),
    ...(hasMiddle(print) ? [middle.need(print, level, rect)] : []),
    ...(hasBroad(print) ? [onOverview("tone-base", print, level, rect)] : []),
  ],
  compute({ heap, print, read }, level, rect, [out]) {
    const { kernels } = heap;
    const { localContrast, detail, openShadows, holdHighlights } = print.recipe.shape;
    const [stops] = read({ stage: "haze", level, rect });
    /** Prepares one base, to be drawn band by band; 0 when there is none. */
    const bandsOf = (need: Need<LocalPrint> | null) => {
      if (!need) return () => 0;
      const line = read(need);
      const plane = heap.allocate(BAND_BYTES);
      return (band: Rect) => {
        drawLine(heap, line, need.level, stops, level, band, plane);
        return plane;
      };
    };
    const bases = [
      bandsOf(hasFine(print) ? fine.need(print, level, rect) : null),
      bandsOf(hasMiddle(print) ? middle.need(print, level, rect) : null),
      bandsOf(hasBroad(print) ? onOverview("tone-base", print, level, rect) : null),
    ];
    const gains = heap.place(
      Float32Array.of(localContrast.low, localContrast.mid, localContrast.high, detail.middle, detail.fine),
    );
    const bends = heap.place(
      Float32Array.of(OPEN_SLOPE * openShadows, -HOLD_SLOPE * holdHighlights, ...SHADOWS, ...HIGHLIGHTS),
    );
    for (const band of bands(rect)) {
      const { width, height } = band;
      const row = band.y - rect.y;
      const to = out + 4 * row * SLOT_EDGE;
      const [fineBase, middleBase, tones] = bases.map((draw) => draw(band));
      kernels.detailByTone(
        stops.pointer + 4 * row * stops.stride, stops.stride, fineBase, middleBase, SLOT_EDGE, to, SLOT_EDGE,
        width, height, gains,
      ); // prettier-ignore
      if (tones) kernels.shiftByBase(to, SLOT_EDGE, tones, middleBase, SLOT_EDGE, width, height, detail.broad, bends);
    }
  },
};

export const LOCAL_STAGES = [fine.stage, middle.stage, toneBase, localStage];
