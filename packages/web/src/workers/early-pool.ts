import { firstTiles, type Negative, type Print } from "@yelm/core";
import { api } from "../data/api.ts";
import { negativeQuery, queryClient } from "../data/queries.ts";
import { openingEdge } from "../picture/opening.ts";
import { notify } from "../shell/shell-view.ts";
import { RenderPool } from "./render-pool.ts";
import { warmUp } from "./spare-workers.ts";
import { tilesAddress } from "./tiles-address.ts";

interface Waiting {
  readonly printId: string;
  pool: RenderPool | null;
  begun: Promise<void>;
}

/** What was begun of a print. */
export interface Early {
  /** Its workers have all that they need, or cannot begin yet. */
  readonly begun: Promise<void>;
  /** Lets go of what was not taken. */
  readonly letGo: () => void;
}

let waiting: Waiting | null = null;

/**
 * Begins to compute a print while the page still opens it: from what the server has of it, which is nearly always what will be
 * shown. Nothing is lost when it is not. Once for a print, however often it is called.
 */
export function beginEarly(printId: string): Early {
  const known = waiting?.printId === printId ? waiting : null;
  const mine: Waiting = known ?? { printId, pool: null, begun: Promise.resolve() };
  waiting = mine;
  if (!known) mine.begun = begin(mine).catch(() => undefined);
  const letGo = () => {
    if (waiting === mine) waiting = null;
    mine.pool?.close();
    mine.pool = null;
  };
  return { begun: mine.begun, letGo };
}

async function begin(mine: Waiting): Promise<void> {
  warmUp();
  const { recipe, negativeId } = await api<Print>(`/prints/${mine.printId}`);
  const negative = await queryClient.ensureQueryData(negativeQuery(negativeId));
  if (waiting !== mine) return;
  mine.pool = newPool(negative);
  mine.pool.fetchAhead(firstTiles(recipe, negative, shownEdge()));
  mine.pool.warm(recipe);
}

/** Of a bench's width, about what a print takes. */
const USUAL_SHARE = 0.66;

/** Long edge of the print as it will be shown, device pixels; about, before it stands on the bench that opens. */
const shownEdge = () => devicePixelRatio * (openingEdge() || USUAL_SHARE * innerWidth);

/** The workers of a negative: those that began early, or new ones. */
export function takePool(negative: Negative): RenderPool {
  const early = waiting?.pool;
  if (early?.tiles !== tilesAddress(negative)) {
    // Too late to begin early.
    waiting = null;
    return newPool(negative);
  }
  waiting!.pool = null;
  waiting = null;
  return early;
}

/** Workers of a negative that is on no bench: only looked at beside. */
export function newPool(negative: Negative): RenderPool {
  return new RenderPool(
    negative,
    () =>
      notify("This machine has little memory to spare: the picture is computed in smaller parts, which takes longer."),
    (reason) => notify(reason.message),
  );
}
