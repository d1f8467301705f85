// A real server, two windows, and everything that can go wrong between them, from a seeded schedule.
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { drawChart, shoot } from "@yelm/camera";
import type { ImportResult, Print, Recipe, Roll } from "@yelm/core";
import { serve, type Service } from "../../../../../server/src/serve.ts";
import { ApiError } from "../../api.ts";
import type { OutboxPort } from "../ports.ts";
import { printOnServer, type Ask } from "../server-port.ts";
import { openSession, type EditSession } from "../session.ts";
import type { OutboxItem } from "../state.ts";

/** Numbers in [0, 1) from a seed (mulberry32). */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** The real server on a folder of its own, which can be stopped, started and starved. */
export class RealServer {
  #service!: Service;
  #data!: string;
  #negativeId!: string;

  async start(): Promise<void> {
    this.#data = await mkdtemp(join(tmpdir(), "yelm-session-"));
    this.#service = await serve({ data: this.#data, port: 0 });
    const roll = await this.ask<Roll>("/rolls", { method: "POST", body: { title: "Faults" } });
    const form = new FormData();
    const bytes = await shoot(drawChart("patches", 64, 48), { seed: 1 });
    form.append("file", new Blob([Buffer.from(bytes)]), "a.dng");
    const sent = await fetch(`${this.#service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form });
    this.#negativeId = ((await sent.json()) as ImportResult).negative.id;
  }

  async stop(): Promise<void> {
    await this.#service.close();
    await rm(this.#data, { recursive: true });
  }

  /** As after a crash: connections end, and a new process opens what lies on the disk. */
  async restart(): Promise<void> {
    await this.#service.close();
    this.#service = await serve({ data: this.#data, port: 0 });
  }

  /** As on a full disk: nothing can be written, and the database says so itself. */
  async setFull(full: boolean): Promise<void> {
    await this.#service.context.db.raw(`PRAGMA query_only = ${full ? "ON" : "OFF"}`);
  }

  newPrint(): Promise<Print> {
    return this.ask<Print>("/prints", { method: "POST", body: { negativeId: this.#negativeId, name: "Print" } });
  }

  async ask<T>(path: string, { method = "GET", body }: { method?: string; body?: unknown } = {}): Promise<T> {
    const response = await fetch(`${this.#service.url}/api${path}`, {
      method,
      headers: body === undefined ? {} : { "Content-Type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const answer: unknown = await response.json();
    if (!response.ok) throw new ApiError((answer as { error: ApiError }).error, response.status);
    return answer as T;
  }
}

export type Weather = "fine" | "offline" | "answers lost" | "server has trouble" | "disk full";

/** What all windows of a browser share, and what becomes of it. */
export class Browser {
  readonly outboxes = new Map<string, readonly OutboxItem[]>();
  readonly alive = new Set<string>();
  storage: "fine" | "full" | "gone" = "fine";
  weather: Weather = "fine";
  clockOffMs = 0;
  #time = Date.parse("2026-03-01T10:00:00Z");
  #timers: { at: number; run: () => void }[] = [];

  readonly server: RealServer;
  readonly printId: string;
  readonly #underWay = new Set<Promise<unknown>>();

  constructor(server: RealServer, printId: string) {
    this.server = server;
    this.printId = printId;
  }

  /** Resolves when no request is under way any more. */
  async quiet(): Promise<void> {
    await Promise.allSettled(this.#underWay);
  }

  /** What becomes of a request in the present weather. */
  async through<T>(path: string, options?: Parameters<Ask>[1]): Promise<T> {
    const { weather, server } = this;
    if (weather === "offline") throw new TypeError("unreachable");
    if (weather === "server has trouble") throw new ApiError({ code: "internal", message: "trouble" }, 503);
    const request = server.ask<T>(path, options);
    this.#underWay.add(request);
    const answer = await request.finally(() => this.#underWay.delete(request));
    if (weather === "answers lost" && options?.method) throw new TypeError("the answer was lost");
    return answer;
  }

  get now(): Date {
    return new Date(this.#time + this.clockOffMs);
  }

  /** Lets time pass; what was to be done by then is done. */
  pass(ms: number): void {
    this.#time += ms;
    const due = this.#timers.filter(({ at }) => at <= this.#time);
    this.#timers = this.#timers.filter(({ at }) => at > this.#time);
    for (const { run } of due) run();
  }

  after(ms: number, run: () => void): () => void {
    const timer = { at: this.#time + ms, run };
    this.#timers.push(timer);
    return () => (this.#timers = this.#timers.filter((other) => other !== timer));
  }
}

/** One window with the print open. */
export class Window {
  session!: EditSession;
  #page = { dead: false };

  readonly browser: Browser;
  readonly id: string;

  constructor(browser: Browser, id: string) {
    this.browser = browser;
    this.id = id;
  }

  /** Opens the print; false while that is not possible. */
  async open(): Promise<boolean> {
    const page = { dead: false };
    this.#page = page;
    const { browser } = this;
    browser.alive.add(this.id);
    const alive = async <T>(work: Promise<T>): Promise<T> => {
      const value = await work.catch((error: unknown) => {
        if (page.dead) return new Promise<never>(() => undefined);
        throw error;
      });
      // A page that is gone hears nothing any more.
      return page.dead ? new Promise<never>(() => undefined) : value;
    };
    const ask: Ask = (path, options) => alive(browser.through(path, options));
    try {
      this.session = await openSession({
        server: printOnServer(browser.printId, ask),
        outbox: this.#outbox(page),
        clock: {
          now: () => browser.now,
          after: (ms, run) => browser.after(ms, () => page.dead || run()),
          newId: () => crypto.randomUUID(),
        },
      });
      return true;
    } catch {
      return false;
    }
  }

  /** The page is gone at once, whatever was under way. */
  kill(): void {
    this.#page.dead = true;
    this.browser.alive.delete(this.id);
  }

  get recipe(): Recipe {
    return this.session.store.getState().recipe;
  }

  #outbox(page: { dead: boolean }): OutboxPort {
    const { browser, id } = this;
    return {
      open() {
        if (browser.storage === "gone") return Promise.reject(new Error("no storage"));
        for (const [owner, items] of [...browser.outboxes]) {
          if (owner === id || browser.alive.has(owner)) continue;
          browser.outboxes.set(id, [...items, ...(browser.outboxes.get(id) ?? [])]);
          browser.outboxes.delete(owner);
        }
        return Promise.resolve(browser.outboxes.get(id) ?? []);
      },
      write(items) {
        if (page.dead) return new Promise<never>(() => undefined);
        if (browser.storage !== "fine" && items.length > 0) return Promise.reject(new Error("no room"));
        if (items.length === 0) browser.outboxes.delete(id);
        else browser.outboxes.set(id, structuredClone(items));
        return Promise.resolve();
      },
    };
  }
}
