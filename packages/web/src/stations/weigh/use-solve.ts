import { FARTHEST_PARTED, formatSigned, type Goal, type Recipe, type Solution, type StoppedBy } from "@yelm/core";
import { useCallback, useEffect, useRef, type FocusEvent } from "react";
import { benchView } from "../../picture/bench-view.ts";
import { groupName } from "./group-name.ts";
import type { WeighScene } from "./measured.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { usePool } from "../../workers/use-answer.ts";
import { notify } from "../../shell/shell-view.ts";
import { ownFamilies, withFamilies } from "./family-edits.ts";

/** Solves for a goal, takes the result in one step of undo, and says what was changed and what stopped it. */
export function useSolve(scene: WeighScene) {
  const session = useSession();
  const pool = usePool();
  return useCallback(
    async (goal: Goal, label: string) => {
      const full = fullRecipe(session.store.getState().recipe, scene);
      if (!full) return;
      const solution = await pool.ask("solve", { recipe: full, goal }).catch((error: Error) => error);
      if (solution instanceof Error) {
        notify(`That could not be worked out: ${solution.message}`);
        return;
      }
      if (solution.changes.length > 0)
        session.change("Weigh", label, (now) => withFamilies(now, solution.weigh.families));
      const undo = { label: "Undo", run: session.takeBack() };
      notify(tell(solution, scene), solution.changes.length > 0 ? undo : undefined);
    },
    [pool, scene, session],
  );
}

/** The pointer rests on an act for so long before it is tried. */
const REST_MS = 220;

type Try = (recipe: Recipe) => Recipe | null | Promise<Recipe | null>;

/** What shows another print on the whole picture while the pointer rests on an act; nothing is taken. */
function useRested() {
  const session = useSession();
  const asked = useRef(0);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const leave = useCallback(() => {
    clearTimeout(timer.current);
    asked.current++;
    // Said only when it changes something: this is asked at every step of a drag.
    if (benchView.getState().tried) benchView.setState({ tried: null });
  }, []);
  const enter = useCallback(
    (make: Try) => {
      clearTimeout(timer.current);
      const turn = ++asked.current;
      const attempt = async () => {
        const tried = await make(session.store.getState().recipe);
        if (tried && asked.current === turn) benchView.setState({ tried });
      };
      timer.current = setTimeout(() => void attempt(), REST_MS);
    },
    [session],
  );
  // Whatever changes the print ends trying it, also where the act that was pointed at is gone by then.
  const recipe = useEdit((state) => state.recipe);
  useEffect(() => leave, [leave, recipe]);
  /** For an act's element. */
  return (make: Try) => ({
    onPointerEnter: () => enter(make),
    onPointerLeave: leave,
    // Focus that comes with a click is no rest.
    onFocus: ({ currentTarget }: FocusEvent<HTMLElement>) => {
      if (currentTarget.matches(":focus-visible")) enter(make);
    },
    onBlur: leave,
    // Taking it ends trying it.
    onPointerDown: leave,
    onKeyDown: leave,
  });
}

/** Shows on the whole picture what a change would make of it, while the pointer rests on its act. */
export function useTriedRecipe(change: (recipe: Recipe) => Recipe) {
  return useRested()(change);
}

/** The same of solving for a goal. */
export function useTried(scene: WeighScene) {
  const pool = usePool();
  const rested = useRested();
  return (goal: Goal) =>
    rested(async (recipe) => {
      const full = withFamilies(recipe, ownFamilies(recipe, scene.families));
      const solution = await pool.ask("solve", { recipe: full, goal }).catch(() => null);
      return solution && withFamilies(recipe, solution.weigh.families);
    });
}

/** Parts two groups by the three weights. */
export function usePartByWeights(scene: WeighScene) {
  const session = useSession();
  const pool = usePool();
  return useCallback(
    async (first: number, second: number) => {
      const full = fullRecipe(session.store.getState().recipe, scene);
      if (!full) return;
      const solution = await pool.ask("partByWeights", { recipe: full, first, second }).catch((error: Error) => error);
      if (solution instanceof Error) {
        notify(`That could not be worked out: ${solution.message}`);
        return;
      }
      const { reached, stoppedBy } = solution;
      if (!reached) {
        notify(`No weights part them: ${reasonOf(stoppedBy, scene)}. Their families can be parted.`);
        return;
      }
      const { red, green, blue } = solution.weigh;
      session.change("Weigh", "Parted by weights", ({ weigh, ...rest }) => ({
        ...rest,
        weigh: { ...weigh, by: "weights", red, green, blue },
      }));
      const told = [red, green, blue].map((weight) => formatSigned(weight, 2).replace("+", ""));
      const undo = { label: "Undo", run: session.takeBack() };
      notify(`The weights are now red ${told[0]}, green ${told[1]}, blue ${told[2]}.`, undo);
    },
    [pool, scene, session],
  );
}

/** The recipe with its families in it; null, and told, while they are being looked at anew. */
function fullRecipe(recipe: Recipe, scene: WeighScene): Recipe | null {
  const families = ownFamilies(recipe, scene.families);
  if (families.every(({ id }, i) => id === scene.families[i]?.id)) return withFamilies(recipe, families);
  notify("The picture's colours are being looked at again. Once more, please.");
  return null;
}

function tell(solution: Solution, { families }: WeighScene): string {
  const { changes, stoppedBy, closer, left } = solution;
  const name = (group: number) => groupName(families, group);
  const moved = changes.map(({ family, to, from }) => `${name(family)} ${formatSigned(to - from, 2)}`).join(", ");
  const done = changes.length > 0 ? `Moved ${moved} stops.` : "Nothing was moved.";
  const cost = closer.map(([p, q]) => ` ${name(p)} and ${name(q)} have come close by it.`).join("");
  if (!stoppedBy) return done + cost;
  if (left.length > 0) {
    const [[p, q]] = left;
    const more = left.length > 1 ? ` and ${left.length - 1} more` : "";
    return `${done} Left as they are: ${name(p)} with ${name(q)}${more}; ${reasonOf(stoppedBy, { families })}.${cost}`;
  }
  return `${done} Not all the way: ${reasonOf(stoppedBy, { families })}.${cost}`;
}

function reasonOf(stoppedBy: StoppedBy | null, { families }: Pick<WeighScene, "families">): string {
  switch (stoppedBy?.kind) {
    case "noise":
      return `${groupName(families, stoppedBy.family)} would become too noisy`;
    case "range":
      return `${groupName(families, stoppedBy.family)} is at the end of its range`;
    case "bound":
      return `${groupName(families, stoppedBy.family)} would have to move beyond ${formatSigned(FARTHEST_PARTED, 1).slice(1)} stops, which is left to your own hand`;
    default:
      return "what would have to move is pinned";
  }
}
