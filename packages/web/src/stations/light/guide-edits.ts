import {
  applyAffine,
  contourSchema,
  invertAffine,
  type BurnMap,
  type Contour,
  type Frame,
  type LightMove,
  type Recipe,
  type Size,
  type Splash,
} from "@yelm/core";
import { benchView } from "../../picture/bench-view.ts";
import { newId } from "../../shapes/stack-edits.ts";
import { freeName } from "../../shapes/stack.ts";
import { newMove } from "./edits.ts";

export const MOST_CONTOUR_POINTS = contourSchema.properties.points.maxItems ?? Infinity;
/** Stops with which a plan is carried out, to be judged and changed from there. */
const PLANNED_STOPS = 1 / 3;
const STROKE_FLOW = 0.6;
/** Stops of the ramps that strengthen a direction, and how far they reach. */
const RAMP_STOPS = 1 / 3;
const RAMP_REACH = 0.55;
/** How far the picture is held down about its splashes, and how far these are lifted again. */
const HELD_STOPS = -2 / 3;
const SPLASH_STOPS = 5 / 6;
/** A splash is larger than the light it is of, for it is soft from its middle. */
const SPLASH_ROOM = 1.5;

/** The print as it shows its lit and shaded planes: detail smoothed away, contrast raised, nothing else laid on. */
export function planesRecipe(recipe: Recipe, smoothing: number): Recipe {
  const { shape } = recipe;
  return {
    ...recipe,
    shape: {
      ...shape,
      grade: Math.min(5, shape.grade + 1.5),
      detail: { fine: -smoothing, middle: -smoothing, broad: -Math.max(0, smoothing - 0.5) },
      localContrast: { low: 0, mid: 0, high: 0 },
    },
  };
}

/** The lines of a plan as moves: one brush along those of each pen, as wide as the brush in hand. */
export function contoursToMoves(recipe: Recipe): Recipe {
  const { radius, softness } = benchView.getState().brush;
  let moves = recipe.light.moves;
  for (const lift of [true, false]) {
    const lines = recipe.light.contours.filter((line) => line.lift === lift);
    if (lines.length === 0) continue;
    const strokes = lines.map(({ points }) => ({
      id: newId(),
      radius,
      softness,
      flow: STROKE_FLOW,
      erase: false,
      points: points.map(([x, y]): [number, number, number] => [x, y, 1]),
    }));
    const move = newMove(moves, { kind: "brush", strokes });
    moves = [
      ...moves,
      {
        ...move,
        name: freeName(lift ? "Plan: lift" : "Plan: burn", moves),
        stops: lift ? PLANNED_STOPS : -PLANNED_STOPS,
      },
    ];
  }
  return { ...recipe, light: { ...recipe.light, moves } };
}

function withGroup(recipe: Recipe, name: string, made: readonly LightMove[]): Recipe {
  const { light } = recipe;
  const group = {
    id: newId(),
    name: light.groups.some((one) => one.name === name) ? freeName(name, light.groups) : name,
    on: true,
    amountPercent: 100,
  };
  return {
    ...recipe,
    light: {
      ...light,
      groups: [...light.groups, group],
      moves: [...light.moves, ...made.map((move) => ({ ...move, group: group.id }))],
    },
  };
}

/** Two soft ramps that strengthen where light comes from: lifted from there, burned from across. */
export function directionMoves(recipe: Recipe, angleDegrees: number): Recipe {
  const angle = (angleDegrees * Math.PI) / 180;
  const [cx, cy] = [0.5, 0.33];
  const ramp = (towards: 1 | -1, name: string, stops: number): LightMove => ({
    ...newMove(recipe.light.moves, {
      kind: "ramp",
      x: cx + towards * 0.42 * Math.cos(angle),
      y: cy + towards * 0.42 * Math.sin(angle),
      // A ramp is full behind its line and fades in the direction of its angle.
      angleDegrees: wrapped(towards === 1 ? angleDegrees + 180 : angleDegrees),
      reach: RAMP_REACH,
      sides: "one",
    }),
    name,
    stops,
  });
  return withGroup(recipe, "Direction of light", [
    ramp(1, "From the light", RAMP_STOPS),
    ramp(-1, "Across from it", -RAMP_STOPS),
  ]);
}

function wrapped(degrees: number): number {
  return ((((degrees + 180) % 360) + 360) % 360) - 180;
}

/** The picture held down, its broad lights lifted. */
export function splashMoves(recipe: Recipe, splashes: readonly Splash[]): Recipe {
  const held: LightMove = { ...newMove(recipe.light.moves, { kind: "whole" }), name: "Held down", stops: HELD_STOPS };
  const lifted = splashes.map(({ x, y, radiusX, radiusY, angleDegrees }, i): LightMove => ({
    ...newMove(recipe.light.moves, {
      kind: "ellipse",
      x,
      y,
      radiusX: SPLASH_ROOM * radiusX,
      radiusY: SPLASH_ROOM * radiusY,
      angleDegrees: wrapped(angleDegrees),
      softness: 1,
    }),
    name: `Splash ${i + 1}`,
    stops: SPLASH_STOPS,
  }));
  return withGroup(recipe, "Splashes of light", [held, ...lifted]);
}

/** Where the points of lines lie in the frame, 0–1; null outside. */
export function placesInFrame(contours: readonly Contour[], { width, height }: Size, frame: Frame) {
  const edge = Math.max(width, height);
  const toFrame = invertAffine(frame.toFlat);
  return contours
    .flatMap(({ points }) => points)
    .map(([x, y]) => {
      const [fx, fy] = applyAffine(toFrame, x * edge, y * edge);
      const inside = fx >= 0 && fy >= 0 && fx < frame.width && fy < frame.height;
      return inside ? { x: fx / frame.width, y: fy / frame.height } : null;
    });
}

/** What moves do along the lines of each pen, mean stops. `places` are those of all points in the frame, 0–1; null outside. */
export function contourTotals(
  contours: readonly Contour[],
  places: readonly ({ readonly x: number; readonly y: number } | null)[],
  map: BurnMap,
): { readonly lift: boolean; readonly lines: number; readonly stops: number }[] {
  return [true, false]
    .map((lift) => {
      let at = 0;
      let [sum, count, lines] = [0, 0, 0];
      for (const line of contours) {
        const own = places.slice(at, (at += line.points.length));
        if (line.lift !== lift) continue;
        lines++;
        for (const place of own) {
          if (!place) continue;
          const x = Math.min(map.width - 1, Math.floor(place.x * map.width));
          const y = Math.min(map.height - 1, Math.floor(place.y * map.height));
          sum += map.stops[y * map.width + x];
          count++;
        }
      }
      return { lift, lines, stops: count > 0 ? sum / count : 0 };
    })
    .filter(({ lines }) => lines > 0);
}
