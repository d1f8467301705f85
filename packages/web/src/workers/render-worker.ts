import { compileKernels, createKernelHeap, Engine, factsOf, type KernelHeap, type KernelModule } from "@yelm/core";
import kernelsUrl from "@yelm/core/kernels.wasm?url";
import { postedError, type WorkerAnswer, type WorkerRequest } from "./protocol.ts";
import { WORKER_QUESTIONS, type AnswerOf, type QuestionName, type WorkerReader } from "./questions.ts";
import { SharedTiles } from "./tile-source.ts";

const FEWEST_SLOTS = 24;

const module = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => compileKernels(new Uint8Array(bytes)));

let tiles: SharedTiles | undefined;
let reader: WorkerReader | undefined;
let queue = Promise.resolve();

self.onmessage = ({ data }: MessageEvent<WorkerRequest>) => {
  // Not in the queue: whatever is at its head may be waiting for these tiles.
  if (data.kind === "feed") tiles?.attach(data.tiles);
  else queue = queue.then(() => answer(data));
};

async function answer(request: Exclude<WorkerRequest, { kind: "feed" }>): Promise<void> {
  const { id } = request;
  try {
    const reply: WorkerAnswer =
      request.kind === "open" ? { id, slots: await open(request) } : { id, value: await answerTo(request) };
    const memory = "value" in reply ? (reply.value as { memory?: ArrayBuffer } | null)?.memory : undefined;
    self.postMessage(reply, { transfer: memory ? [memory] : [] });
  } catch (error) {
    const reply: WorkerAnswer = { id, error: postedError(error) };
    self.postMessage(reply);
  }
}

async function open({ size, capture, slots, tiles: port }: Extract<WorkerRequest, { kind: "open" }>): Promise<number> {
  const source = new SharedTiles(size, port);
  tiles = source;
  const heap = await heapWith(await module, slots);
  reader = {
    engine: new Engine(heap, source, factsOf(capture)),
    size,
    capture,
    fetch: (places) => source.fetchAll(places),
    expect: (places) => source.expect(places),
  };
  return heap.slotCount;
}

async function answerTo({ name, input }: Extract<WorkerRequest, { kind: "ask" }>) {
  if (!reader) throw new Error("Expected an open negative.");
  const ask = WORKER_QUESTIONS[name] as Ask;
  return ask(reader, input);
}

/** A question whose input fits it, which the page's types have seen to. */
type Ask = (on: WorkerReader, input: unknown) => Promise<AnswerOf<QuestionName>>;

/** A heap with as many slots as there is memory for. */
async function heapWith(kernels: KernelModule, slots: number): Promise<KernelHeap> {
  for (let wanted = slots; ; wanted = Math.max(FEWEST_SLOTS, wanted >> 1)) {
    try {
      return await createKernelHeap(kernels, wanted);
    } catch (error) {
      if (!(error instanceof RangeError) || wanted === FEWEST_SLOTS) throw error;
    }
  }
}
