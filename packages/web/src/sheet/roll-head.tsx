import type { Roll } from "@yelm/core";
import { api } from "../data/api.ts";
import { queryClient } from "../data/queries.ts";
import { notify } from "../shell/shell-view.ts";

type Words = Partial<Pick<Roll, "title" | "place" | "date" | "light" | "note">>;

/** A roll's title and what it is about, each changed where it stands. */
export function RollHead({ roll }: { roll: Roll }) {
  const keep = (change: Words) =>
    void api(`/rolls/${roll.id}`, { method: "PATCH", body: change })
      .then(() => queryClient.invalidateQueries({ queryKey: ["rolls"] }))
      .catch((error: Error) => notify(error.message));
  return (
    <header className="max-w-[88ch]">
      <input
        className="hover:bg-fill focus:bg-fill -mx-2 block w-full rounded px-2 font-serif text-[28px] leading-tight"
        aria-label="Title of the roll"
        defaultValue={roll.title}
        maxLength={120}
        onBlur={(event) => {
          const title = event.target.value.trim();
          if (title && title !== roll.title) keep({ title });
          else event.target.value = roll.title;
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <div className="-mx-2 mt-1 flex flex-wrap gap-1">
        <Words label="Place" value={roll.place} maxLength={120} onKeep={(place) => keep({ place })} />
        <Words label="Date" value={roll.date} maxLength={60} onKeep={(date) => keep({ date })} />
        <Words label="Light" value={roll.light} maxLength={120} onKeep={(light) => keep({ light })} />
      </div>
      <textarea
        className="hover:bg-fill focus:bg-fill text-quiet -mx-2 mt-1 block field-sizing-content w-full resize-none rounded px-2 font-serif text-[15px] leading-relaxed"
        aria-label="Intention"
        placeholder="What is this roll about?"
        defaultValue={roll.note}
        maxLength={2000}
        onBlur={(event) => event.target.value !== roll.note && keep({ note: event.target.value })}
      />
    </header>
  );
}

interface WordsProps {
  readonly label: string;
  readonly value: string;
  readonly maxLength: number;
  readonly onKeep: (value: string) => void;
}

function Words({ label, value, maxLength, onKeep }: WordsProps) {
  return (
    <input
      className="hover:bg-fill focus:bg-fill text-quiet field-sizing-content max-w-full min-w-16 rounded px-2 text-ellipsis"
      aria-label={label}
      placeholder={label}
      title={value}
      defaultValue={value}
      maxLength={maxLength}
      onBlur={(event) => event.target.value !== value && onKeep(event.target.value)}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
