import renderWorkerUrl from "./render-worker.ts?worker&url";

/** Says by what code pictures are computed: built anew from other sources it has another name. */
export const RENDER_CODE: string = renderWorkerUrl;

let renderWorker: Worker | undefined;
let tileWorker: Worker | undefined;

/** Starts what the next bench will need, so that it is ready when the print is known. */
export function warmUp(): void {
  renderWorker ??= watched(newRenderWorker(), (dead) => {
    if (renderWorker === dead) renderWorker = undefined;
  });
  tileWorker ??= watched(newTileWorker(), (dead) => {
    if (tileWorker === dead) tileWorker = undefined;
  });
}

/** A render worker, the one that was started ahead if there is one. */
export function takeRenderWorker(): Worker {
  const taken = renderWorker ?? newRenderWorker();
  renderWorker = undefined;
  return taken;
}

export function takeTileWorker(): Worker {
  const taken = tileWorker ?? newTileWorker();
  tileWorker = undefined;
  return taken;
}

/** One that dies before it is taken is not handed out. Whoever takes it watches it himself. */
function watched(worker: Worker, drop: (dead: Worker) => void): Worker {
  worker.onerror = () => drop(worker);
  return worker;
}

function newRenderWorker(): Worker {
  return new Worker(renderWorkerUrl, { type: "module" });
}

function newTileWorker(): Worker {
  return new Worker(new URL("./tile-worker.ts", import.meta.url), { type: "module" });
}
