import { beforeEach, describe, expect, jest, test } from "@jest/globals";
import { defaultRecipe, type NewRevision, type Print, type Recipe, type Revision } from "@yelm/core";
import type { EditSession as Session } from "../edit-session.ts";
import type { OutboxItem } from "../outbox.ts";

// A server of a few lines stands in for the real one, and a list for the browser's database.
const server = {
  away: false,
  refuse: null as string | null,
  print: undefined as unknown as Print,
  revisions: [] as Revision[],
  posts: [] as string[],
};
let kept: readonly OutboxItem[] = [];

class FakeApiError extends Error {
  readonly code: string;
  constructor(code: string) {
    super(code);
    this.code = code;
  }
}

jest.unstable_mockModule("../outbox.ts", () => ({
  readOutbox: () => Promise.resolve([...kept]),
  writeOutbox: (_id: string, items: readonly OutboxItem[]) => {
    kept = items;
    return Promise.resolve();
  },
}));
jest.unstable_mockModule("../queries.ts", () => ({
  negativeQuery: () => ({}),
  queryClient: { invalidateQueries: () => Promise.resolve(), prefetchQuery: () => Promise.resolve() },
}));
jest.unstable_mockModule("../api.ts", () => ({
  ApiError: FakeApiError,
  isUnreachable: (error: unknown) => !(error instanceof FakeApiError),
  api: (path: string, { body }: { body?: unknown } = {}) => Promise.resolve().then(() => answer(path, body)),
}));
const { openEditSession } = await import("../edit-session.ts");

function answer(path: string, body: unknown): unknown {
  if (server.away) throw new TypeError("unreachable");
  if (body === undefined) return path.endsWith("/revisions") ? [...server.revisions] : server.print;
  server.posts.push(path.split("/").at(-1)!);
  if (server.refuse) throw new FakeApiError(server.refuse);
  if (path.endsWith("/head")) {
    const { base, target } = body as { base: string; target: string };
    if (base !== server.print.head) throw new FakeApiError("stale_revision");
    return (server.print = { ...server.print, head: target });
  }
  const { id, base, patch, label, station } = body as NewRevision;
  if (base !== server.print.head) throw new FakeApiError("stale_revision");
  const recipe = patch.reduce((at, { path: to, value }) => put(at, to, value), server.print.recipe);
  server.revisions.push({ id, parent: base, patch, inverse: [], label, station, at: new Date().toISOString() });
  return (server.print = { ...server.print, recipe, head: id });
}

function put(recipe: Recipe, path: string, value: unknown): Recipe {
  const out = structuredClone(recipe);
  const keys = path.split("/").slice(1);
  const last = keys.pop()!;
  let at = out as unknown as Record<string, Record<string, unknown>>;
  for (const key of keys) at = at[key] as typeof at;
  (at as Record<string, unknown>)[last] = value;
  return out;
}

beforeEach(() => {
  const at = new Date(0).toISOString();
  kept = [];
  Object.assign(server, { away: false, refuse: null, posts: [] });
  server.revisions = [{ id: "root", parent: null, patch: [], inverse: [], label: "Made", station: "", at }];
  server.print = {
    id: "p",
    negativeId: "n",
    name: "Print",
    recipe: defaultRecipe(),
    head: "root",
    position: 0,
    createdAt: at,
    updatedAt: at,
  };
});

const expose = (session: Session, exposureEv: number, label = `Exposure ${exposureEv}`) =>
  session.change("Ground", label, (r) => ({ ...r, ground: { ...r.ground, exposureEv } }));
const exposure = (session: Session) => session.store.getState().recipe.ground.exposureEv;

