import type { ActFacts } from "../keys/act-facts.ts";
import type { MaskShape, ShapeName, SingleShape } from "@yelm/core";
import { brushTool } from "./brush.tsx";
import { ellipseTool } from "./ellipse.tsx";
import { joinedTool } from "./joined.tsx";
import { outlineTool } from "./outline.tsx";
import { rampTool } from "./ramp.tsx";
import { regionTool } from "./region.tsx";
import type { ShapeTool } from "./shape-tool.ts";
import { wholeTool } from "./whole.tsx";

/** Every kind of shape as it is drawn and pulled, in the order in which they are offered. A new one is a file and a line here. */
const TOOLS = [brushTool, ellipseTool, rampTool, outlineTool, regionTool, wholeTool] as const;

export const SHAPE_TOOLS = TOOLS as unknown as readonly ShapeTool<MaskShape>[];

const joined = joinedTool(
  (kind) => toolOf(kind) as unknown as ShapeTool<SingleShape>,
) as unknown as ShapeTool<MaskShape>;

/** Acts of the tools, by id. */
export const TOOL_ACTS: Readonly<Record<string, ActFacts>> = Object.fromEntries(
  SHAPE_TOOLS.map(({ act }) => [act.id, act]),
);

export function toolOf(kind: ShapeName): ShapeTool<MaskShape> {
  return kind === "joined" ? joined : SHAPE_TOOLS.find((tool) => tool.kind === kind)!;
}

/** True for tools that draw a shape. */
export function isShapeTool(tool: string): tool is ShapeName {
  return SHAPE_TOOLS.some(({ kind }) => kind === tool);
}
