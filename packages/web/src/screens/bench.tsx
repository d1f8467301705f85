import { BENCH_ACTS } from "../bench/acts.ts";
import type { Negative, Station } from "@yelm/core";
import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { Rail } from "../bench/rail.tsx";
import { Strip } from "../bench/strip.tsx";
import { Ticket } from "../bench/ticket.tsx";
import { TopBar } from "../bench/top-bar.tsx";
import { useUndoActs } from "../bench/use-undo.ts";
import { usePictureActs } from "../bench/use-picture-acts.ts";
import { api } from "../data/api.ts";
import { openPrint } from "../data/session/open-print.ts";
import type { EditSession } from "../data/session/session.ts";
import { useNegative, useRoll } from "../data/queries.ts";
import { SessionContext, useEdit, useSession } from "../data/use-session.ts";
import { usePartsActs } from "../copied-parts/use-parts-acts.tsx";
import { Loupe } from "../bench/loupe.tsx";
import { Squint } from "../bench/squint.tsx";
import { TestStrip, useTestStripAct } from "../instruments/test-strip.tsx";
import { ZoneHatching } from "../instruments/zone-hatching.tsx";
import { ToneLadder } from "../instruments/tone-ladder.tsx";
import { useAct } from "../keys/acts.ts";
import { benchView, resetBenchView } from "../picture/bench-view.ts";
import { mountSeen } from "../picture/mounts-seen.ts";
import { openingBench, openingOver } from "../picture/opening.ts";
import { PicturePane } from "../picture/picture.tsx";
import { smallPicture } from "../picture/small-picture.ts";
import { currentLook } from "../theme/theme.ts";
import { Notices } from "../shell/notices.tsx";
import { isShapeTool, toolOf } from "../shapes/shape-tools.ts";
import { HeldPlan } from "../stations/intend/plan-layer.tsx";
import { stationDef } from "../stations/stations.ts";
import { Keys } from "../keys/keys.tsx";
import { NotesContext, openNotes } from "../data/notes/use-notes.ts";
import type { NotesSession } from "../data/notes/notes-session.ts";
import { watchNotes, watchPrint } from "../data/queries.ts";
import { offerStations } from "../bench/go.ts";
import { PoolContext } from "../workers/pool-context.ts";
import { beginEarly, takePool } from "../workers/early-pool.ts";
import type { RenderPool } from "../workers/render-pool.ts";
import { notify } from "../shell/shell-view.ts";
import { Waiting } from "../shell/waiting.tsx";
import { tilesAddress } from "../workers/tiles-address.ts";

/** The bench: one print, everything that is done to it. */
export function BenchScreen() {
  const { printId } = useParams();
  const [opened, setOpened] = useState<
    { id: string; session: EditSession; notes: NotesSession } | { id: string; error: string } | null
  >(null);
  useEffect(() => {
    let live = true;
    let session: EditSession | undefined;
    const { letGo } = beginEarly(printId!);
    const notes = openNotes(printId!);
    const stopNotes = watchNotes(printId!, (head) => void notes.refresh(head));
    const stop = watchPrint(printId!, (told) => void session?.refresh(told));
    openPrint(printId!)
      .then((made) => {
        session = made;
        if (live) setOpened({ id: printId!, session: made, notes });
        else void made.close();
      })
      .catch((error: Error) => live && setOpened({ id: printId!, error: error.message }));
    return () => {
      live = false;
      letGo();
      stopNotes();
      notes.close();
      stop();
      void session?.close();
    };
  }, [printId]);
  if (!opened) return <Opening printId={printId!} />;
  if ("error" in opened) return <Waiting text={opened.error} home />;
  return (
    <SessionContext value={opened.session}>
      <NotesContext value={opened.notes}>
        <WithNegative printId={opened.id} negativeId={opened.session.store.getState().print.negativeId} />
      </NotesContext>
    </SessionContext>
  );
}

/** The print as it was last seen small, in the frame of the bench that opens. */
function Opening({ printId }: { printId: string }) {
  const place = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    place.current!.replaceChildren(openingBench(printId, smallPicture(printId), currentLook(), mountSeen(printId)));
  }, [printId]);
  return <div ref={place} role="status" aria-label="Opening the print" className="h-full" />;
}

function WithNegative({ printId, negativeId }: { printId: string; negativeId: string }) {
  const negative = useNegative(negativeId);
  const [pool, setPool] = useState<RenderPool | null>(null);
  const found = negative.data;
  useEffect(() => {
    if (found) resetBenchView();
  }, [found?.id]); // eslint-disable-line react-hooks/exhaustive-deps -- a renamed negative keeps its view
  useEffect(() => {
    if (!found) return;
    const made = takePool(found);
    setPool(made);
    return () => made.close();
  }, [found && tilesAddress(found)]); // eslint-disable-line react-hooks/exhaustive-deps -- a renamed negative keeps its workers
  if (negative.error) return <Waiting text={negative.error.message} home />;
  if (!found || pool?.negativeId !== found.id) return <Opening printId={printId} />;
  return <Bench negative={found} pool={pool} />;
}

