import { compileKernels, createKernelHeap, Engine, factsOf, type KernelHeap, type KernelModule } from "@yelm/core";
import kernelsUrl from "@yelm/core/kernels.wasm?url";
import { patched } from "./patch.ts";
import { postedError, type WorkerAnswer, type WorkerRequest } from "./protocol.ts";
import { AT_THE_PICTURE, type AnswerOf, type QuestionName, type WorkerReader } from "./questions.ts";
import { SharedTiles } from "./tile-source.ts";
import { Turns } from "./turns.ts";

const FEWEST_SLOTS = 31;
/** By then the first picture is there. */
const FURTHER_AFTER_MS = 4000;

const module = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => compileKernels(new Uint8Array(bytes)));

let tiles: SharedTiles | undefined;
/** What the picture is read by, and what everything else is: that gives way to pictures before it goes on. */
let readers: { readonly near: WorkerReader; readonly patient: WorkerReader } | undefined;
const turns = new Turns();
/** What is drawn while nothing else is wanted can wait like any question. */
const PATIENT: readonly QuestionName[] = ["takeUp"];
/** The recipe of the request that came last. */
let known: unknown = null;

self.onmessage = ({ data }: MessageEvent<WorkerRequest>) => {
  // Not in its turn: whatever is at work may be waiting for these tiles.
  if (data.kind === "feed") tiles?.attach(data.tiles);
  else if (data.kind === "open") turns.add(true, () => reply(data.id, async () => ({ slots: await open(data) })));
  else {
    // At once, in the order of sending: each patch lies on the recipe before.
    const recipe = (known = patched(known, data.recipe));
    const input = { ...data.input, recipe };
    const isPicture = data.name in AT_THE_PICTURE && !PATIENT.includes(data.name);
    turns.add(isPicture, () => reply(data.id, async () => ({ value: await answerTo(data.name, input, isPicture) })));
  }
};

async function reply(
  id: number,
  work: () => Promise<{ slots: number } | { value: AnswerOf<QuestionName> }>,
): Promise<void> {
  try {
    const reply: WorkerAnswer = { id, ...(await work()) };
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
  const near: WorkerReader = {
    engine: new Engine(heap, source, factsOf(capture)),
    size,
    capture,
    fetch: (places) => source.fetchAll(places),
    expect: (places) => source.expect(places),
  };
  const patient: WorkerReader = {
    ...near,
    // A picture that passes has tiles of its own fetched, so these are fetched last.
    fetch: async (places) => {
      do await source.fetchAll(places);
      while (await turns.giveWay());
    },
    pause: async () => void (await turns.giveWay()),
  };
  readers = { near, patient };
  return heap.slotCount;
}

async function answerTo(name: QuestionName, input: unknown, isPicture: boolean) {
  if (!readers) throw new Error("Expected an open negative.");
  const reader = isPicture ? readers.near : readers.patient;
  const asked = name in AT_THE_PICTURE ? AT_THE_PICTURE : (await further()).QUESTIONS;
  return (asked as Record<QuestionName, Ask>)[name](reader, input);
}

/** The core's questions, which are many, are read once one is asked, or later: not beside the first picture, but while the server is surely there. */
const further = () => import("./further-questions.ts");
setTimeout(() => void further().catch(() => undefined), FURTHER_AFTER_MS);

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
