import type { Rating, SheetEntry } from "@yelm/core";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useRef, useState, type MouseEvent, type RefObject } from "react";
import { Link } from "react-router";
import { negativeThumbnail, printThumbnail } from "../data/queries.ts";

const LEAST_WIDTH = 248;
const GAP_X = 24;
const CAPTION = 84;
const WORDS: Readonly<Record<Rating, string>> = { keep: "keep", maybe: "maybe", no: "no" };

export interface FramesProps {
  readonly entries: readonly SheetEntry[];
  readonly chosen: ReadonlySet<string>;
  readonly current: number;
  readonly colour: boolean;
  readonly scroller: RefObject<HTMLElement | null>;
  readonly onPick: (index: number, event: MouseEvent) => void;
  /** Told how many stand in a row, for the arrow keys. */
  readonly onColumns: (columns: number) => void;
}

/** Frames of a contact sheet; only those near the window are in the page, so that thousands scroll as quickly as ten. */
export function Frames({ entries, chosen, current, colour, scroller, onPick, onColumns }: FramesProps) {
  const list = useRef<HTMLUListElement>(null);
  const [width, setWidth] = useState(0);
  const [top, setTop] = useState(0);
  useLayoutEffect(() => {
    const element = list.current;
    if (!element) return;
    const measure = () => {
      setWidth(element.clientWidth);
      setTop(element.offsetTop - (scroller.current?.offsetTop ?? 0));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    observer.observe(element.parentElement!);
    return () => observer.disconnect();
  }, [scroller]);
  const columns = Math.max(1, Math.floor((width + GAP_X) / (LEAST_WIDTH + GAP_X)));
  const frameWidth = (width - GAP_X * (columns - 1)) / columns;
  const rows = Math.ceil(entries.length / columns);
  const rowHeight = Math.round((frameWidth * 2) / 3) + CAPTION;
  const virtual = useVirtualizer({
    count: width > 0 ? rows : 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 2,
    scrollMargin: top,
  });
  useEffect(() => onColumns(columns), [columns, onColumns]);
  useEffect(() => virtual.measure(), [virtual, rowHeight]);
  const currentRow = current < 0 ? -1 : Math.floor(current / columns);
  useEffect(() => {
    if (currentRow >= 0) virtual.scrollToIndex(currentRow, { align: "auto" });
  }, [virtual, currentRow]);
  return (
    <ul ref={list} className="relative mt-6" style={{ height: rows * rowHeight }} data-testid="frames">
      {virtual.getVirtualItems().flatMap(({ index: row, start }) =>
        entries.slice(row * columns, (row + 1) * columns).map((entry, column) => (
          <li
            key={entry.id}
            className="absolute"
            style={{
              width: frameWidth,
              left: column * (frameWidth + GAP_X),
              transform: `translateY(${start - top}px)`,
            }}
          >
            <Frame
              entry={entry}
              colour={colour}
              chosen={chosen.has(entry.id)}
              current={row * columns + column === current}
              onPick={(event) => onPick(row * columns + column, event)}
            />
          </li>
        )),
      )}
    </ul>
  );
}

interface FrameProps {
  readonly entry: SheetEntry;
  readonly chosen: boolean;
  readonly current: boolean;
  readonly colour: boolean;
  readonly onPick: (event: MouseEvent) => void;
}

function Frame({ entry, chosen, current, colour, onPick }: FrameProps) {
  const { id, title, fileName, iso, rating, best, printCount } = entry;
  const ring = chosen ? "outline-accent outline-2" : current ? "outline-quiet outline-1" : "outline-transparent";
  // A small picture may still have to be made.
  const [made, setMade] = useState(false);
  return (
    <Link
      to={best ? `/prints/${best.id}` : "#"}
      className="group block outline-offset-4"
      aria-current={current}
      data-chosen={chosen}
      onClick={(event) => {
        if (event.ctrlKey || event.metaKey || event.shiftKey) event.preventDefault();
        onPick(event);
      }}
    >
      <span className={`relative block aspect-[3/2] outline outline-offset-4 ${made ? "" : "bg-fill"} ${ring}`}>
        <img
          src={colour || !best ? negativeThumbnail(id, 640) : printThumbnail(best, 640)}
          alt={title}
          loading="lazy"
          decoding="async"
          onLoad={() => setMade(true)}
          className={`absolute inset-0 h-full w-full object-contain ${rating === "no" ? "opacity-30" : ""}`}
        />
      </span>
      <span className="mt-3 flex items-baseline justify-between gap-3">
        <span className="truncate font-serif text-[16px] underline-offset-4 group-hover:underline">{title}</span>
        <span className="text-quiet shrink-0">{printCount === 1 ? "1 print" : `${printCount} prints`}</span>
      </span>
      <span className="text-quiet flex justify-between gap-3">
        <span className="truncate">{[fileName, iso && `ISO ${iso}`].filter(Boolean).join(" · ")}</span>
        {rating && (
          <span className={`shrink-0 font-serif text-[14px] ${rating === "keep" ? "text-base-content" : ""}`}>
            {WORDS[rating]}
          </span>
        )}
      </span>
    </Link>
  );
}
