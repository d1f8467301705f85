import { beforeEach, describe, expect, jest, test } from "@jest/globals";
import { defaultRecipe } from "@yelm/core";
import { PoolWorker, type WorkerLike } from "../pool-worker.ts";
import { postedError, revivedError, type WorkerAnswer, type WorkerRequest } from "../protocol.ts";

/** A worker that answers when it is told to. */
class HandWorker implements WorkerLike {
  onmessage: WorkerLike["onmessage"] = null;
  onerror: WorkerLike["onerror"] = null;
  onmessageerror: WorkerLike["onmessageerror"] = null;
  readonly got: WorkerRequest[] = [];
  terminated = false;
  postMessage(request: WorkerRequest): void {
    this.got.push(request);
  }
  terminate(): void {
    this.terminated = true;
  }
  answer(answer: WorkerAnswer): void {
    this.onmessage?.call(this as never, { data: answer } as MessageEvent);
  }
  die(): void {
    this.onerror?.call(this as never, { message: "out of memory" } as ErrorEvent);
  }
}

let workers: HandWorker[] = [];
let later: (() => void)[] = [];
const told = { slots: jest.fn(), death: jest.fn(), givenUp: jest.fn() };
const question = { recipe: defaultRecipe() };

beforeEach(() => {
  workers = [];
  later = [];
  jest.clearAllMocks();
});

function make(): PoolWorker {
  return new PoolWorker({
    start: () => {
      const worker = new HandWorker();
      workers.push(worker);
      return worker;
    },
    open: (worker, id) => worker.postMessage({ kind: "open", id }),
    onOpen: told.slots,
    onDeath: told.death,
    onGivenUp: told.givenUp,
    later: (_ms, run) => later.push(run),
  });
}

const idOf = (worker: HandWorker, kind: "open" | "ask") =>
  (worker.got.findLast((one) => one.kind === kind) as { id: number }).id;
const opened = (worker: HandWorker) => worker.answer({ id: idOf(worker, "open"), slots: 64 });

describe("a render worker", () => {
  test("is asked once it is open; answers and errors come back whole", async () => {
    const pool = make();
    const asked = pool.ask("measure", question);
    expect(workers[0].got.map(({ kind }) => kind)).toEqual(["open"]);
    opened(workers[0]);
    expect(told.slots).toHaveBeenCalledWith(64);
    workers[0].answer({ id: idOf(workers[0], "ask"), value: { black: 1 } as never });
    await expect(asked).resolves.toEqual({ black: 1 });
    const failing = pool.ask("measure", question);
    const cause = Object.assign(new RangeError("the tile is damaged"), { code: "damaged_file" });
    const error = Object.assign(new Error("stopped", { cause }), { name: "StageError" });
    workers[0].answer({ id: idOf(workers[0], "ask"), error: postedError(error) });
    await expect(failing).rejects.toMatchObject({
      name: "StageError",
      message: "stopped",
      cause: { name: "RangeError", message: "the tile is damaged", code: "damaged_file" },
    });
    expect(revivedError(postedError("a word")).message).toBe("a word");
  });

  test("lost in the middle: what it was asked is asked once more, then it fails", async () => {
    const pool = make();
    opened(workers[0]);
    const asked = pool.ask("measure", question);
    workers[0].die();
    expect([workers[0].terminated, workers.length]).toEqual([true, 2]);
    opened(workers[1]);
    expect(idOf(workers[1], "ask")).toBe(idOf(workers[0], "ask"));
    // What the dead one still says counts no more.
    workers[0].answer({ id: idOf(workers[0], "ask"), value: null });
    workers[1].die();
    await expect(asked).rejects.toMatchObject({ name: "WorkerLostError" });
    opened(workers[2]);
    const next = pool.ask("measure", question);
    workers[2].answer({ id: idOf(workers[2], "ask"), value: null });
    await expect(next).resolves.toBeNull();
  });

  test("that cannot be opened is tried four times, ever later, told once, and all that waits fails", async () => {
    const pool = make();
    const asked = pool.ask("measure", question);
    for (let i = 0; i < 4; i++) {
      workers[i].answer({ id: idOf(workers[i], "open"), error: { name: "RangeError", message: "no memory" } });
      later.shift()?.();
    }
    await expect(asked).rejects.toThrow("no memory");
    expect([workers.length, told.givenUp.mock.calls.length, later.length]).toEqual([4, 1, 0]);
    // Asked anew, it is started anew.
    const again = pool.ask("measure", question);
    opened(workers[4]);
    workers[4].answer({ id: idOf(workers[4], "ask"), value: null });
    await expect(again).resolves.toBeNull();
  });

  test("closed: what waits fails, what is asked afterwards too, and it is not started again", async () => {
    const pool = make();
    opened(workers[0]);
    const asked = pool.ask("measure", question);
    pool.close();
    await expect(asked).rejects.toMatchObject({ name: "PoolClosedError" });
    await expect(pool.ask("measure", question)).rejects.toMatchObject({ name: "PoolClosedError" });
    workers[0].die();
    expect(workers).toHaveLength(1);
  });
});