describe("editing", () => {
  test("a drag previews, its release keeps one act, and the server has it", async () => {
    const session = await openEditSession("p");
    for (const ev of [0.1, 0.2, 0.3]) session.preview((r) => ({ ...r, ground: { ...r.ground, exposureEv: ev } }));
    expect([exposure(session), session.store.getState().kept.ground.exposureEv, kept.length]).toEqual([0.3, 0, 0]);
    session.commit("Ground", "Exposure");
    expect([kept.length, session.store.getState().save]).toEqual([1, "saving"]);
    await session.sendAll();
    expect([server.print.recipe.ground.exposureEv, kept.length, session.store.getState().save]).toEqual([
      0.3,
      0,
      "saved",
    ]);
    session.commit("Ground", "Nothing new");
    expect(kept).toHaveLength(0);
  });

  test("a drag that is dropped leaves nothing", async () => {
    const session = await openEditSession("p");
    session.preview((r) => ({ ...r, ground: { ...r.ground, exposureEv: 2 } }));
    session.revert();
    session.commit("Ground", "Exposure");
    expect([exposure(session), kept.length]).toEqual([0, 0]);
  });

  test("quick steps of one act are one step of undo; other acts are their own", async () => {
    const session = await openEditSession("p");
    for (const ev of [1, 2, 3]) expose(session, ev, "Exposure");
    session.change("Shape", "Grade", (r) => ({ ...r, shape: { ...r.shape, grade: 3 } }));
    expect(kept).toHaveLength(2);
    session.undo();
    expect([exposure(session), session.store.getState().recipe.shape.grade]).toEqual([3, 2]);
    session.undo();
    expect([exposure(session), session.canUndo(), session.canRedo()]).toEqual([0, false, true]);
    session.redo();
    session.redo();
    expect([exposure(session), session.store.getState().recipe.shape.grade]).toEqual([3, 3]);
    await session.sendAll();
    expect(server.posts).toEqual(["revisions", "revisions", "head", "head", "head", "head"]);
  });

  test("what was undone stays in the tree after another change, and can be gone to", async () => {
    const session = await openEditSession("p");
    expose(session, 1);
    const first = session.store.getState().head;
    session.undo();
    expose(session, -1);
    session.goTo(first);
    expect(exposure(session)).toBe(1);
    session.goTo("root");
    session.redo();
    expect(exposure(session)).toBe(-1);
  });
});

describe("when the server is not as expected", () => {
  test("away: edits wait, a new visit has them, and they arrive", async () => {
    server.away = true;
    const session = await openEditSession("p").catch(() => null);
    expect(session).toBeNull();
    server.away = false;
    const open = await openEditSession("p");
    server.away = true;
    expose(open, 1);
    expose(open, 2);
    await open.sendAll();
    expect([open.store.getState().save, kept.length]).toEqual(["away", 2]);
    await open.close();
    server.away = false;
    const next = await openEditSession("p");
    expect(exposure(next)).toBe(2);
    await next.sendAll();
    expect([server.print.recipe.ground.exposureEv, kept.length]).toEqual([2, 0]);
  });

  test("moved on elsewhere: both changes are kept, and the user is told", async () => {
    const session = await openEditSession("p");
    const other = await openEditSession("p");
    other.change("Shape", "Grade", (r) => ({ ...r, shape: { ...r.shape, grade: 4 } }));
    await other.sendAll();
    expose(session, 1);
    await session.sendAll();
    await session.sendAll();
    const { recipe, notice, save } = session.store.getState();
    expect([recipe.ground.exposureEv, recipe.shape.grade, save]).toEqual([1, 4, "saved"]);
    expect(notice).toContain("changed in another window");
    expect([server.print.recipe.ground.exposureEv, server.print.recipe.shape.grade]).toEqual([1, 4]);
    session.dismissNotice();
    expect(session.store.getState().notice).toBeNull();
  });

  test("refused: the server's state is shown again, with its reason", async () => {
    const session = await openEditSession("p");
    server.refuse = "bad_recipe";
    expose(session, 1);
    await session.sendAll();
    const { recipe, save, notice } = session.store.getState();
    expect([recipe.ground.exposureEv, save]).toEqual([0, "refused"]);
    expect(notice).toContain("could not be kept");
    expect(kept).toEqual([]);
  });
});
