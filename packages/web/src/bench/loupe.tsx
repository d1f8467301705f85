import type { Frame, Recipe, Size } from "@yelm/core";
import { useEffect, useRef, useState } from "react";
import { useEdit } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { paneToFrame, type Placement } from "../picture/placement.ts";
import { usePool } from "../workers/use-answer.ts";
import { BENCH_ACTS } from "./acts.ts";

/** Edge of the loupe, CSS pixels, and how far from the pointer it lies. */
const EDGE = 264;
const AWAY = 22;

interface LoupeProps {
  readonly frame: Frame;
  readonly placement: Placement;
}

/** While its key is held: the print at 100 % about the pointer, beside it. Lies over the picture. */
export function Loupe(props: LoupeProps) {
  const [held, setHeld] = useState(false);
  const [at, setAt] = useState<Pointer | null>(null);
  const layer = useRef<HTMLDivElement>(null);
  // Where the pointer is has to be known when the key goes down; while it is up nothing is drawn.
  const pointer = useRef<PointerEvent | null>(null);
  const isHeld = useRef(false);
  // The layer is measured only then, so that a pointer that paints does not have the page laid out anew.
  const look = () => {
    const box = layer.current!.getBoundingClientRect();
    const event = pointer.current;
    setAt(event && { x: event.clientX - box.left, y: event.clientY - box.top, pane: box });
  };
  const hold = (on: boolean) => {
    isHeld.current = on;
    if (on) look();
    setHeld(on);
  };
  useAct({ ...BENCH_ACTS.loupe, run: () => hold(true), release: () => hold(false) });
  useEffect(() => {
    // Of the window: the picture that the pointer is on lies beside this layer, not around it.
    const onMove = (event: PointerEvent) => {
      pointer.current = event;
      if (isHeld.current) look();
    };
    window.addEventListener("pointermove", onMove);
    return () => window.removeEventListener("pointermove", onMove);
  }, []);
  return (
    <div ref={layer} className="pointer-events-none absolute inset-0">
      {held && at && <Glass {...props} at={at} />}
    </div>
  );
}

/** Where the pointer is in the pane, CSS pixels, and how large that is. */
interface Pointer {
  readonly x: number;
  readonly y: number;
  readonly pane: Size;
}

function Glass({ frame, placement, at: { x: px, y: py, pane } }: LoupeProps & { readonly at: Pointer }) {
  const recipe = useEdit((state) => state.recipe);
  const edge = Math.min(Math.round(EDGE * placement.dpr), frame.width, frame.height);
  const [fx, fy] = paneToFrame(placement, px, py);
  const onPane = px >= 0 && py >= 0 && px < pane.width && py < pane.height;
  const inside = onPane && fx >= 0 && fy >= 0 && fx < frame.width && fy < frame.height;
  const x = Math.round(Math.min(frame.width - edge, Math.max(0, fx - edge / 2)));
  const y = Math.round(Math.min(frame.height - edge, Math.max(0, fy - edge / 2)));
  const canvas = useDrawn(recipe, x, y, edge, inside);
  if (!inside) return null;
  const size = edge / placement.dpr;
  const left = px + AWAY + size > pane.width ? px - AWAY - size : px + AWAY;
  const top = Math.min(pane.height - size - 4, Math.max(4, py - size / 2));
  return (
    <figure
      data-testid="loupe"
      className="border-line absolute border bg-black"
      style={{ left, top, width: size + 2, height: size + 2 }}
    >
      <canvas ref={canvas} className="h-full w-full" style={{ imageRendering: "pixelated" }} />
    </figure>
  );
}

/** Draws a square of the print at full size, one after the other, the newest place last. */
function useDrawn(recipe: Recipe, x: number, y: number, edge: number, inside: boolean) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pool = usePool();
  const wanted = useRef({ recipe, x, y });
  const busy = useRef(false);
  wanted.current = { recipe, x, y };
  useEffect(() => {
    const draw = async () => {
      if (busy.current) return;
      busy.current = true;
      try {
        for (let last = null; last !== wanted.current && canvas.current;) {
          const now = (last = wanted.current);
          const view = { x: now.x, y: now.y, width: edge, height: edge, scale: 1, level: 0 };
          const asked = { recipe: now.recipe, view, mode: "print", memory: new ArrayBuffer(4 * edge * edge) } as const;
          const { memory } = await pool.ask("render", asked);
          const target = canvas.current;
          if (!target) return;
          target.width = target.height = edge;
          const pixels = new Uint8ClampedArray(memory, 0, 4 * edge * edge);
          target.getContext("2d")!.putImageData(new ImageData(pixels, edge, edge), 0, 0);
        }
      } catch {
        // What could not be drawn stays as it was; the picture tells of it.
      } finally {
        busy.current = false;
      }
    };
    if (inside) void draw();
  }, [pool, recipe, x, y, edge, inside]);
  return canvas;
}
