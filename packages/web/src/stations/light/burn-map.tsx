import { formatStops, shapeBounds, type BurnMap } from "@yelm/core";
import { useEffect, useRef } from "react";
import { useEdit } from "../../data/use-session.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { frameToPane } from "../../picture/placement.ts";
import { shapeMapping } from "../../shapes/mapping.ts";
import { LabelPlate, placeLabels, type Label } from "../../shapes/labels.tsx";
import { toolOf } from "../../shapes/shape-tools.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import type { OverlayProps } from "../station.ts";

/** Contours lie this far apart, stops. */
const THIRD = 1 / 3;
/** How faint the picture is under the map. */
const PAPER = "rgba(244, 240, 232, 0.72)";
const INK = [26, 24, 20] as const;

/** The picture faint, contours of the total of all moves by thirds of a stop, each move numbered with its stops. */
export function BurnMapOverlay(props: OverlayProps) {
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("burnMap", { recipe }, { key: nameOf(recipe), restMs: 0 });
  const { frame, placement } = props;
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const [width, height] = [Math.max(1, Math.round(right - left)), Math.max(1, Math.round(bottom - top))];
  const canvas = useRef<HTMLCanvasElement>(null);
  const map = answer.data;
  useEffect(() => {
    if (canvas.current && map) drawContours(canvas.current.getContext("2d")!, map, width, height);
  }, [map, width, height]);
  const mapping = shapeMapping(props);
  const labels = recipe.light.moves
    .filter(({ on }) => on)
    .map(({ id, shape, stops }): Label => {
      const [x, y] = middleOf(shapeBounds(shape)) ?? toolOf(shape.kind).labelAt(shape, mapping);
      const [px, py] = middleOf(shapeBounds(shape)) ? mapping.toPane(x, y) : [x, y];
      const number = recipe.light.moves.findIndex((move) => move.id === id) + 1;
      return { id, x: px, y: py, text: `${number}  ${formatStops(stops)}`, colour: "#fff" };
    });
  return (
    <>
      <canvas
        ref={canvas}
        data-testid="burn-map"
        width={width}
        height={height}
        className="pointer-events-none absolute"
        style={{ left, top }}
      />
      <svg className="pointer-events-none absolute inset-0 h-full w-full">
        {placeLabels(labels, { width: right, height: bottom }).map((label) => (
          <LabelPlate key={label.id} label={label} onChoose={() => undefined} />
        ))}
      </svg>
    </>
  );
}

function middleOf(box: ReturnType<typeof shapeBounds>): [number, number] | null {
  const place: [number, number] = [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
  return place.every(Number.isFinite) ? place : null;
}

/** Lines where the total passes a third of a stop; heavier at whole stops, dashed where it burns. */
function drawContours(context: CanvasRenderingContext2D, map: BurnMap, width: number, height: number): void {
  const image = context.createImageData(width, height);
  const at = (x: number, y: number) => {
    const sx = Math.min(map.width - 1.001, Math.max(0, ((x + 0.5) * map.width) / width - 0.5));
    const sy = Math.min(map.height - 1.001, Math.max(0, ((y + 0.5) * map.height) / height - 0.5));
    const [ix, iy] = [Math.floor(sx), Math.floor(sy)];
    const [fx, fy] = [sx - ix, sy - iy];
    const value = (i: number, j: number) =>
      map.stops[Math.min(map.height - 1, j) * map.width + Math.min(map.width - 1, i)];
    const row = (j: number) => value(ix, j) + fx * (value(ix + 1, j) - value(ix, j));
    return row(iy) + fy * (row(iy + 1) - row(iy));
  };
  const rows = [Array.from({ length: width + 1 }, (_, x) => at(x, 0))];
  for (let y = 0; y < height; y++) {
    rows[1] = Array.from({ length: width + 1 }, (_, x) => at(x, y + 1));
    for (let x = 0; x < width; x++) {
      const step = (stops: number) => Math.floor(stops / THIRD + 0.5);
      const [here, right, below] = [rows[0][x], rows[0][x + 1], rows[1][x]];
      if (step(here) === step(right) && step(here) === step(below)) continue;
      const line = Math.max(step(here), step(right), step(below)) - 0.5;
      const isWhole = Math.abs(((line * THIRD + 100) % 1) - 0.5) > 0.3;
      if (line < 0 && (x + y) % 8 > 5) continue;
      const to = 4 * (y * width + x);
      INK.forEach((v, c) => (image.data[to + c] = v));
      image.data[to + 3] = isWhole ? 255 : 190;
    }
    rows[0] = rows[1];
  }
  context.putImageData(image, 0, 0);
  context.globalCompositeOperation = "destination-over";
  context.fillStyle = PAPER;
  context.fillRect(0, 0, width, height);
  context.globalCompositeOperation = "source-over";
}
