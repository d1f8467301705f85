import type { Stage } from "../graph/stage.ts";
import { PARTS } from "../recipe/parts.ts";
import type { PreparedPrint } from "./prepare.ts";

/** Every part's stages on tiles. Their order follows from what each declares that it comes after and needs. */
export const PIPELINE = PARTS.flatMap(({ stages }) => stages as readonly unknown[]) as readonly Stage<PreparedPrint>[];
/** Every part's steps on the view's own pixels, in the order in which the engine takes them. */
export const VIEW_STAGES = PARTS.flatMap(({ viewStages }) => viewStages);
