import { expect, test } from "@jest/globals";
import { defaultNotes, type Notes, type PrintNotes } from "@yelm/core";
import { NotesSession } from "../notes-session.ts";

/** Notes kept as the server keeps them, each answer a while later; and a wire that can be cut. */
function world() {
  const states: { id: string; notes: Notes; at: string }[] = [{ id: "unwritten", notes: defaultNotes(), at: "" }];
  let head = 0;
  let reached = true;
  let clock = 0;
  const told: string[] = [];
  const now = () => new Date(Date.UTC(2026, 0, 1) + 1000 * ++clock);
  const answer = async (): Promise<PrintNotes> => {
    await new Promise((done) => setTimeout(done, 5));
    // What a browser's fetch rejects with when nobody answers.
    if (!reached) throw new TypeError("Failed to fetch");
    const { id, notes, at } = states[head];
    return { notes, head: id, at, canUndo: head > 0, canRedo: head < states.length - 1 };
  };
  const session = new NotesSession({
    load: answer,
    async keep({ id, notes }) {
      if (reached) {
        states.splice(++head, Infinity, { id, notes, at: now().toISOString() });
      }
      return answer();
    },
    async step(_base, to) {
      if (reached) head += to === "back" ? -1 : 1;
      return answer();
    },
    newId: () => `change ${clock}`,
    now,
    after: () => () => undefined,
    onTrouble: (sentence) => told.push(sentence),
  });
  const say = (sentence: string) =>
    session.change("Sentence", (notes) => ({ ...notes, plan: { ...notes.plan, sentence } }));
  const shown = () => session.store.getState().notes.plan.sentence;
  return { session, say, shown, told, cut: (off: boolean) => (reached = !off) };
}

test("taken back while it is still on its way, the newest change is the one that goes, and comes back", async () => {
  const { session, say, shown } = world();
  await session.open();
  say("one");
  await session.settled();
  say("two");
  expect(session.newest() > session.store.getState().kept!.at).toBe(true);
  expect(await session.step("back")).toBe(true);
  expect(shown()).toBe("one");
  expect(await session.step("forth")).toBe(true);
  expect(shown()).toBe("two");
  await session.step("back");
  await session.step("back");
  expect(await session.step("back")).toBe(false);
  expect(shown()).toBe("");
});

test("without a server, what it never heard of goes at once; what it may have heard of waits, and that is told", async () => {
  const { session, say, shown, told, cut } = world();
  await session.open();
  cut(true);
  say("one");
  say("two");
  expect(await session.step("back")).toBe(true);
  expect(shown()).toBe("one");
  expect(await session.step("forth")).toBe(true);
  expect(shown()).toBe("two");
  await session.step("back");
  expect(await session.step("back")).toBe(false);
  expect([shown(), told.length]).toEqual(["one", 1]);
  cut(false);
  expect(await session.step("back")).toBe(true);
  expect(shown()).toBe("");
});
