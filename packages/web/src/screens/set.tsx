import {
  MATCHED_PARTS,
  OWN_LOOKS,
  SET_WORDS,
  type MatchedPart,
  type MatchPlan,
  type PasteAnswer,
  type SetEntry,
  type TonesRead,
} from "@yelm/core";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { Amount } from "../controls/amount.tsx";
import { asPercent } from "../controls/formats.ts";
import { tellMany } from "../copied-parts/paste.ts";
import { api } from "../data/api.ts";
import { printThumbnail, queryClient, useLooks, useRoll, useSet, watchLook } from "../data/queries.ts";
import { Chart, themeColours } from "../instruments/chart.tsx";
import { useLook } from "../theme/theme.ts";
import { notify } from "../shell/shell-view.ts";
import { Waiting } from "../shell/waiting.tsx";
import { Page } from "./page.tsx";

const CHART_PX = 190;

/** The prints of a roll side by side: do they belong together? One may be the pattern for others. */
export function SetScreen() {
  const { rollId } = useParams();
  const roll = useRoll(rollId);
  const set = useSet(rollId);
  const [pattern, setPattern] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  if (roll.error ?? set.error) return <Waiting text={(roll.error ?? set.error)!.message} home />;
  if (!roll.data || !set.data) return <Waiting text="Measuring the prints of the roll…" />;
  const entries = set.data;
  const flip = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const outlying = entries.filter((entry) => entry.outlying.length > 0);
  return (
    <Page
      acts={
        <>
          <a className="act" href={`/api/rolls/${rollId}/log?format=md`} download>
            Log, Markdown
          </a>
          <a className="act" href={`/api/rolls/${rollId}/log?format=csv`} download>
            CSV
          </a>
          <a className="act" href={`/api/rolls/${rollId}/log`} target="_blank" rel="noreferrer">
            JSON
          </a>
        </>
      }
    >
      <nav className="text-quiet pb-1">
        <Link className="hover:text-base-content" to={`/rolls/${rollId}`}>
          {roll.data.title}
        </Link>
      </nav>
      <h1 className="font-serif text-[28px]">The set</h1>
      <p className="text-quiet pb-4">
        {entries.length < 2
          ? "A set needs two prints at least."
          : outlying.length === 0
            ? "The prints lie near each other in key, contrast, tone, grain and crop."
            : `${outlying.length === 1 ? "One lies" : `${outlying.length} lie`} far from the others: ${outlying
                .map(({ negative, outlying: in_ }) => `${negative} in ${in_.map((one) => SET_WORDS[one]).join(", ")}`)
                .join("; ")}.`}
      </p>
      {entries.length > 1 && <ZonesChart entries={entries} />}
      <table className="mt-4 w-full text-left" aria-label="Prints of the set">
        <thead className="text-quiet border-line border-b text-[12px]">
          <tr>
            {[
              "",
              "print",
              "zones: dark, middle, light",
              "span",
              "grade",
              "tone",
              "grain",
              "crop",
              "pattern",
              "to match",
            ].map((head) => (
              <th key={head} className="py-1 pr-3 font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {entries.map((entry, i) => (
            <Row
              number={i + 1}
              key={entry.id}
              entry={entry}
              isPattern={entry.id === pattern}
              isChosen={chosen.has(entry.id)}
              onPattern={() => {
                setPattern(entry.id);
                const next = new Set(chosen);
                next.delete(entry.id);
                setChosen(next);
              }}
              onChoose={() => flip(entry.id)}
            />
          ))}
        </tbody>
      </table>
      <Matching
        pattern={entries.find(({ id }) => id === pattern) ?? null}
        to={entries.filter(({ id }) => chosen.has(id) && id !== pattern).map(({ id }) => id)}
      />
      <Looks to={entries.filter(({ id }) => chosen.has(id)).map(({ id }) => id)} />
    </Page>
  );
}

