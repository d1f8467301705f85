import { lineOnNegative, makeUpright, straightenBy, type Line, type Negative, changeFrame } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useSession } from "../../data/use-session.ts";
import { notify } from "../../shell/shell-view.ts";
import { benchView } from "../../picture/bench-view.ts";
import { paneToFrame, type Placement } from "../../picture/placement.ts";

interface OverlayProps {
  readonly negative: Negative;
  readonly placement: Placement;
}

const SHORTEST_PX = 24;

/** Draws what should be level or upright: one line straightens, two uprights take away their leaning together. */
export function LineOverlay({ negative, placement }: OverlayProps) {
  const session = useSession();
  const { tool } = useStore(benchView);
  const layer = useRef<SVGSVGElement>(null);
  const [line, setLine] = useState<Line | null>(null);
  const [first, setFirst] = useState<{ pane: Line; negative: Line } | null>(null);
  const local = (event: ReactPointerEvent): [number, number] => {
    const box = layer.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const done = () => benchView.setState({ tool: "look" });
  const end = () => {
    if (!line) return;
    setLine(null);
    const [x0, y0, x1, y1] = line;
    if (Math.hypot(x1 - x0, y1 - y0) < SHORTEST_PX) return;
    const { ground } = session.store.getState().recipe;
    const drawn = lineOnNegative(negative, ground, [
      ...paneToFrame(placement, x0, y0),
      ...paneToFrame(placement, x1, y1),
    ]);
    if (tool === "level") {
      const angleDegrees = straightenBy(negative, ground, drawn);
      session.change("Ground", "Straightened", (recipe) => changeFrame(recipe, negative, { angleDegrees }));
      done();
      return;
    }
    if (!first) {
      setFirst({ pane: line, negative: drawn });
      return;
    }
    const found = makeUpright(negative, ground, [first.negative, drawn]);
    setFirst(null);
    done();
    if (!found) {
      notify("These two lines lean too much, or cross: no correction within reach makes them upright.");
      return;
    }
    const { angleDegrees, keystoneVertical } = found;
    session.change("Ground", "Uprights made parallel", (recipe) =>
      changeFrame(recipe, negative, { angleDegrees, lens: { ...recipe.ground.lens, keystoneVertical } }),
    );
  };
  return (
    <svg
      ref={layer}
      data-testid="line-overlay"
      className="absolute inset-0 h-full w-full cursor-crosshair touch-none"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        layer.current!.setPointerCapture(event.pointerId);
        const [x, y] = local(event);
        setLine([x, y, x, y]);
      }}
      onPointerMove={(event) => line && setLine([line[0], line[1], ...local(event)])}
      onPointerUp={end}
      onPointerCancel={() => setLine(null)}
    >
      {[first?.pane, line].map((one, i) =>
        one ? (
          <g key={i}>
            <line x1={one[0]} y1={one[1]} x2={one[2]} y2={one[3]} stroke="#000" strokeOpacity={0.6} strokeWidth={3} />
            <line x1={one[0]} y1={one[1]} x2={one[2]} y2={one[3]} className="stroke-accent" />
          </g>
        ) : null,
      )}
    </svg>
  );
}
