import { effectsSchema, effectWords, isGrey, rangeOf, type LightEffects, type LightMove } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { asPercent, asSignedPercent, zoneThirds } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { changeMove } from "./edits.ts";

type Field = Exclude<keyof LightEffects, "gradeZone">;
const FIELDS: readonly (readonly [Field, string])[] = [
  ["grade", "Grade"],
  ["open", "Open darks"],
  ["hold", "Hold lights"],
  ["local", "Local contrast"],
  ["fine", "Its fine detail"],
  ["softness", "Soften"],
  ["haze", "Haze out or in"],
  ["tone", "Its tone"],
  ["grain", "Its grain"],
];

/** What a move does beyond stops. */
export function EffectsOfMove({ move }: { readonly move: LightMove }) {
  const session = useSession();
  const set = (change: Partial<LightEffects>) =>
    session.preview((recipe) =>
      changeMove(recipe, move.id, (old) => ({ ...old, effects: { ...old.effects, ...change } })),
    );
  const keep = (what: string) => session.commit("Light", `${what} of ${move.name}`);
  const { effects } = move;
  const finish = useEdit((state) => state.recipe.finish);
  const missing = [
    effects.tone !== 0 && isGrey(finish) && "tone",
    effects.grain !== 0 && finish.grain.granularity === 0 && "grain",
  ].filter((word) => word !== false);
  return (
    <Group title="Effects of the move" folded={effectWords(effects).join(", ") || "stops only"}>
      {FIELDS.map(([field, label]) => (
        <div key={field}>
          <Amount
            label={label}
            value={effects[field]}
            range={rangeOf(effectsSchema, field)}
            step={0.05}
            format={field === "softness" ? asPercent : asSignedPercent}
            typedScale={100}
            onChange={(value) => set({ [field]: value })}
            onEnd={() => keep(label)}
          />
          {field === "grade" && effects.grade !== 0 && (
            <Amount
              label="About zone"
              value={effects.gradeZone}
              range={rangeOf(effectsSchema, "gradeZone")}
              step={1 / 3}
              format={zoneThirds}
              onChange={(gradeZone) => set({ gradeZone: Math.round(3 * gradeZone) / 3 })}
              onEnd={() => keep("Zone of the grade")}
            />
          )}
        </div>
      ))}
      {missing.length > 0 && (
        <p className="text-quiet pt-1">The print has no {missing.join(" and no ")} yet: Finish gives it.</p>
      )}
    </Group>
  );
}
