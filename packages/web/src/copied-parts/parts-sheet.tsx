import { COPIED_PARTS, defaultRecipe, differingParts, type Recipe } from "@yelm/core";
import { useState, type ReactNode } from "react";
import { Sheet } from "../shell/sheet.tsx";

const FRESH = defaultRecipe();
const STATIONS = [...new Set(COPIED_PARTS.map(({ station }) => station))];

interface PartsSheetProps {
  readonly title: string;
  readonly recipe: Recipe;
  /** Groups that are marked at first. */
  readonly start: readonly string[];
  /** Groups that are offered; all when it is not said. */
  readonly offered?: readonly string[];
  readonly verb: string;
  readonly onDone: (groups: readonly string[]) => void;
  readonly onClose: () => void;
  readonly children?: ReactNode;
}

/** Choosing parts of a print, station by station; what was never touched is quiet. */
export function PartsSheet({ title, recipe, start, offered, verb, onDone, onClose, children }: PartsSheetProps) {
  const [groups, setGroups] = useState<readonly string[]>(start);
  const touched = new Set(differingParts(recipe, FRESH, COPIED_PARTS.map(({ id }) => id)).map(({ id }) => id)); // prettier-ignore
  const mark = (ids: readonly string[], on: boolean) =>
    setGroups((now) => (on ? [...new Set([...now, ...ids])] : now.filter((id) => !ids.includes(id))));
  return (
    <Sheet title={title} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onDone(groups);
        }}
      >
        {STATIONS.map((station) => {
          const own = COPIED_PARTS.filter(
            (group) => group.station === station && (offered?.includes(group.id) ?? true),
          );
          if (own.length === 0) return null;
          const ids = own.map(({ id }) => id);
          const all = ids.every((id) => groups.includes(id));
          return (
            <fieldset key={station} className="border-line flex gap-4 border-t py-2 first:border-t-0">
              <legend className="sr-only">{station}</legend>
              <button
                type="button"
                className="w-20 shrink-0 cursor-pointer self-start text-left font-serif text-[15px]"
                title={all ? "Leave the whole station out" : "Take the whole station"}
                onClick={() => mark(ids, !all)}
              >
                {station}
              </button>
              <div className="grid flex-1 grid-cols-2 gap-x-4 gap-y-1">
                {own.map(({ id, name }) => (
                  <label
                    key={id}
                    className={`flex cursor-pointer items-center gap-2 ${touched.has(id) ? "" : "text-quiet"}`}
                  >
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      checked={groups.includes(id)}
                      onChange={(event) => mark([id], event.target.checked)}
                    />
                    {name}
                  </label>
                ))}
              </div>
            </fieldset>
          );
        })}
        {children}
        <footer className="border-line mt-2 flex items-center justify-between border-t pt-3">
          <span className="text-quiet">Quiet: as in a fresh print</span>
          <button type="submit" className="btn btn-sm btn-primary" disabled={groups.length === 0}>
            {verb}
          </button>
        </footer>
      </form>
    </Sheet>
  );
}
