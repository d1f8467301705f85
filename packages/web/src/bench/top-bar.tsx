import type { Negative, Roll } from "@yelm/core";
import { format } from "date-fns";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import { useEdit, useSession } from "../data/use-session.ts";
import { Keys } from "../keys/keys.tsx";
import { SHELL_ACTS } from "../shell/acts.ts";
import { Mark } from "../shell/mark.tsx";
import { shellView } from "../shell/shell-view.ts";

/** Where one is, whether it is saved, and the acts that are used all the time. */
export function TopBar({
  roll,
  negative,
  children,
}: {
  roll: Roll | undefined;
  negative: Negative;
  children: ReactNode;
}) {
  return (
    <header className="bg-base-200 border-line flex min-w-0 items-center gap-3 overflow-hidden border-b px-3 whitespace-nowrap">
      <Mark />
      <nav aria-label="Where you are" className="flex min-w-0 items-center gap-2">
        <Link className="text-quiet hover:text-base-content truncate" to={`/rolls/${negative.rollId}`}>
          {roll?.title ?? "Roll"}
        </Link>
        <span className="text-quiet">›</span>
        <span className="text-quiet truncate">{negative.title}</span>
        <span className="text-quiet">›</span>
        <PrintName />
      </nav>
      <SaveMark />
      <div className="ml-auto flex shrink-0 items-center gap-1">
        {children}
        <button className="act" onClick={() => shellView.setState({ paletteOpen: true })}>
          Every act <Keys of={SHELL_ACTS["every-act"]} />
        </button>
      </div>
    </header>
  );
}

function PrintName() {
  const session = useSession();
  const name = useEdit((state) => state.print.name);
  const [text, setText] = useState<string | null>(null);
  const keep = () => {
    const next = text?.trim();
    setText(null);
    if (next && next !== name) session.rename(next);
  };
  return (
    <input
      className="focus:bg-fill hover:bg-fill field-sizing-content max-w-56 min-w-8 text-ellipsis rounded px-1 font-semibold outline-offset-0"
      aria-label="Name of the print"
      value={text ?? name}
      maxLength={80}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(null);
      }}
    />
  );
}

function SaveMark() {
  const save = useEdit((state) => state.save);
  const savedAt = useEdit((state) => state.savedAt);
  const durable = useEdit((state) => state.durable);
  const text = {
    saved: savedAt ? `saved ${format(savedAt, "HH:mm")}` : "saved",
    saving: "saving…",
    away: durable ? "kept here; the server is away" : "not kept yet: the server is away",
    refused: "not saved",
  }[save];
  return (
    <span
      role="status"
      data-testid="save-mark"
      data-save={save}
      title={
        durable ? undefined : "This browser cannot keep what is not sent yet: leave this window open until it is saved."
      }
      className={`truncate whitespace-nowrap ${save === "saved" || save === "saving" ? "text-quiet" : "text-accent"}`}
    >
      {text}
    </span>
  );
}