function Row({
  number,
  entry,
  isPattern,
  isChosen,
  onPattern,
  onChoose,
}: {
  number: number;
  entry: SetEntry;
  isPattern: boolean;
  isChosen: boolean;
  onPattern: () => void;
  onChoose: () => void;
}) {
  const { id, negative, name, tones, grade, chroma, granularity, ratio, outlying } = entry;
  const mark = (measure: (typeof outlying)[number]) => (outlying.includes(measure) ? "text-accent" : "");
  return (
    <tr className="border-line border-b">
      <td className="py-1.5 pr-3">
        <span className="flex items-center gap-2">
          <span className="text-quiet w-5 text-right font-serif">{number}</span>
          <img src={printThumbnail(entry, 160)} alt="" className="h-12 w-[72px] object-contain" />
        </span>
      </td>
      <td className="max-w-[220px] truncate pr-3">
        <Link className="hover:underline" to={`/prints/${id}`}>
          {negative}
        </Link>
        <span className="text-quiet block truncate text-[12px]">{name}</span>
      </td>
      <td className="pr-3">
        <Rung tones={tones} accent={outlying.includes("middle")} />
      </td>
      <td className={`pr-3 ${mark("span")}`}>{tones.span.toFixed(1)}</td>
      <td className="pr-3">{grade.toFixed(1)}</td>
      <td className={`pr-3 ${mark("chroma")}`}>{chroma === 0 ? "neutral" : (1000 * chroma).toFixed(0)}</td>
      <td className={`pr-3 ${mark("granularity")}`}>{granularity === 0 ? "none" : granularity.toFixed(0)}</td>
      <td className={`pr-3 ${mark("ratio")}`}>
        {ratio >= 1 ? `${ratio.toFixed(2)} : 1` : `1 : ${(1 / ratio).toFixed(2)}`}
      </td>
      <td className="pr-3">
        <input
          type="radio"
          className="radio radio-xs"
          name="pattern"
          aria-label={`Pattern: ${negative}`}
          checked={isPattern}
          onChange={onPattern}
        />
      </td>
      <td>
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          aria-label={`Match: ${negative}`}
          checked={isChosen}
          disabled={isPattern}
          onChange={onChoose}
        />
      </td>
    </tr>
  );
}

/** A rung of the ladder: from the dark to the light tenth, with the middle. */
function Rung({ tones: { dark, middle, light }, accent }: { tones: TonesRead; accent: boolean }) {
  const x = (zone: number) => 4 + zone * 15.2;
  return (
    <svg
      width={162}
      height={22}
      role="img"
      aria-label={`Dark zone ${dark.toFixed(1)}, middle ${middle.toFixed(1)}, light ${light.toFixed(1)}`}
    >
      {Array.from({ length: 11 }, (_, zone) => (
        <line key={zone} x1={x(zone)} x2={x(zone)} y1={8} y2={14} stroke="currentColor" strokeOpacity={0.25} />
      ))}
      <line x1={x(dark)} x2={x(light)} y1={11} y2={11} stroke="currentColor" strokeWidth={3} strokeOpacity={0.6} />
      <line
        x1={x(middle)}
        x2={x(middle)}
        y1={4}
        y2={18}
        stroke={accent ? "var(--color-accent)" : "currentColor"}
        strokeWidth={2}
      />
    </svg>
  );
}

/** Dark, middle and light of all prints over each other. */
function ZonesChart({ entries }: { entries: readonly SetEntry[] }) {
  const { theme } = useLook();
  const option = useMemo(() => {
    const { quiet, rule: line, accent, text } = themeColours();
    const series = (key: keyof TonesRead, look: object) => ({
      type: "line" as const,
      data: entries.map(({ tones }) => Number(tones[key].toFixed(2))),
      symbol: "circle",
      symbolSize: 5,
      silent: true,
      ...look,
    });
    return {
      theme,
      animation: false,
      grid: { left: 30, right: 12, top: 8, bottom: 24 },
      xAxis: {
        type: "category",
        data: entries.map((_, i) => String(i + 1)),
        axisLine: { lineStyle: { color: line } },
        axisTick: { show: false },
        axisLabel: { color: quiet, fontSize: 11 },
      },
      yAxis: {
        type: "value",
        min: 0,
        max: 10,
        interval: 2,
        splitLine: { lineStyle: { color: line, opacity: 0.35 } },
        axisLabel: {
          color: quiet,
          fontSize: 11,
          formatter: (zone: number) => ["0", "", "II", "", "IV", "", "VI", "", "VIII", "", "X"][zone],
        },
      },
      series: [
        series("light", { lineStyle: { color: quiet, width: 1 }, itemStyle: { color: quiet } }),
        series("middle", { lineStyle: { color: accent, width: 1.5 }, itemStyle: { color: accent } }),
        series("dark", { lineStyle: { color: text, width: 1 }, itemStyle: { color: text } }),
      ],
    };
  }, [entries, theme]);
  return (
    <Chart
      option={option}
      height={CHART_PX}
      describe="Zones of the dark, the middle and the light tones of every print"
    />
  );
}

