import { lightGroupSchema, rangeOf, type LightMove } from "@yelm/core";
import { Eye, EyeOff } from "lucide-react";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { IconAct } from "../../controls/icon-act.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { newId } from "../../shapes/stack-edits.ts";
import { freeName } from "../../shapes/stack.ts";
import { changeGroup, groupMove } from "./edits.ts";

const NEW = "new";

/** The group of a move: one of those there are, none, or a new one. */
export function GroupOfMove({ move }: { readonly move: LightMove }) {
  const session = useSession();
  const groups = useEdit((state) => state.recipe.light.groups);
  const choose = (value: string) => {
    const name = freeName("Group", groups);
    const group = value === NEW ? { id: newId(), name } : (groups.find(({ id }) => id === value) ?? null);
    session.change("Light", `Group of ${move.name}`, (recipe) => groupMove(recipe, move.id, group));
  };
  return (
    <label className="flex items-center justify-between gap-2 pt-1">
      Group
      <select
        className="field"
        aria-label="Group of the move"
        value={move.group}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">none</option>
        {groups.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        <option value={NEW}>a new one</option>
      </select>
    </label>
  );
}

/** All groups, each with its name, amount and switch. */
export function LightGroups() {
  const session = useSession();
  const { groups, moves } = useEdit((state) => state.recipe.light);
  if (groups.length === 0) return null;
  return (
    <Group title="Groups">
      {groups.map(({ id, name, on, amountPercent }) => (
        <div key={id} className={on ? "" : "opacity-60"}>
          <div className="flex items-center gap-2">
            <input
              className="field min-w-0 flex-1"
              aria-label="Name of the group"
              value={name}
              maxLength={lightGroupSchema.properties.name.maxLength}
              onChange={(event) => {
                const { value } = event.target;
                if (value) session.preview((recipe) => changeGroup(recipe, id, { name: value }));
              }}
              onBlur={() => session.commit("Light", `Name of ${name}`)}
            />
            <span className="text-quiet">{moves.filter(({ group }) => group === id).length} moves</span>
            <IconAct
              label={on ? `Switch ${name} off` : `Switch ${name} on`}
              icon={on ? <Eye size={14} /> : <EyeOff size={14} />}
              onClick={() =>
                session.change("Light", `${name} ${on ? "off" : "on"}`, (recipe) =>
                  changeGroup(recipe, id, { on: !on }),
                )
              }
            />
          </div>
          <Amount
            label="Group amount"
            value={amountPercent}
            range={rangeOf(lightGroupSchema, "amountPercent")}
            step={5}
            format={(v) => `${Math.round(v)} %`}
            onChange={(v) => session.preview((recipe) => changeGroup(recipe, id, { amountPercent: Math.round(v) }))}
            onEnd={() => session.commit("Light", `Amount of ${name}`)}
          />
        </div>
      ))}
    </Group>
  );
}
