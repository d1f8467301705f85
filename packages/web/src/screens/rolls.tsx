import type { Roll } from "@yelm/core";
import { format } from "date-fns";
import { Plus } from "lucide-react";
import { Link, useNavigate } from "react-router";
import { api } from "../data/api.ts";
import { queryClient, useRolls } from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { notify } from "../shell/shell-view.ts";
import { Page } from "./page.tsx";

/** All rolls, newest first, each with its best prints. */
export function RollsScreen() {
  const rolls = useRolls();
  const navigate = useNavigate();
  const make = () =>
    void api<Roll>("/rolls", { method: "POST", body: { title: `Roll of ${format(new Date(), "d MMMM")}` } })
      .then(async (roll) => {
        await queryClient.invalidateQueries({ queryKey: ["rolls"] });
        void navigate(`/rolls/${roll.id}`);
      })
      .catch((error: Error) => notify(error.message));
  useAct({ id: "new-roll", label: "New roll", group: "Roll", keys: "n", run: make });
  return (
    <Page
      acts={
        <button className="act" onClick={make}>
          <Plus size={15} /> New roll <kbd>N</kbd>
        </button>
      }
    >
      {rolls.isPending && <p className="text-quiet font-serif text-lg">Looking for rolls…</p>}
      {rolls.data?.length === 0 && (
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
      {rolls.data?.map((roll) => (
        <RollRow key={roll.id} roll={roll} />
      ))}
    </Page>
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
      {roll.note && <p className="text-quiet mt-4 max-w-[70ch] font-serif text-[15px] leading-relaxed">{roll.note}</p>}
    </article>
  );
}
