import type { Negative, Print, Roll } from "@yelm/core";
import { FolderInput } from "lucide-react";
import { useEffect, useState } from "react";
import { useDropzone } from "react-dropzone";
import { Link, useParams } from "react-router";
import { api } from "../data/api.ts";
import { importFiles } from "../data/imports.ts";
import {
  negativeThumbnail,
  printThumbnail,
  queryClient,
  useNegatives,
  usePrintsOfRoll,
  useRoll,
} from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { warmUp } from "../picture/spare-workers.ts";
import { notify } from "../shell/shell-view.ts";
import { Waiting } from "../shell/waiting.tsx";
import { Page } from "./page.tsx";

/** A roll's contact sheet: every negative with its best print; files are dropped anywhere on it. */
export function ContactSheetScreen() {
  const { rollId } = useParams();
  const roll = useRoll(rollId);
  const negatives = useNegatives(rollId);
  const prints = usePrintsOfRoll(rollId);
  const [colour, setColour] = useState(false);
  useEffect(warmUp, []);
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) => importFiles(rollId!, files),
  });
  useAct({ id: "bring-in", label: "Bring in files", group: "Roll", keys: "i", run: open });
  useAct({
    id: "colour-sheet",
    label: "Negatives in colour",
    group: "Roll",
    keys: "c",
    run: () => setColour(true),
    release: () => setColour(false),
  });
  if (roll.error) return <Waiting text={roll.error.message} home />;
  if (!roll.data || !negatives.data || !prints.data) return <Waiting text="Laying out the roll…" />;
  return (
    <div className="h-full" {...getRootProps()}>
      <input {...getInputProps()} aria-label="Files to bring in" data-testid="file-input" />
      <Page
        acts={
          <>
            <button
              className="act"
              aria-pressed={colour}
              onPointerDown={() => setColour(true)}
              onPointerUp={() => setColour(false)}
              onPointerLeave={() => setColour(false)}
            >
              Colour <kbd>hold C</kbd>
            </button>
            <button className="act" onClick={open}>
              <FolderInput size={15} /> Bring in <kbd>I</kbd>
            </button>
          </>
        }
      >
        <RollHead roll={roll.data} />
        {negatives.data.length === 0 ? (
          <button
            className="border-line text-quiet hover:text-base-content mt-8 grid w-full cursor-pointer place-items-center gap-2 rounded border border-dashed py-24"
            onClick={open}
          >
            <span className="font-serif text-2xl">Drop captures here</span>
            <span>Raw files of any camera, 16-bit TIFF or PNG, JPEG. They are copied, checked and never changed.</span>
          </button>
        ) : (
          <ul className="mt-8 grid grid-cols-[repeat(auto-fill,minmax(260px,1fr))] gap-x-6 gap-y-8">
            {negatives.data.map((negative) => (
              <Frame
                key={negative.id}
                negative={negative}
                prints={prints.data.filter((p) => p.negativeId === negative.id)}
                colour={colour}
              />
            ))}
          </ul>
        )}
      </Page>
      {isDragActive && (
        <div className="border-accent bg-base-200/90 pointer-events-none fixed inset-4 z-30 grid place-items-center rounded-md border-2 border-dashed">
          <p className="font-serif text-3xl">Let go to bring them into “{roll.data.title}”</p>
        </div>
      )}
    </div>
  );
}

function RollHead({ roll }: { roll: Roll }) {
  const keep = (change: Partial<Pick<Roll, "title" | "place" | "note">>) =>
    void api(`/rolls/${roll.id}`, { method: "PATCH", body: change })
      .then(() => queryClient.invalidateQueries({ queryKey: ["rolls"] }))
      .catch((error: Error) => notify(error.message));
  return (
    <header className="max-w-[80ch]">
      <input
        className="hover:bg-fill focus:bg-fill -mx-2 block w-full rounded px-2 font-serif text-[28px] leading-tight"
        aria-label="Title of the roll"
        defaultValue={roll.title}
        maxLength={120}
        onBlur={(event) => {
          const title = event.target.value.trim();
          if (title && title !== roll.title) keep({ title });
          else event.target.value = roll.title;
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <input
        className="hover:bg-fill focus:bg-fill text-quiet -mx-2 mt-1 block w-full rounded px-2"
        aria-label="Place"
        placeholder="Place, date, light"
        defaultValue={roll.place}
        maxLength={120}
        onBlur={(event) => event.target.value !== roll.place && keep({ place: event.target.value })}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <textarea
        className="hover:bg-fill focus:bg-fill text-quiet -mx-2 mt-1 block field-sizing-content w-full resize-none rounded px-2 font-serif text-[15px] leading-relaxed"
        aria-label="Note"
        placeholder="What is this roll about?"
        defaultValue={roll.note}
        maxLength={2000}
        onBlur={(event) => event.target.value !== roll.note && keep({ note: event.target.value })}
      />
    </header>
  );
}

function Frame({ negative, prints, colour }: { negative: Negative; prints: readonly Print[]; colour: boolean }) {
  const best = [...prints].sort((a, b) => b.position - a.position || b.updatedAt.localeCompare(a.updatedAt))[0];
  const { iso } = negative.capture;
  return (
    <li>
      <Link to={best ? `/prints/${best.id}` : "#"} className="group block">
        <span className="relative block aspect-[3/2]">
          <img
            src={colour || !best ? negativeThumbnail(negative.id, 640) : printThumbnail(best, 640)}
            alt={negative.title}
            loading="lazy"
            className="absolute inset-0 h-full w-full object-contain"
          />
        </span>
        <span className="mt-3 flex items-baseline justify-between gap-3">
          <span className="truncate font-serif text-[16px] underline-offset-4 group-hover:underline">
            {negative.title}
          </span>
          <span className="text-quiet shrink-0">{prints.length === 1 ? "1 print" : `${prints.length} prints`}</span>
        </span>
        <span className="text-quiet block">{[negative.fileName, iso && `ISO ${iso}`].filter(Boolean).join(" · ")}</span>
      </Link>
    </li>
  );
}
