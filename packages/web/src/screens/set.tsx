import { SET_WORDS, type SetEntry } from "@yelm/core";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { printThumbnail, useRoll, useSet } from "../data/queries.ts";
import { Waiting } from "../shell/waiting.tsx";
import { Page } from "./page.tsx";
import { LookOnMany, Matching } from "./set-acts.tsx";
import { Rung, ZonesChart } from "./set-tones.tsx";

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
      <LookOnMany to={entries.filter(({ id }) => chosen.has(id)).map(({ id }) => id)} />
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
