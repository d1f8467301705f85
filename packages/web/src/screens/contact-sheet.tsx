import { SCREEN_ACTS } from "./acts.ts";
import { RATINGS, type Rating } from "@yelm/core";
import { FolderInput, CardSim } from "lucide-react";
import { useEffect, useRef, useState, type MouseEvent } from "react";
import { useDropzone } from "react-dropzone";
import { Link, useNavigate, useParams } from "react-router";
import { useStore } from "zustand";
import { api } from "../data/api.ts";
import { importFiles } from "../data/imports.ts";
import { queryClient, useCard, useRoll, useRollSheet } from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { Keys } from "../keys/keys.tsx";
import { downloadWhole } from "../data/download.ts";
import { copiedParts } from "../copied-parts/clipboard.ts";
import { PartsSheet } from "../copied-parts/parts-sheet.tsx";
import { pasteOn } from "../copied-parts/paste.ts";
import { warmUp } from "../workers/spare-workers.ts";
import { arrange, choose, countRatings, ORDERS, type Order, type Shown } from "../sheet/arrange.ts";
import { CardSheet } from "../sheet/card-sheet.tsx";
import { Frames } from "../sheet/frames.tsx";
import { RollHead } from "../sheet/roll-head.tsx";
import { notify } from "../shell/shell-view.ts";
import { Waiting } from "../shell/waiting.tsx";
import { Page } from "./page.tsx";

const SHOWN: readonly (readonly [Shown, string])[] = [
  ["all", "all"],
  ["keep", "keep"],
  ["maybe", "maybe"],
  ["no", "no"],
  ["unrated", "not rated"],
];

/** More prints than this are no longer large on one page. */
const MOST_SPREAD = 24;