/** What matching would change, before it is done. */
function Matching({ pattern, to }: { pattern: SetEntry | null; to: readonly string[] }) {
  const [parts, setParts] = useState<readonly MatchedPart[]>(MATCHED_PARTS);
  const wish = { pattern: pattern?.id, to, parts };
  const ready = pattern !== null && to.length > 0 && parts.length > 0;
  const plan = useQuery({
    queryKey: ["negatives", "match", wish],
    queryFn: () => api<MatchPlan[]>("/prints/match/plan", { method: "POST", body: wish }),
    enabled: ready,
  });
  const [busy, setBusy] = useState(false);
  const match = async () => {
    setBusy(true);
    try {
      const answer = await api<PasteAnswer>("/prints/match", { method: "POST", body: wish });
      await tellMany(answer, `Matched to “${pattern!.negative}”`);
      await queryClient.invalidateQueries({ queryKey: ["negatives"] });
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="pt-8" aria-label="Match">
      <h2 className="font-serif text-[19px]">Match to a print</h2>
      <p className="text-quiet pb-2">
        {pattern === null
          ? "Choose the pattern, and the prints that are to match it."
          : to.length === 0
            ? `Choose the prints that are to match “${pattern.negative}”.`
            : "Nothing is changed before you say so; one undo takes back all of it."}
      </p>
      <div className="flex flex-wrap gap-1" role="group" aria-label="What is matched">
        {MATCHED_PARTS.map((part) => (
          <button
            key={part}
            className={`chip ${parts.includes(part) ? "chip-on" : ""}`}
            aria-pressed={parts.includes(part)}
            onClick={() => setParts(parts.includes(part) ? parts.filter((one) => one !== part) : [...parts, part])}
          >
            {part}
          </button>
        ))}
      </div>
      {ready && plan.error && <p className="text-accent pt-2">{plan.error.message}</p>}
      {ready && plan.data && (
        <>
          <ul className="max-w-[1100px] pt-3" aria-label="What would change">
            {plan.data.map(({ id, negative, before, after, changes }) => (
              <li key={id} className="border-line flex items-center gap-4 border-b py-1.5">
                <span className="w-56 truncate">{negative}</span>
                <Rung tones={before} accent={false} />
                <span className="text-quiet">→</span>
                <Rung tones={after} accent />
                <span className="min-w-0 truncate">{changes.length === 0 ? "nothing" : changes.join(", ")}</span>
              </li>
            ))}
          </ul>
          <button
            className="write-act mt-3 max-w-[300px]"
            disabled={busy}
            onClick={() => void match().catch((error: Error) => notify(error.message))}
          >
            {to.length === 1 ? "Match one print" : `Match ${to.length} prints`}
          </button>
        </>
      )}
    </section>
  );
}

/** One look on many prints, each fitted to its own picture. */
function Looks({ to }: { to: readonly string[] }) {
  const own = useLooks().data ?? [];
  const looks = [...own, ...OWN_LOOKS];
  const [id, setId] = useState(OWN_LOOKS[0].id);
  const [amount, setAmount] = useState(100);
  const [progress, setProgress] = useState<number | null>(null);
  const busy = progress !== null;
  const lay = async () => {
    setProgress(0);
    const stopWatching = watchLook(id, (done) => setProgress(done));
    try {
      const answer = await api<PasteAnswer>(`/looks/${id}/lay`, {
        method: "POST",
        body: { to, amountPercent: amount },
      });
      await tellMany(answer, `“${looks.find((look) => look.id === id)?.name}” laid`);
      await queryClient.invalidateQueries({ queryKey: ["negatives"] });
    } finally {
      stopWatching();
      setProgress(null);
    }
  };
  return (
    <section className="pt-8" aria-label="A look on many">
      <h2 className="font-serif text-[19px]">A look on the chosen prints</h2>
      <p className="text-quiet pb-2">
        Each print’s points follow its own light; exposure, crop, mended places and light moves stay.
      </p>
      <div className="flex max-w-[560px] items-center gap-4">
        <select className="field" aria-label="Look" value={id} onChange={(event) => setId(event.target.value)}>
          {looks.map((look) => (
            <option key={look.id} value={look.id}>
              {look.name}
            </option>
          ))}
        </select>
        <div className="w-64">
          <Amount
            label="Amount"
            value={amount / 100}
            range={{ minimum: 0, maximum: 1.5, default: 1, description: "How far each print goes towards the look." }}
            step={0.1}
            format={asPercent}
            typedScale={100}
            onChange={(share) => setAmount(Math.round(100 * share))}
            onEnd={() => undefined}
          />
        </div>
        <button
          className="act"
          disabled={busy || to.length === 0}
          onClick={() => void lay().catch((error: Error) => notify(error.message))}
        >
          {busy ? `${progress} of ${to.length} fitted…` : to.length === 1 ? "Lay it on one" : `Lay it on ${to.length}`}
        </button>
      </div>
      {busy && (
        <progress
          className="progress mt-3 block h-1 max-w-[560px]"
          value={progress}
          max={to.length}
          aria-label="Prints fitted"
        />
      )}
    </section>
  );
}
