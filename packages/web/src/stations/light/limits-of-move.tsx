import { limitsSchema, MOST_LIMITING, rangeOf, type LightLimits, type LightMove } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { asPercent, asSignedPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { workingToCss } from "../../instruments/colour-css.ts";
import { useColours } from "../../instruments/use-colours.ts";
import { changeMove } from "./edits.ts";

/** Where within its shape a move acts: along the picture's edges, and on which colour families. */
export function LimitsOfMove({ move }: { readonly move: LightMove }) {
  const session = useSession();
  const own = useEdit((state) => state.recipe.weigh.families);
  const colours = useColours();
  const families = own.length > 0 ? own : (colours.data?.families ?? []);
  const { limits } = move;
  const swatch = (id: string) => {
    const index = colours.data?.families.findIndex((family) => family.id === id) ?? -1;
    const facts = colours.data?.map.facts[index];
    return facts ? workingToCss(facts.working) : "transparent";
  };
  const set = (change: Partial<LightLimits>) =>
    session.preview((recipe) =>
      changeMove(recipe, move.id, (old) => ({ ...old, limits: { ...old.limits, ...change } })),
    );
  const keep = (what: string) => session.commit("Light", `${what} of ${move.name}`);
  const flip = (id: string) => {
    const chosen = limits.families.includes(id)
      ? limits.families.filter((one) => one !== id)
      : [...limits.families, id].slice(0, MOST_LIMITING);
    // Families that were only found so far become the recipe's own, so that the limit stays what it is.
    if (own.length === 0)
      session.preview((recipe) => ({ ...recipe, weigh: { ...recipe.weigh, families: [...families] } }));
    set({ families: chosen });
    keep("Families");
  };
  const chosen = families.filter(({ id }) => limits.families.includes(id));
  const words = [
    limits.follow > 0 && "follows edges",
    limits.edges !== 0 && (limits.edges > 0 ? "near edges" : "away from edges"),
    chosen.length > 0 && chosen.map(({ name }) => name).join(" and "),
  ].filter((word) => word !== false);
  return (
    <Group title="Limits of the move" folded={words.length > 0 ? words.join(", ") : "none"}>
      <Amount
        label="Follow edges"
        value={limits.follow}
        range={rangeOf(limitsSchema, "follow")}
        step={0.1}
        format={asPercent}
        typedScale={100}
        onChange={(follow) => set({ follow })}
        onEnd={() => keep("Edge-following")}
      />
      <Amount
        label="Near edges"
        value={limits.edges}
        range={rangeOf(limitsSchema, "edges")}
        step={0.1}
        format={asSignedPercent}
        typedScale={100}
        onChange={(edges) => set({ edges })}
        onEnd={() => keep("Nearness to edges")}
      />
      <NoAnswer answer={colours} what="The colour families" />
      {families.length > 0 && (
        <div className="flex flex-wrap gap-1 pt-1" role="group" aria-label="Only these families">
          {families.map((family) => (
            <button
              key={family.id}
              className={`chip ${limits.families.includes(family.id) ? "chip-on" : ""}`}
              aria-pressed={limits.families.includes(family.id)}
              onClick={() => flip(family.id)}
            >
              <i
                className="mr-1 inline-block h-2.5 w-2.5 rounded-full align-[-1px]"
                style={{ background: swatch(family.id) }}
              />
              {family.name}
            </button>
          ))}
        </div>
      )}
    </Group>
  );
}