/** A roll's contact sheet: every negative with its best print; files and folders are dropped anywhere on it. */
export function ContactSheetScreen() {
  const { rollId = "" } = useParams();
  const roll = useRoll(rollId);
  const [away, setAway] = useState(false);
  const sheet = useRollSheet(rollId, away);
  const card = useCard();
  const navigate = useNavigate();
  const scroller = useRef<HTMLElement>(null);
  const folderInput = useRef<HTMLInputElement>(null);
  const [colour, setColour] = useState(false);
  const [cardOpen, setCardOpen] = useState(false);
  const [shown, setShown] = useState<Shown>("all");
  const [order, setOrder] = useState<Order>("taken");
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [current, setCurrentState] = useState(-1);
  // Keys may come faster than the page is drawn, so acts read the place from here.
  const place = useRef(-1);
  const setCurrent = (index: number) => {
    place.current = index;
    setCurrentState(index);
  };
  const [columns, setColumns] = useState(1);
  useEffect(warmUp, []);
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) => importFiles(rollId, files),
  });

  const all = sheet.data ?? [];
  const entries = arrange(all, shown, order, text);
  const counts = countRatings(all);
  const ids = entries.map(({ id }) => id);
  const here = Math.min(current, entries.length - 1);
  const now = () => Math.min(place.current, entries.length - 1);
  const meantNow = () => (chosen.size > 0 ? ids.filter((id) => chosen.has(id)) : now() >= 0 ? [ids[now()]] : []);
  const meant = chosen.size > 0 ? ids.filter((id) => chosen.has(id)) : here >= 0 ? [ids[here]] : [];

  const send = async (change: { rating?: Rating | null; deleted?: boolean }, of: readonly string[]) => {
    await api("/negatives", { method: "PATCH", body: { ids: of, ...change } });
    await queryClient.invalidateQueries({ queryKey: ["negatives"] });
  };
  const attempt = (work: Promise<unknown>) => void work.catch((error: Error) => notify(error.message));
  const rate = (rating: Rating | null) => {
    const of = meantNow();
    if (of.length === 0) return;
    attempt(send({ rating }, of));
    if (chosen.size === 0 && rating !== null) setCurrent(Math.min(now() + 1, entries.length - 1));
  };
  const putAway = () => {
    const of = meantNow();
    if (of.length === 0) return;
    const said = of.length === 1 ? "One negative was put away" : `${of.length} negatives were put away`;
    setChosen(new Set());
    attempt(
      send({ deleted: !away }, of).then(() => {
        if (away) notify(of.length === 1 ? "It is back." : "They are back.");
        else
          notify(`${said} for 30 days of use.`, {
            label: "Bring back",
            run: () => attempt(send({ deleted: false }, of)),
          });
      }),
    );
  };
  const step = (by: number) => setCurrent(Math.max(0, Math.min(entries.length - 1, now() < 0 ? 0 : now() + by)));
  const openCurrent = () => {
    const best = entries[now()]?.best;
    if (best) void navigate(`/prints/${best.id}`);
  };
  const pick = (index: number, event: MouseEvent) => {
    if (event.shiftKey) setChosen(choose(ids, chosen, ids[here] ?? null, ids[index], "reach"));
    else if (event.ctrlKey || event.metaKey) setChosen(choose(ids, chosen, null, ids[index], "toggle"));
    setCurrent(index);
  };

  useAct({ ...SCREEN_ACTS["bring-in"], run: open });
  useAct({ ...SCREEN_ACTS["bring-folder"], run: () => folderInput.current?.click() });
  useAct({ ...SCREEN_ACTS["card"], run: () => setCardOpen(true) });
  useAct({ ...SCREEN_ACTS["colour-sheet"], run: () => setColour(true), release: () => setColour(false) });
  useAct({ ...SCREEN_ACTS["rate-keep"], run: () => rate("keep") });
  useAct({ ...SCREEN_ACTS["rate-maybe"], run: () => rate("maybe") });
  useAct({ ...SCREEN_ACTS["rate-no"], run: () => rate("no") });
  useAct({ ...SCREEN_ACTS["rate-none"], run: () => rate(null) });
  useAct({ ...SCREEN_ACTS["frame-left"], run: () => step(-1) });
  useAct({ ...SCREEN_ACTS["frame-right"], run: () => step(1) });
  useAct({ ...SCREEN_ACTS["frame-up"], run: () => step(-columns) });
  useAct({ ...SCREEN_ACTS["frame-down"], run: () => step(columns) });
  useAct({
    ...SCREEN_ACTS["frame-choose"],
    run: () => now() >= 0 && setChosen(choose(ids, chosen, null, ids[now()], "toggle")),
  });
  useAct({ ...SCREEN_ACTS["choose-all"], run: () => setChosen(new Set(ids)) });
  useAct({ ...SCREEN_ACTS["choose-none"], run: () => setChosen(new Set()) });
  useAct({ ...SCREEN_ACTS["frame-open"], run: openCurrent });
  const { kept } = useStore(copiedParts);
  const [pasting, setPasting] = useState<readonly string[] | null>(null);
  const pasteParts = () => {
    const best = entries
      .filter(({ id }) => meantNow().includes(id))
      .flatMap((entry) => (entry.best ? [entry.best.id] : []));
    if (!kept) notify("Nothing is copied yet: copy parts of a print on the bench first.");
    else if (best.length === 0) notify("Choose the frames whose best print is to have the parts.");
    else setPasting(best);
  };
  useAct({ ...SCREEN_ACTS["parts-paste-many"], run: pasteParts });
  const spread = () => {
    const of = chosen.size > 0 ? entries.filter(({ id }) => chosen.has(id)) : entries.slice(0, MOST_SPREAD);
    const prints = of.flatMap(({ best }) => (best ? [best.id] : []));
    if (prints.length > 0) void navigate(`/spread?prints=${prints.slice(0, MOST_SPREAD).join(",")}`);
  };
  useAct({ ...SCREEN_ACTS["spread"], run: spread });
  useAct({ ...SCREEN_ACTS["put-away"], ...(away ? { label: "Bring back" } : {}), run: putAway });

  if (roll.error) return <Waiting text={roll.error.message} home />;
  if (!roll.data || !sheet.data) return <Waiting text="Laying out the roll…" />;
  const reads = card.data?.rollId === rollId;
  return (
    <div className="h-full" {...getRootProps()}>
      {pasting && kept && (
        <PartsSheet
          title={`Paste parts of “${kept.name}”`}
          recipe={kept.recipe}
          start={kept.groups}
          offered={kept.groups}
          verb={pasting.length === 1 ? "Paste on one print" : `Paste on ${pasting.length} prints`}
          onClose={() => setPasting(null)}
          onDone={(groups) => {
            setPasting(null);
            attempt(pasteOn(pasting, { ...kept, groups }));
          }}
        />
      )}
      <input {...getInputProps()} aria-label="Files to bring in" data-testid="file-input" />
      <input
        ref={folderInput}
        type="file"
        className="hidden"
        aria-label="Folder to bring in"
        data-testid="folder-input"
        {...{ webkitdirectory: "" }}
        onChange={(event) => {
          importFiles(rollId, [...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Page
        scroller={scroller}
        acts={
          <>
            <Link
              className="act"
              title="Key, contrast, tone and grain side by side; match, looks, log"
              to={`/rolls/${rollId}/set`}
            >
              The set
            </Link>
            <button
              className="act"
              title="The whole roll as one archive: captures as they came, prints, plans"
              onClick={() => attempt(downloadWhole(`/rolls/${rollId}/archive`))}
            >
              Take along
            </button>
            <button className="act" title="The best print of each, as large as they go" onClick={spread}>
              Spread <Keys of={SCREEN_ACTS["spread"]} />
            </button>
            <button
              className="act"
              aria-pressed={colour}
              onPointerDown={() => setColour(true)}
              onPointerUp={() => setColour(false)}
              onPointerLeave={() => setColour(false)}
            >
              Colour <kbd>hold C</kbd>
            </button>
            <button className="act" aria-pressed={reads} onClick={() => setCardOpen(true)}>
              <CardSim size={15} className={reads ? "text-accent" : ""} /> Card <kbd>L</kbd>
            </button>
            <button className="act" onClick={open}>
              <FolderInput size={15} /> Bring in <kbd>I</kbd>
            </button>
          </>
        }
      >
        <RollHead key={roll.data.id} roll={roll.data} />
        {all.length === 0 && !away ? (
          <button
            className="border-line text-quiet hover:text-base-content mt-8 grid w-full cursor-pointer place-items-center gap-2 rounded border border-dashed py-24"
            onClick={open}
          >
            <span className="font-serif text-2xl">Drop captures here</span>
            <span>Raw files of any camera, 16-bit TIFF or PNG, JPEG; or a whole folder.</span>
            <span>They are copied, checked and never changed.</span>
          </button>
        ) : (
          <>
            <div className="border-line bg-base-200 sticky -top-8 z-10 mt-6 flex flex-wrap items-center gap-x-5 gap-y-1 border-y py-1.5">
              <span role="radiogroup" aria-label="Shown" className="flex">
                {SHOWN.map(([value, word]) => (
                  <button
                    key={value}
                    role="radio"
                    aria-checked={shown === value}
                    className={`act ${shown === value ? "text-base-content" : "text-quiet"}`}
                    onClick={() => setShown(value)}
                  >
                    {word} <span className="text-quiet">{counts[value]}</span>
                  </button>
                ))}
              </span>
              <select
                className="field"
                aria-label="Order"
                value={order}
                onChange={(event) => setOrder(event.target.value as Order)}
              >
                {ORDERS.map(([value, word]) => (
                  <option key={value} value={value}>
                    {word}
                  </option>
                ))}
              </select>
              <input
                className="field w-40"
                aria-label="Find by name"
                placeholder="find by name"
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
              <button className="act text-quiet" aria-pressed={away} onClick={() => setAway(!away)}>
                {away ? "Back to the roll" : "What was put away"}
              </button>
              <span className="ml-auto flex items-center">
                {kept && meant.length > 0 && (
                  <button
                    className="act"
                    title={`Parts of “${kept.name}”, on the best print of each`}
                    onClick={pasteParts}
                  >
                    Paste parts
                  </button>
                )}
                {chosen.size > 0 && (
                  <button className="act text-quiet" onClick={() => setChosen(new Set())}>
                    {meant.length} chosen
                  </button>
                )}
                {!away &&
                  RATINGS.map((rating) => (
                    <button key={rating} className="act" disabled={meant.length === 0} onClick={() => rate(rating)}>
                      {rating} <Keys of={SCREEN_ACTS[`rate-${rating}`]} />
                    </button>
                  ))}
                <button className="act" disabled={meant.length === 0} onClick={putAway}>
                  {away ? "Bring back" : "Put away"} <kbd>Del</kbd>
                </button>
              </span>
            </div>
            {entries.length === 0 && (
              <p className="text-quiet py-16 text-center font-serif text-lg">
                {away ? "Nothing was put away in the last 30 days of use." : "No frame fits."}
              </p>
            )}
            <Frames
              entries={entries}
              chosen={chosen}
              current={here}
              colour={colour}
              scroller={scroller}
              onPick={pick}
              onColumns={setColumns}
            />
          </>
        )}
      </Page>
      {cardOpen && <CardSheet roll={roll.data} onClose={() => setCardOpen(false)} />}
      {isDragActive && (
        <div className="border-accent bg-base-200/90 pointer-events-none fixed inset-4 z-30 grid place-items-center rounded-md border-2 border-dashed">
          <p className="font-serif text-3xl">Let go to bring them into “{roll.data.title}”</p>
        </div>
      )}
    </div>
  );
}
