import type { Negative, Station } from "@yelm/core";
import { useCallback, useEffect, useState } from "react";
import { useParams } from "react-router";
import { useStore } from "zustand";
import { OFFERED, type OfferedStation } from "../bench/offered.ts";
import { Rail } from "../bench/rail.tsx";
import { StartingStrip } from "../bench/starting-strip.tsx";
import { Strip } from "../bench/strip.tsx";
import { Ticket } from "../bench/ticket.tsx";
import { TopBar } from "../bench/top-bar.tsx";
import { usePictureActs } from "../bench/use-picture-acts.ts";
import { useMeasuring } from "../bench/measured.ts";
import { api } from "../data/api.ts";
import { openEditSession, type EditSession } from "../data/edit-session.ts";
import { useNegative, useRoll } from "../data/queries.ts";
import { SessionContext, useEdit, useSession } from "../data/use-session.ts";
import { ToneLadder } from "../instruments/tone-ladder.tsx";
import { useAct } from "../keys/acts.ts";
import { benchView, resetBenchView } from "../picture/bench-view.ts";
import { PicturePane } from "../picture/picture.tsx";
import { PoolContext } from "../picture/pool-context.ts";
import { RenderPool } from "../picture/render-pool.ts";
import { warmUp } from "../picture/spare-workers.ts";
import { DeliverStation } from "../stations/deliver.tsx";
import { FinishStation } from "../stations/finish.tsx";
import { GroundStation } from "../stations/ground.tsx";
import { LightStation } from "../stations/light.tsx";
import { ShapeStation } from "../stations/shape.tsx";
import { WeighStation } from "../stations/weigh.tsx";
import { notify } from "../shell/shell-view.ts";
import { Waiting } from "../shell/waiting.tsx";

/** The bench: one print, everything that is done to it. */
export function BenchScreen() {
  const { printId } = useParams();
  const [opened, setOpened] = useState<{ id: string; session: EditSession } | { id: string; error: string } | null>(
    null,
  );
  useEffect(warmUp, []);
  useEffect(() => {
    let live = true;
    let session: EditSession | undefined;
    openEditSession(printId!)
      .then((made) => {
        session = made;
        if (live) setOpened({ id: printId!, session });
        else void made.close();
      })
      .catch((error: Error) => live && setOpened({ id: printId!, error: error.message }));
    return () => {
      live = false;
      void session?.close();
    };
  }, [printId]);
  if (!opened) return <Waiting text="Opening the print…" />;
  if ("error" in opened) return <Waiting text={opened.error} home />;
  return (
    <SessionContext value={opened.session}>
      <WithNegative negativeId={opened.session.store.getState().print.negativeId} />
    </SessionContext>
  );
}

function WithNegative({ negativeId }: { negativeId: string }) {
  const negative = useNegative(negativeId);
  const [pool, setPool] = useState<RenderPool | null>(null);
  const found = negative.data;
  useEffect(() => {
    if (!found) return;
    const made = new RenderPool(found, () =>
      notify("This machine has little memory to spare: the picture is computed in smaller parts, which takes longer."),
    );
    resetBenchView();
    setPool(made);
    return () => made.close();
  }, [found?.id]); // eslint-disable-line react-hooks/exhaustive-deps -- a renamed negative keeps its workers
  if (negative.error) return <Waiting text={negative.error.message} home />;
  if (!found || pool?.negativeId !== found.id) return <Waiting text="Opening the negative…" />;
  return <Bench negative={found} pool={pool} />;
}

function Bench({ negative, pool }: { negative: Negative; pool: RenderPool }) {
  const session = useSession();
  const notice = useEdit((state) => state.notice);
  const roll = useRoll(negative.rollId);
  const [station, setStation] = useState<OfferedStation>("Weigh");
  useMeasuring(pool, session);
  const go = useCallback((next: Station, moveId: string | null = null) => {
    const offered = OFFERED.find((name) => name === next);
    if (!offered) return;
    setStation(offered);
    benchView.setState({ tool: "look", moveId, strip: "prints", pointed: [] });
  }, []);
  const { before, colour, toggle } = usePictureActs();
  useAct({
    id: "verify",
    label: "Check that the capture is untouched",
    group: "Picture",
    keys: "",
    run: () =>
      void api<{ intact: boolean }>(`/negatives/${negative.id}/verify`, { method: "POST" })
        .then(({ intact }) =>
          notify(
            intact
              ? `${negative.fileName} is, bit by bit, the file that came in.`
              : `${negative.fileName} is no longer the file that came in. Bring it in again from your own copy.`,
          ),
        )
        .catch((error: Error) => notify(error.message)),
  });
  useAct({ id: "undo", label: "Undo", group: "Print", keys: "mod+z", run: () => session.undo() });
  useAct({ id: "redo", label: "Redo", group: "Print", keys: "mod+shift+z,mod+y", run: () => session.redo() });
  const { mode, zoom, scale, strip } = useStore(benchView);

  return (
    <PoolContext value={pool}>
      <div className="bench">
        <TopBar roll={roll.data} negative={negative}>
          <button className="act" onClick={toggle} title="Whole picture (F) or 100 % (G); + and − step, the wheel too">
            {zoom.zoom === "fit" ? "Whole" : "Zoom"} <kbd>{Math.round(100 * scale)} %</kbd>
          </button>
          <button className="act" {...before} aria-pressed={mode === "plain"}>
            Before <kbd>hold B</kbd>
          </button>
          <button className="act" {...colour} aria-pressed={mode === "colour"}>
            Colour <kbd>hold C</kbd>
          </button>
        </TopBar>
        <Rail station={station} onGo={go} />
        <main
          className="slim-scroll border-line bg-base-100 overflow-y-auto border-r px-4 pt-3 pb-6"
          aria-label={`${station} sheet`}
        >
          <h2 className="mb-2 font-serif text-[21px]">{station}</h2>
          {station === "Ground" && <GroundStation negative={negative} pool={pool} />}
          {station === "Weigh" && <WeighStation negative={negative} pool={pool} />}
          {station === "Shape" && <ShapeStation />}
          {station === "Light" && <LightStation />}
          {station === "Finish" && <FinishStation />}
          {station === "Deliver" && <DeliverStation negative={negative} />}
        </main>
        <div className="relative min-h-0 min-w-0">
          <PicturePane pool={pool} negative={negative} station={station} />
          {notice && (
            <div
              role="alert"
              className="bg-paper text-ink absolute top-3 left-1/2 flex max-w-[90%] -translate-x-1/2 items-center gap-3 rounded px-4 py-2"
            >
              {notice}
              <button className="cursor-pointer underline" onClick={() => session.dismissNotice()}>
                Good
              </button>
            </div>
          )}
        </div>
        <ToneLadder negative={negative} />
        <footer className="bg-base-200 border-line flex min-w-0 items-stretch justify-between border-t">
          {strip === "prints" ? <Strip negative={negative} /> : <StartingStrip pool={pool} />}
          <Ticket negative={negative} onGo={go} />
        </footer>
      </div>
    </PoolContext>
  );
}
