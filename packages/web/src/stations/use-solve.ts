import { formatSigned, type Goal, type Solution } from "@yelm/core";
import { use, useCallback } from "react";
import { groupName } from "../bench/group-name.ts";
import type { WeighScene } from "../bench/weigh-measured.ts";
import { useSession } from "../data/use-session.ts";
import { PoolContext } from "../picture/pool-context.ts";
import { notify } from "../shell/shell-view.ts";
import { ownFamilies, withFamilies } from "./family-edits.ts";

/** Solves for a goal, takes the result in one step of undo, and says what was changed and what stopped it. */
export function useSolve(scene: WeighScene) {
  const session = useSession();
  const pool = use(PoolContext)!;
  return useCallback(
    async (goal: Goal, label: string) => {
      const { recipe } = session.store.getState();
      const families = ownFamilies(recipe, scene.families);
      if (families.some(({ id }, i) => id !== scene.families[i]?.id)) {
        notify("The picture's colours are being looked at again. Once more, please.");
        return;
      }
      const full = withFamilies(recipe, families);
      const solution = await pool.solve(full, goal).catch((error: Error) => error);
      if (solution instanceof Error) {
        notify(`That could not be worked out: ${solution.message}`);
        return;
      }
      if (solution.changes.length > 0)
        session.change("Weigh", label, (now) => withFamilies(now, solution.weigh.families));
      const undo = { label: "Undo", run: () => session.undo() };
      notify(tell(solution, scene), solution.changes.length > 0 ? undo : undefined);
    },
    [pool, scene, session],
  );
}

function tell(solution: Solution, { families }: WeighScene): string {
  const { changes, stoppedBy, closer } = solution;
  const name = (group: number) => groupName(families, group);
  const moved = changes.map(({ family, to, from }) => `${name(family)} ${formatSigned(to - from, 2)}`).join(", ");
  const done = changes.length > 0 ? `Moved ${moved} stops.` : "Nothing was moved.";
  const cost = closer.map(([p, q]) => ` ${name(p)} and ${name(q)} have come close by it.`).join("");
  if (!stoppedBy) return done + cost;
  const reason = {
    pinned: () => "what would have to move is pinned",
    range: (group: number) => `${name(group)} is at the end of its range`,
    noise: (group: number) => `${name(group)} would become too noisy`,
  }[stoppedBy.kind]("family" in stoppedBy ? stoppedBy.family : 0);
  return `${done} Not all the way: ${reason}.${cost}`;
}
