import type { Negative } from "@yelm/core";
import { Link } from "react-router";
import { useStore } from "zustand";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useRollSheet } from "../../data/queries.ts";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useEdit } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { JUDGE_ACTS } from "./acts.ts";
import { againstName, comparing, SWITCHED_STATIONS, type Against, type CompareBy } from "./compare.ts";
import { useCompared } from "./use-compared.ts";

const WAYS = [
  ["none", "the print alone"],
  ["wipe", "wipe"],
  ["beside", "side by side"],
  ["difference", "difference"],
] as const;

/** The print beside another: how, and which. */
export function CompareGroup({ negative }: { negative: Negative }) {
  const { by, against } = useStore(comparing);
  const { prints, elsewhere } = useCompared();
  const sheet = useRollSheet(negative.rollId).data ?? [];
  const others = sheet.flatMap(({ id, title, best }) => (best && id !== negative.id ? [{ title, id: best.id }] : []));
  const isListed = against.kind !== "elsewhere" || others.some(({ id }) => id === against.id);
  const notes = useNotes((all) => all);
  const recipe = useEdit((state) => state.recipe);
  const printId = useEdit((state) => state.print.id);
  const set = (next: CompareBy | null) => comparing.setState({ by: next });
  const flip = (way: CompareBy) => () => set(comparing.getState().by === way ? null : way);
  useAct({ ...JUDGE_ACTS["judge-wipe"], run: flip("wipe") });
  useAct({ ...JUDGE_ACTS["judge-beside"], run: flip("beside") });
  useAct({ ...JUDGE_ACTS["judge-difference"], run: flip("difference") });
  useAct({ ...JUDGE_ACTS["judge-one"], enabled: by !== null, run: () => set(null) });
  const { moves, groups } = recipe.light;
  const offers: readonly Against[] = [
    { kind: "plain" },
    { kind: "first" },
    ...notes.states.map(({ id }) => ({ kind: "state", id }) as const),
    ...(against.kind === "revision" ? [against] : []),
    ...prints.map(({ id }) => ({ kind: "print", id }) as const),
    ...SWITCHED_STATIONS.map((station) => ({ kind: "without", station }) as const),
    ...groups.map(({ id }) => ({ kind: "without group", id }) as const),
    ...moves.map(({ id }) => ({ kind: "without move", id }) as const),
  ];
  return (
    <Group title="Compare">
      <Choice label="How" options={WAYS} value={by ?? "none"} onChoose={(way) => set(way === "none" ? null : way)} />
      <label className="flex items-center justify-between gap-2 pt-2">
        <span>With</span>
        <select
          className="field min-w-0 flex-1"
          aria-label="Compare with"
          value={JSON.stringify(against)}
          onChange={(event) => {
            const next = JSON.parse(event.target.value) as Against;
            comparing.setState(({ by: way }) => ({ against: next, by: way ?? "wipe" }));
          }}
        >
          {offers.map((offer) => (
            <option key={JSON.stringify(offer)} value={JSON.stringify(offer)}>
              {againstName(offer, { notes, prints }, recipe)}
            </option>
          ))}
          <optgroup label="The roll’s other negatives">
            {!isListed && <option value={JSON.stringify(against)}>{elsewhere?.name ?? "another print"}</option>}
            {others.map(({ id, title }) => (
              <option key={id} value={JSON.stringify({ kind: "elsewhere", id })}>
                {title}
              </option>
            ))}
          </optgroup>
        </select>
      </label>
      {by === "difference" && against.kind === "elsewhere" && (
        <p className="text-quiet pt-1">Two negatives have no place in common: wipe, or side by side.</p>
      )}
      {prints.length > 0 && (
        <Link className="act -mx-2 mt-1" to={`/spread?prints=${[printId, ...prints.map(({ id }) => id)].join(",")}`}>
          Spread all prints of this negative
        </Link>
      )}
    </Group>
  );
}
