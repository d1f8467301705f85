import { SCREEN_ACTS } from "./acts.ts";
import type { Roll } from "@yelm/core";
import { format } from "date-fns";
import { Plus } from "lucide-react";
import { Link, useNavigate } from "react-router";
import { api } from "../data/api.ts";
import { queryClient, useRolls, useRollsPutAway } from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { notify } from "../shell/shell-view.ts";
import { OpenArchive } from "./open-archive.tsx";
import { Page } from "./page.tsx";

/** All rolls, newest first, each with its best prints. */
export function RollsScreen() {
  const rolls = useRolls();
  const away = useRollsPutAway(true);
  const table = rolls.data?.filter(({ archivedAt }) => !archivedAt) ?? [];
  const archived = rolls.data?.filter(({ archivedAt }) => archivedAt) ?? [];
  const navigate = useNavigate();
  const make = () =>
    void api<Roll>("/rolls", { method: "POST", body: { title: `Roll of ${format(new Date(), "d MMMM")}` } })
      .then(async (roll) => {
        await queryClient.invalidateQueries({ queryKey: ["rolls"] });
        void navigate(`/rolls/${roll.id}`);
      })
      .catch((error: Error) => notify(error.message));
  useAct({ ...SCREEN_ACTS["new-roll"], run: make });
  return (
    <Page
      acts={
        <>
          <OpenArchive />
          <button className="act" onClick={make}>
            <Plus size={15} /> New roll <kbd>N</kbd>
          </button>
        </>
      }
    >
      {rolls.isPending && <p className="text-quiet font-serif text-lg">Looking for rolls…</p>}
      {rolls.data?.length === 0 && !away.data?.length && (
        <div className="grid place-items-center gap-3 py-24 text-center">
          <p className="font-serif text-2xl">No rolls yet</p>
          <p className="text-quiet max-w-96">
            A roll holds the captures of one shoot. Make one, then drop colour raw files, 16-bit TIFF or PNG, or JPEG on
            it.
          </p>
          <button className="write-act max-w-48" onClick={make}>
            New roll
          </button>
        </div>
      )}
      {table.map((roll) => (
        <RollRow key={roll.id} roll={roll} />
      ))}
      <Shelf title="Archive" rolls={archived} word="Take out" onTake={(roll) => change(roll, { archived: false })} />
      <Shelf
        title="Put away, for 30 days of use"
        rolls={away.data ?? []}
        word="Bring back"
        onTake={({ id }) => attempt(api(`/rolls/${id}/restore`, { method: "POST" }))}
      />
    </Page>
  );
}

const attempt = (work: Promise<unknown>) =>
  void work
    .then(() => queryClient.invalidateQueries({ queryKey: ["rolls"] }))
    .catch((error: Error) => notify(error.message));
const change = ({ id }: Roll, body: { archived: boolean }) => attempt(api(`/rolls/${id}`, { method: "PATCH", body }));

interface ShelfProps {
  readonly title: string;
  readonly rolls: readonly Roll[];
  readonly word: string;
  readonly onTake: (roll: Roll) => void;
}

/** Rolls that are not on the table, one line each. */
function Shelf({ title, rolls, word, onTake }: ShelfProps) {
  if (rolls.length === 0) return null;
  return (
    <section className="pt-10">
      <h2 className="text-quiet border-line border-b pb-1 font-serif text-[15px]">{title}</h2>
      <ul>
        {rolls.map((roll) => (
          <li key={roll.id} className="border-line flex items-baseline gap-4 border-b py-2">
            <span className="font-serif text-[16px]">{roll.title}</span>
            <span className="text-quiet">
              {roll.negativeCount} {roll.negativeCount === 1 ? "negative" : "negatives"}
            </span>
            <button className="act ml-auto" onClick={() => onTake(roll)}>
              {word}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function RollRow({ roll }: { roll: Roll }) {
  const [first, ...rest] = roll.coverPrintIds;
  const cover = (id: string, edge: number) => `/api/prints/${id}/thumbnail?edge=${edge}`;
  return (
    <article className="border-line border-b pb-10 not-first:pt-10">
      <Link to={`/rolls/${roll.id}`} className="block">
        <header className="mb-4 flex items-baseline gap-4">
          <h1 className="font-serif text-[28px] leading-tight">{roll.title}</h1>
          <span className="text-quiet">
            {[
              roll.place,
              roll.date,
              roll.light,
              `${roll.negativeCount} ${roll.negativeCount === 1 ? "negative" : "negatives"}`,
              format(new Date(roll.createdAt), "d MMMM yyyy"),
            ]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </header>
        {first ? (
          <div className="flex h-[clamp(300px,58vh,640px)] gap-3">
            <img
              className="h-full min-w-0 flex-[3] object-cover"
              src={cover(first, 1280)}
              alt={`Best print of ${roll.title}`}
            />
            {rest.length > 0 && (
              <div className="flex min-w-0 flex-1 flex-col gap-3">
                {rest.map((id) => (
                  <img key={id} className="min-h-0 w-full flex-1 object-cover" src={cover(id, 640)} alt="" />
                ))}
              </div>
            )}
          </div>
        ) : (
          <p className="text-quiet border-line rounded border border-dashed px-6 py-10">
            Empty. Open it and drop captures on it.
          </p>
        )}
      </Link>
      <footer className="mt-4 flex items-start gap-4">
        <p className="text-quiet max-w-[70ch] font-serif text-[15px] leading-relaxed">{roll.note}</p>
        <span className="ml-auto flex shrink-0">
          <button className="act text-quiet" onClick={() => change(roll, { archived: true })}>
            To the archive
          </button>
          <button className="act text-quiet" onClick={() => attempt(api(`/rolls/${roll.id}`, { method: "DELETE" }))}>
            Put away
          </button>
        </span>
      </footer>
    </article>
  );
}
