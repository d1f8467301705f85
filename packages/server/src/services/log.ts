import { describeRecipe, type Habits, type LoggedPrint, type WorkLog } from "@yelm/core";
import type { Context } from "./context.ts";
import { findNotes } from "./notes.ts";
import { findPrint, listPrints, listRevisions } from "./prints.ts";

/** Work that rests for longer than this is another session, ms. */
const PAUSE_MS = 30 * 60_000;
/** A session of one act took so long, ms. */
const SHORTEST_MS = 60_000;

/** What was done to one print: decisions, when, what was taken back, and what was said about it. */
export async function logOfPrint(context: Context, printId: string): Promise<LoggedPrint> {
  const print = await findPrint(context, printId);
  const row = await context
    .db("negatives")
    .where({ id: print.negativeId })
    .first<{ title: string } | undefined>("title");
  const revisions = await listRevisions(context, printId);
  const parents = new Map(revisions.map(({ id, parent }) => [id, parent]));
  const kept = new Set<string>();
  for (let id: string | null | undefined = print.head; id; id = parents.get(id)) kept.add(id);
  const decisions = revisions
    .filter(({ parent }) => parent !== null)
    .map(({ id, at, station, label }) => ({ at, station, label, kept: kept.has(id) }));
  const { notes } = await findNotes(context, printId);
  return {
    print: print.name,
    negative: row?.title ?? "",
    ticket: describeRecipe(print.recipe).map(({ text }) => text),
    plan: notes.plan.sentence,
    decisions,
    meant: notes.meant,
    states: notes.states.map(({ name, note, at }) => ({ name, note, at })),
  };
}

/** The log of some prints, with the sessions in which they were made. */
export async function workLog(context: Context, title: string, printIds: readonly string[]): Promise<WorkLog> {
  const prints: LoggedPrint[] = [];
  for (const id of printIds) prints.push(await logOfPrint(context, id));
  const times = prints
    .flatMap(({ decisions }) => decisions.map(({ at }) => Date.parse(at)))
    .filter((time) => !Number.isNaN(time))
    .sort((p, q) => p - q);
  const sessions: { from: string; to: string; minutes: number; decisions: number }[] = [];
  let first = 0;
  times.forEach((time, i) => {
    if (i + 1 < times.length && times[i + 1] - time <= PAUSE_MS) return;
    const minutes = Math.round(Math.max(SHORTEST_MS, time - times[first]) / 60_000);
    sessions.push({
      from: new Date(times[first]).toISOString(),
      to: new Date(time).toISOString(),
      minutes,
      decisions: i - first + 1,
    });
    first = i + 1;
  });
  return { title, sessions, minutes: sessions.reduce((sum, one) => sum + one.minutes, 0), prints };
}

/** What this user keeps and takes back, over all prints. */
export async function habits(context: Context): Promise<Habits> {
  const prints = await listPrints(context);
  const stops = prints
    .flatMap(({ recipe }) => recipe.light.moves.filter(({ on }) => on))
    .map((move) => Math.abs(move.stops * move.amountPercent) / 100)
    .filter((size) => size > 0)
    .sort((p, q) => p - q);
  const at = (share: number) => stops[Math.min(stops.length - 1, Math.floor(share * stops.length))] ?? 0;
  const heads = new Map(prints.map(({ id, head }) => [id, head]));
  const rows: { id: string; printId: string; parent: string | null; station: string }[] = await context
    .db("revisions")
    .whereIn("printId", [...heads.keys()])
    .select("id", "printId", "parent", "station");
  const parents = new Map(rows.map(({ id, parent }) => [id, parent]));
  const kept = new Set<string>();
  for (const head of heads.values())
    for (let id: string | null | undefined = head; id && !kept.has(id); id = parents.get(id)) kept.add(id);
  const stations = new Map<string, { made: number; takenBack: number }>();
  for (const { id, parent, station } of rows) {
    if (parent === null || parent === "") continue;
    const one = stations.get(station) ?? { made: 0, takenBack: 0 };
    one.made++;
    if (!kept.has(id)) one.takenBack++;
    stations.set(station, one);
  }
  return {
    moves: { count: stops.length, usual: at(0.5), most: at(0.9) },
    stations: [...stations].map(([station, counts]) => ({ station, ...counts })),
  };
}

/** A log to read. */
export function logAsMarkdown({ title, sessions, minutes, prints }: WorkLog): string {
  const when = (at: string) => at.slice(0, 16).replace("T", " ");
  return [
    `# ${oneLine(title)}`,
    "",
    `${sessions.length} ${sessions.length === 1 ? "session" : "sessions"}, ${minutes} minutes.`,
    ...sessions.map(({ from, minutes: long, decisions }) => `- ${when(from)}: ${long} min, ${decisions} decisions`),
    ...prints.flatMap((print) => [
      "",
      `## ${oneLine(print.negative)}: ${oneLine(print.print)}`,
      ...(print.plan ? ["", `> ${oneLine(print.plan)}`] : []),
      "",
      ...print.ticket.map((line) => `- ${oneLine(line)}`),
      ...(print.decisions.length > 0 ? ["", "| when | station | what | |", "|---|---|---|---|"] : []),
      ...print.decisions.map(
        ({ at, station, label, kept }) => `| ${when(at)} | ${station} | ${cell(label)} | ${kept ? "" : "taken back"} |`,
      ),
      ...(print.meant.length > 0
        ? [
            "",
            "Meant so:",
            ...print.meant.map(({ finding, reason }) => `- ${oneLine(finding)}${reason ? `: ${oneLine(reason)}` : ""}`),
          ]
        : []),
      ...(print.states.length > 0
        ? ["", "States:", ...print.states.map(({ name, at }) => `- ${oneLine(name)} (${when(at)})`)]
        : []),
    ]),
    "",
  ].join("\n");
}

/** Every decision on a line, as RFC 4180 has it; what a spreadsheet would take for a formula is made text. */
export function logAsCsv({ prints }: WorkLog): string {
  const field = (text: string) => `"${(/^[=+\-@\t\r]/.test(text) ? `'${text}` : text).replaceAll('"', '""')}"`;
  const rows = prints.flatMap(({ negative, print, decisions }) =>
    decisions.map(({ at, station, label, kept }) => [
      at,
      negative,
      print,
      station,
      label,
      kept ? "kept" : "taken back",
    ]),
  );
  return (
    [["at", "negative", "print", "station", "decision", "kept"], ...rows]
      .map((row) => row.map(field).join(","))
      .join("\r\n") + "\r\n"
  );
}

const oneLine = (text: string) => text.replace(/\s+/g, " ").trim();
const cell = (text: string) => oneLine(text).replaceAll("|", "\\|");
