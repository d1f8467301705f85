import { Download, RotateCcw, Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { EVERY_ACT, type CataloguedAct } from "../catalog.ts";
import { comboOf, keyText, overlap } from "../keys/combo.ts";
import { keepKeys, keysOf, ownKeys, type OwnKeys } from "../keys/key-settings.ts";
import { notify } from "./shell-view.ts";
import { Sheet } from "./sheet.tsx";

const LARGEST_FILE = 64 * 1024;

/** All keys by group. A click on one, and the next key that is pressed is its key. */
export function KeysSheet({ onClose }: { onClose: () => void }) {
  const own = useStore(ownKeys, ({ keys }) => keys);
  const [asked, setAsked] = useState<CataloguedAct | null>(null);
  const groups = [...new Set(EVERY_ACT.map(({ group }) => group))];
  const keep = (keys: OwnKeys) =>
    void keepKeys(keys).catch((error: Error) => notify(`The keys could not be kept: ${error.message}`));
  const set = (act: CataloguedAct, keys: string) => {
    const { [act.id]: _, ...others } = own;
    keep(keys === act.keys ? others : { ...others, [act.id]: keys });
  };
  useEffect(() => {
    if (!asked) return;
    const take = (event: KeyboardEvent) => {
      event.preventDefault();
      event.stopPropagation();
      const combo = comboOf(event);
      if (combo === null) return;
      setAsked(null);
      if (combo !== "escape" || asked.keys.includes("escape")) set(asked, combo === "backspace" ? "" : combo);
    };
    window.addEventListener("keydown", take, true);
    return () => window.removeEventListener("keydown", take, true);
  });
  return (
    <Sheet title="Keys" onClose={onClose} wide>
      <p className="text-quiet mb-3">
        Keys follow the character printed on them. Click one and press another to change it; Backspace leaves the act
        without a key, Esc leaves it as it is.
      </p>
      <div className="columns-2 gap-10">
        {groups.map((group) => (
          <section key={group} className="mb-5 break-inside-avoid">
            <h3 className="text-quiet mb-1 font-serif text-[15px]">{group}</h3>
            <ul>
              {EVERY_ACT.filter((act) => act.group === group).map((act) => (
                <Row key={act.id} act={act} own={own} asked={asked?.id === act.id} onAsk={() => setAsked(act)} />
              ))}
            </ul>
          </section>
        ))}
      </div>
      <div className="border-line flex flex-wrap items-center gap-1 border-t pt-3">
        <button className="act" disabled={Object.keys(own).length === 0} onClick={() => keep({})}>
          <RotateCcw size={14} /> Usual keys
        </button>
        <button className="act" onClick={() => save(own)}>
          <Download size={14} /> Save to a file
        </button>
        <FromFile onKeys={keep} />
      </div>
      <p className="text-quiet mt-2">
        In every amount: arrows step, with Shift coarse, with Alt fine; double-click its name to reset; type a number.
      </p>
    </Sheet>
  );
}

interface RowProps {
  readonly act: CataloguedAct;
  readonly own: OwnKeys;
  readonly asked: boolean;
  readonly onAsk: () => void;
}

function Row({ act, own, asked, onAsk }: RowProps) {
  const keys = keysOf(act, own);
  const rivals =
    keys === "" ? [] : EVERY_ACT.filter((other) => isRival(act, other) && overlap(keys, keysOf(other, own)));
  return (
    <li className="py-0.5">
      <span className="flex justify-between gap-3">
        <span>{act.label}</span>
        <button
          className={`cursor-pointer rounded px-1.5 text-right ${asked ? "bg-fill text-accent" : "hover:bg-fill"}`}
          aria-label={`Key of ${act.label}`}
          onClick={onAsk}
        >
          {asked ? "press a key" : <kbd>{keys === "" ? "–" : `${act.held ? "hold " : ""}${keyText(keys)}`}</kbd>}
        </button>
      </span>
      {rivals.length > 0 && own[act.id] !== undefined && (
        <span className="text-accent block text-[12px]">Also: {rivals.map(({ label }) => label).join(", ")}</span>
      )}
    </li>
  );
}

const ROLL_GROUP = "Roll";

/** Acts that can be offered at the same time, so that one key for both would be ambiguous. */
function isRival(one: CataloguedAct, other: CataloguedAct): boolean {
  if (one.id === other.id) return false;
  if (one.station && other.station) return one.station === other.station;
  const onRoll = [one, other].filter(({ group }) => group === ROLL_GROUP).length;
  const everywhere = [one, other].some(({ group }) => group === "Go");
  return everywhere || onRoll !== 1;
}

function save(keys: OwnKeys): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify({ keys }, null, 2)], { type: "application/json" }));
  const link = document.createElement("a");
  link.href = url;
  link.download = "yelm-keys.json";
  link.click();
  URL.revokeObjectURL(url);
}

function FromFile({ onKeys }: { onKeys: (keys: OwnKeys) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      if (file.size > LARGEST_FILE) throw new Error("it is too large");
      const { keys } = JSON.parse(await file.text()) as { keys?: Record<string, unknown> };
      const known = new Set(EVERY_ACT.map(({ id }) => id));
      const fit = Object.entries(keys ?? {}).filter(([id, value]) => known.has(id) && typeof value === "string");
      if (fit.length === 0) throw new Error("it holds none");
      onKeys(Object.fromEntries(fit) as OwnKeys);
    } catch (error) {
      notify(`Expected a file of keys, but ${error instanceof SyntaxError ? "it is none" : (error as Error).message}.`);
    }
  };
  return (
    <>
      <button className="act" onClick={() => input.current?.click()}>
        <Upload size={14} /> Take from a file
      </button>
      <input
        ref={input}
        type="file"
        accept="application/json,.json"
        className="hidden"
        aria-label="File of keys"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void read(file);
          event.target.value = "";
        }}
      />
    </>
  );
}
