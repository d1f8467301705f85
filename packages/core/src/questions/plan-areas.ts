import type { Area } from "../judge/eye.ts";
import type { MarkKind, PlanMark } from "../notes/schema.ts";
import { plainMove, type LightMove } from "../parts/light/schema.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { wholeView } from "../tiles/view.ts";
import { wholeLight, type PictureReader } from "./reader.ts";

/** How much of each pixel of the whole frame an area covers: what a stop on it alone does to the light. */
export async function areaOf(
  reader: PictureReader,
  recipe: Recipe,
  shape: LightMove["shape"],
  edge: number,
): Promise<Area> {
  const plain = { ...defaultRecipe(), ground: recipe.ground };
  const lit = { ...plain, light: { ...plain.light, moves: [moveOf("area", shape, 1)] } };
  const [before, after] = [await wholeLight(reader, plain, edge), await wholeLight(reader, lit, edge)];
  const view = wholeView(reader.engine.prepare(plain).frame, reader.size, edge);
  const mask = before.map((light, i) =>
    light > 0 && after[i] > 0 ? Math.min(1, Math.max(0, Math.log2(after[i] / light))) : 0,
  );
  return { width: view.width, height: view.height, mask };
}

/** How much of each pixel the marks of one kind cover together; null where there are none. */
export async function markedAs(
  reader: PictureReader,
  recipe: Recipe,
  marks: readonly PlanMark[],
  kind: MarkKind,
  edge: number,
) {
  const shapes = marks.filter((mark) => mark.kind === kind);
  let all: Area | null = null;
  for (const { shape } of shapes) {
    const area = await areaOf(reader, recipe, shape, edge);
    all = all ? { ...area, mask: area.mask.map((v, i) => Math.max(v, all!.mask[i])) } : area;
  }
  return all;
}

/** A plain move on a shape. */
export function moveOf(name: string, shape: LightMove["shape"], stops: number, index = 0): LightMove {
  const id = `${name.toLowerCase().replace(/[^a-z]+/g, "-")}-${index}`.slice(0, 40);
  return { id, name, on: true, stops, amountPercent: 100, invert: false, ...plainMove(), shape };
}

/** A recipe with more moves, whose ids are made its own. */
export function withMoves(recipe: Recipe, moves: readonly LightMove[]): Recipe {
  const taken = new Set(recipe.light.moves.map(({ id }) => id));
  const named = moves.map((move) => {
    let id = move.id;
    for (let n = 2; taken.has(id); n++) id = `${move.id}-${n}`.slice(-40);
    taken.add(id);
    return { ...move, id };
  });
  return { ...recipe, light: { ...recipe.light, moves: [...recipe.light.moves, ...named] } };
}