/** Whether nothing was done to a print yet: one looks before one touches. */
const isFresh = (session: EditSession) => session.store.getState().revisions.size <= 1;

function Bench({ negative, pool }: { negative: Negative; pool: RenderPool }) {
  const session = useSession();
  const notice = useEdit((state) => state.notice);
  const roll = useRoll(negative.rollId);
  const [station, setStation] = useState<Station>(() => (isFresh(session) ? "Intend" : "Weigh"));
  const open = stationDef(station)!;
  const { Sheet, Overlay, Stage, hints } = open;
  const go = useCallback((next: Station, itemId: string | null = null) => {
    if (!stationDef(next)) return;
    setStation(next);
    const item = itemId === null ? {} : { moveId: itemId, areaId: itemId };
    benchView.setState({ tool: "look", laidOut: null, stripOf: [], pointed: [], ...item });
  }, []);
  useEffect(() => offerStations(go), [go]);
  useEffect(openingOver, []);
  // What happened to the print is told where all else is told.
  useEffect(() => {
    if (!notice) return;
    notify(notice);
    session.dismissNotice();
  }, [notice, session]);
  const { before, colour, toggle } = usePictureActs();
  const verify = () =>
    void api<{ intact: boolean }>(`/negatives/${negative.id}/verify`, { method: "POST" })
      .then(({ intact }) =>
        notify(
          intact
            ? `${negative.fileName} is, bit by bit, the file that came in.`
            : `${negative.fileName} is no longer the file that came in. Bring it in again from your own copy.`,
        ),
      )
      .catch((error: Error) => notify(error.message));
  useAct({ ...BENCH_ACTS.verify, run: verify });
  useTestStripAct();
  const partsSheet = usePartsActs(negative, pool);
  useUndoActs();
  const { mode, zoom, scale, tool, laidOut } = useStore(
    benchView,
    useShallow((view) => ({
      mode: view.mode,
      zoom: view.zoom,
      scale: view.scale,
      tool: view.tool,
      laidOut: view.laidOut,
    })),
  );

  return (
    <PoolContext value={pool}>
      <div className="bench">
        <TopBar roll={roll.data} negative={negative}>
          <button className="act" onClick={toggle} title="Whole picture or 100 %; the wheel steps too">
            {zoom.zoom === "fit" ? "Whole" : "Zoom"} <kbd>{Math.round(100 * scale)} %</kbd>
          </button>
          <button className="act" {...before} aria-pressed={mode === "plain"}>
            Before <Keys of={BENCH_ACTS.before} hold />
          </button>
          <button className="act" {...colour} aria-pressed={mode === "colour"}>
            Colour <Keys of={BENCH_ACTS.colour} hold />
          </button>
        </TopBar>
        <Rail station={station} onGo={go} />
        <main
          key={station}
          className="slim-scroll border-line bg-base-100 overflow-y-auto border-r px-4 pb-6"
          aria-label={`${station} sheet`}
        >
          <h2 className="bg-base-100 sticky top-0 z-10 -mx-4 mb-2 px-4 pt-3 pb-1 font-serif text-[21px]">{station}</h2>
          <Sheet negative={negative} />
        </main>
        <div className="relative min-h-0 min-w-0">
          <PicturePane
            pool={pool}
            negative={negative}
            shown={(recipe, inHand) => open.shownWith?.(recipe, inHand) ?? recipe}
            hint={hints[tool] ?? (isShapeTool(tool) ? toolOf(tool).hint : undefined)}
          >
            {(place) => (
              <>
                {Overlay && <Overlay {...place} />}
                <ZoneHatching {...place} />
                <HeldPlan {...place} />
                <Squint {...place} />
                <Loupe frame={place.frame} placement={place.placement} />
              </>
            )}
          </PicturePane>
          {laidOut === "starts" && Stage && <Stage negative={negative} />}
          {laidOut === "strip" && <TestStrip />}
        </div>
        <ToneLadder negative={negative} />
        {partsSheet}
        <footer className="bg-base-200 border-line flex min-w-0 items-stretch justify-between border-t">
          <Strip negative={negative} />
          <div className="relative min-w-0 flex-1">
            <div className="absolute inset-y-0 right-0 w-[max(100%,320px)]">
              <Notices />
            </div>
          </div>
          <Ticket negative={negative} onGo={go} />
        </footer>
      </div>
    </PoolContext>
  );
}
