import { mixRecipes, OWN_LOOKS, type Look, type Recipe } from "@yelm/core";
import { useQueries } from "@tanstack/react-query";
import { Download, Dices, Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import { Amount } from "../../controls/amount.tsx";
import { IconAct } from "../../controls/icon-act.tsx";
import { api } from "../../data/api.ts";
import { queryClient, useLooks } from "../../data/queries.ts";
import { useSession } from "../../data/use-session.ts";
import { LaidOut, type Choosable } from "../../instruments/laid-out.tsx";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import { FINISH_ACTS } from "./acts.ts";

const PRESENT = "present";
const MOST_AMOUNT = 1.5;
/** Looks drawn by the dice are mild, so that two of them do not fight. */
const DICE_AMOUNTS = [0.5, 0.7, 0.9] as const;

/** A look that was laid on the print already, under what is chosen next. */
interface Under {
  readonly name: string;
  readonly recipe: Recipe;
}

/** All looks on this picture, fitted to it; the one pointed at is shown whole. One may be laid on another. */
export function Wall() {
  const session = useSession();
  const pool = usePool();
  // As the print stood when they were laid out; taking one changes nothing of it.
  const [start] = useState(() => session.store.getState().recipe);
  const [unders, setUnders] = useState<readonly Under[]>([]);
  const [amount, setAmount] = useState(1);
  const base = unders.at(-1)?.recipe ?? start;
  const own = useLooks().data;
  const looks: readonly Look[] = useMemo(() => [...(own ?? []), ...OWN_LOOKS], [own]);
  const looked = useQueries({
    queries: looks.map((look) => ({
      queryKey: ["looked", pool.id, look.id, JSON.stringify(base)],
      queryFn: () => pool.ask("looked", { recipe: base, look }),
      staleTime: Infinity,
      gcTime: 60_000,
      retry: false,
    })),
  });
  const leave = () => benchView.setState({ laidOut: null });
  useAct({ ...FINISH_ACTS["leave-wall"], run: leave });
  const done = looked.map(({ data }) => data);
  const choices: Choosable[] = looks.flatMap((look, i) => {
    const fitted = done[i];
    if (!fitted) return [];
    return [
      {
        id: look.id,
        name: look.name,
        why: [look.note, ...fitted.adapted].filter(Boolean).join("; "),
        recipe: mixRecipes(base, fitted.recipe, amount),
      },
    ];
  });
  const all = useStableChoices([
    {
      id: PRESENT,
      name: unders.length > 0 ? `${unders.map(({ name }) => name).join(" + ")}` : "As it is",
      why: unders.length > 0 ? "laid on already; choose what goes on top" : "the present print",
      recipe: base,
    },
    ...choices,
  ]);
  const take = (id: string) => {
    const chosen = all.find((one) => one.id === id);
    if (chosen && chosen.recipe !== start) {
      const names = [...unders.map(({ name }) => name), ...(id === PRESENT ? [] : [chosen.name])];
      session.change(
        "Finish",
        `Look: ${names.join(" + ")}${amount === 1 || id === PRESENT ? "" : ` ${Math.round(100 * amount)} %`}`,
        () => chosen.recipe,
      );
    }
    leave();
  };
  const layUnder = (id: string) => {
    const chosen = choices.find((one) => one.id === id);
    if (!chosen) return;
    setUnders((now) => [...now, { name: chosen.name, recipe: chosen.recipe }]);
    setAmount(1);
  };
  const dice = () => {
    if (choices.length === 0) return;
    const pick = <T,>(from: readonly T[]): T => from[Math.floor(Math.random() * from.length)];
    const at = pick([...choices.keys()]);
    const share = pick(DICE_AMOUNTS);
    const fitted = done[looks.findIndex(({ id }) => id === choices[at].id)];
    if (!fitted) return;
    setUnders([
      { name: `${choices[at].name} ${Math.round(100 * share)} %`, recipe: mixRecipes(start, fitted.recipe, share) },
    ]);
    setAmount(pick(DICE_AMOUNTS));
  };
  const waiting = looked.filter(({ isPending }) => isPending).length;
  const failed = looked.filter(({ isError }) => isError).length;
  return (
    <LaidOut
      title="The wall"
      leaveAct={FINISH_ACTS["leave-wall"]}
      onLeave={leave}
      choices={all}
      takenId={PRESENT}
      onTake={take}
      acts={
        <span className="flex items-center gap-2">
          <span className="w-[230px]">
            <Amount
              label="Amount"
              value={amount}
              range={{ minimum: 0, maximum: MOST_AMOUNT, default: 1, description: "How far each look is taken." }}
              step={0.05}
              format={(v) => `${Math.round(100 * v)} %`}
              typedScale={100}
              onChange={setAmount}
              onEnd={() => undefined}
            />
          </span>
          <button className="act" title="One look at random, another to be laid on it" onClick={dice}>
            <Dices size={14} /> Dice
          </button>
          {unders.length > 0 && (
            <button className="act" onClick={() => setUnders([])}>
              Begin again
            </button>
          )}
        </span>
      }
      under={(id) => (
        <span className="flex">
          {id !== PRESENT && (
            <button
              className="act px-1 text-[12px]"
              title="Taken, and the wall shows what goes on top of it"
              onClick={() => layUnder(id)}
            >
              lay another on it
            </button>
          )}
          {own?.some((look) => look.id === id) && <OwnActs look={own.find((look) => look.id === id)!} />}
        </span>
      )}
    >
      {waiting > 0 && <p className="text-quiet col-span-full">Fitting {waiting} looks to this picture…</p>}
      {failed > 0 && <p className="text-quiet col-span-full">{failed} looks could not be fitted.</p>}
    </LaidOut>
  );
}

/** The same recipes stay the same objects, so that nothing is drawn again that did not change. */
function useStableChoices(next: readonly Choosable[]): readonly Choosable[] {
  const [kept] = useState(() => new Map<string, Choosable>());
  return next.map((one) => {
    const key = `${one.id} ${one.name} ${one.why} ${JSON.stringify(one.recipe)}`;
    const known = kept.get(key);
    if (known) return known;
    kept.set(key, one);
    return one;
  });
}

/** What can be done with a look of one's own. */
function OwnActs({ look: { id, name } }: { look: Look }) {
  const again = () => queryClient.invalidateQueries({ queryKey: ["looks"] });
  const putAway = () =>
    void api(`/looks/${id}`, { method: "DELETE" })
      .then(async () => {
        await again();
        notify(`The look “${name}” is put away.`, {
          label: "Bring it back",
          run: () => void api(`/looks/${id}/restore`, { method: "POST" }).then(again),
        });
      })
      .catch((error: Error) => notify(error.message));
  return (
    <>
      <a className="p-1.5" href={`/api/looks/${id}/file`} download aria-label={`${name} as a file`} title="As a file">
        <Download size={13} />
      </a>
      <IconAct label={`Put ${name} away`} icon={<Trash2 size={13} />} onClick={putAway} />
    </>
  );
}
