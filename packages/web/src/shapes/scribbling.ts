import { seedSchema, type RegionSeed, type RegionShape } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useSession } from "../data/use-session.ts";
import { benchView } from "../picture/bench-view.ts";
import { notify } from "../shell/shell-view.ts";
import { usePool } from "../workers/use-answer.ts";
import { addShape } from "./add-shape.ts";
import { changePart, partInHand } from "./joined-parts.ts";
import type { Local, Mapping } from "./mapping.ts";
import type { ShapeStack } from "./stack.ts";
import { newId } from "./stack-edits.ts";

const MOST_POINTS = seedSchema.properties.points.maxItems ?? Infinity;
/** Points nearer to each other than this, long edges, are one. */
const APART = 0.004;

export interface ScribbledLine {
  readonly points: readonly (readonly [number, number])[];
  readonly inside: boolean;
}

/** Clicks and scribbles that find a region; on a region in hand they correct it. */
export function useScribbling(stack: ShapeStack, mapping: Mapping, local: Local) {
  const session = useSession();
  const pool = usePool();
  const drawn = useRef<ScribbledLine | null>(null);
  const [line, setLine] = useState<ScribbledLine | null>(null);
  const show = (next: ScribbledLine | null) => {
    drawn.current = next;
    setLine(next);
  };
  const find = async ({ points, inside }: ScribbledLine) => {
    const { recipe } = session.store.getState();
    const view = benchView.getState();
    const active = stack.list(recipe).find(({ id }) => id === stack.activeId(view));
    const inHand = active && !view.laying ? partInHand(active.shape, view.partId) : null;
    const before = inHand?.shape.kind === "region" ? inHand.shape : undefined;
    const seed: RegionSeed = { id: newId(), inside, points: points.map(([x, y]): [number, number] => [x, y]) };
    const seeds = [...(before?.seeds ?? []), seed];
    const found = await pool.ask("findRegion", { recipe, of: "strokes", seeds, ...(before && { before }) });
    if (!found) {
      notify(inside ? "Nothing was found there." : "Nothing would be left of the region.");
      return;
    }
    take(found, active?.id, before);
  };
  const take = (found: RegionShape, id: string | undefined, before: RegionShape | undefined) => {
    if (before && id) {
      session.change(stack.station, "Region corrected", (old) =>
        stack.change(old, id, (shape) => changePart(shape, benchView.getState().partId, () => found)),
      );
      return;
    }
    if (!addShape(session, stack, found)) return;
    session.commit(stack.station, "Region found");
    benchView.setState({ laying: null });
  };
  return {
    line,
    start(event: ReactPointerEvent) {
      const { erase } = benchView.getState().brush;
      event.currentTarget.setPointerCapture(event.pointerId);
      show({ points: [mapping.toFlat(...local(event))], inside: event.altKey === erase });
    },
    go(event: ReactPointerEvent) {
      const now = drawn.current;
      if (!now || now.points.length >= MOST_POINTS) return;
      const place = mapping.toFlat(...local(event));
      const [x, y] = now.points.at(-1)!;
      if (Math.hypot(place[0] - x, place[1] - y) >= APART) show({ ...now, points: [...now.points, place] });
    },
    end() {
      const now = drawn.current;
      if (!now) return;
      show(null);
      void find(now).catch((error: Error) => notify(error.message));
    },
  };
}
