import { regionCells, type RegionShape } from "@yelm/core";
import { useEffect, useState } from "react";

const borders = new WeakMap<RegionShape, string>();
const waiting = new Map<number, (path: string | null) => void>();
let worker: Worker | null = null;
let asked = 0;

/**
 * The border of a region as an SVG path in its cells, looked for in a worker. Until it is there the one that was drawn before stands; null
 * when there was none.
 */
export function useRegionBorder(shape: RegionShape): string | null {
  const [drawn, setDrawn] = useState<string | null>(null);
  const known = borders.get(shape) ?? null;
  useEffect(() => {
    if (known !== null) return setDrawn(known);
    let isWanted = true;
    void borderOf(shape).then((path) => {
      if (path !== null) borders.set(shape, path);
      if (isWanted) setDrawn(path);
    });
    return () => {
      isWanted = false;
    };
  }, [shape, known]);
  return known ?? drawn;
}

function borderOf(shape: RegionShape): Promise<string | null> {
  const id = ++asked;
  const { width, height } = shape;
  return new Promise((done) => {
    waiting.set(id, done);
    worker ??= start();
    worker.postMessage({ id, width, height, cells: regionCells(shape) });
  });
}

function start(): Worker {
  const made = new Worker(new URL("./region-border-worker.ts", import.meta.url), { type: "module" });
  made.onmessage = ({ data: { id, path } }: MessageEvent<{ id: number; path: string }>) => {
    waiting.get(id)?.(path);
    waiting.delete(id);
  };
  // Nothing hangs on an outline: the next one is looked for by another worker.
  made.onerror = () => {
    made.terminate();
    if (worker === made) worker = null;
    for (const done of waiting.values()) done(null);
    waiting.clear();
  };
  return made;
}
