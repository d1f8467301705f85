import {
  applyAffine,
  frameOf,
  isEmptyPlan,
  MARK_KINDS,
  type CaptureSentence,
  type MarkKind,
  type Negative,
  type Plan,
  type PlanMark,
} from "@yelm/core";
import { WandSparkles, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useNotes, useNotesSession } from "../../data/notes/use-notes.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { goToStation } from "../../bench/go.ts";
import { actRegistry, useAct } from "../../keys/acts.ts";
import { matches } from "../../keys/combo.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { newId } from "../../shapes/stack-edits.ts";
import { notify } from "../../shell/shell-view.ts";
import { useAnswer, usePool } from "../../workers/use-answer.ts";
import type { SheetProps } from "../station.ts";
import { INTEND_ACTS } from "./acts.ts";
import { MARKS, markTool } from "./mark-words.ts";
import { circle } from "./overlay.tsx";

const KEYS = [
  ["low", "low"],
  ["normal", "normal"],
  ["high", "high"],
  ["", "not said"],
] as const;

/** Intend: look before touching. What the capture says, what the print is to say, and the marks of the plan. */
export function IntendStation({ negative }: SheetProps) {
  const notes = useNotesSession();
  const plan = useNotes(({ plan: all }) => all);
  const change = (label: string, part: Partial<Plan>) =>
    notes.change(label, (old) => ({ ...old, plan: { ...old.plan, ...part } }));
  const on = () => goToStation("Ground");
  useAct({ ...INTEND_ACTS["intend-on"], run: on });
  useSkip(isEmptyPlan(plan), on);
  return (
    <>
      <Reading negative={negative} />
      <Group title="What it is to say">
        <Sentence value={plan.sentence} onKeep={(sentence) => change("Sentence", { sentence })} />
        <p className="pt-2 pb-1">Key</p>
        <Choice label="Key" options={KEYS} value={plan.key} onChoose={(key) => change("Key", { key })} />
      </Group>
      <Marks plan={plan} />
      <button className="act -mx-2 mt-2" onClick={() => goToStation("Ground")}>
        On to Ground <Keys of={INTEND_ACTS["intend-on"]} />
      </button>
    </>
  );
}

/** Keys that only change what others mean. */
const MODIFIERS = new Set(["Shift", "Control", "Alt", "Meta", "AltGraph", "CapsLock", "Tab"]);

/** While nothing is said yet, any key that does nothing else goes on. */
function useSkip(enabled: boolean, on: () => void): void {
  const latest = useRef(on);
  useEffect(() => {
    latest.current = on;
  });
  useEffect(() => {
    if (!enabled) return;
    const pressed = (event: KeyboardEvent) => {
      const { target, key } = event;
      const typing = target instanceof HTMLElement && target.matches("input, textarea, select, button, [tabindex]");
      if (typing || event.defaultPrevented || MODIFIERS.has(key) || event.ctrlKey || event.metaKey || event.altKey)
        return;
      const isAct = [...actRegistry.getState().values()].some(({ keys }) => keys !== "" && matches(event, keys));
      if (!isAct) latest.current();
    };
    document.addEventListener("keydown", pressed);
    return () => document.removeEventListener("keydown", pressed);
  }, [enabled]);
}

/** What the capture says by itself; what pulls the eye can be marked from here. */
function Reading({ negative }: { negative: Negative }) {
  const notes = useNotesSession();
  const ground = useEdit((state) => state.recipe.ground);
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("captureReading", { recipe }, { key: JSON.stringify(ground), restMs: 300 });
  const mark = ({ kind, x, y, radius }: NonNullable<CaptureSentence["offer"]>) => {
    const frame = frameOf(negative, ground);
    const edge = Math.max(negative.width, negative.height);
    const [px, py] = applyAffine(frame.toFlat, x * frame.width, y * frame.height);
    const one: PlanMark = {
      id: newId(),
      kind,
      shape: { kind: "outline", points: circle(px / edge, py / edge, radius), spread: 0.02 },
    };
    notes.change(`Mark: ${MARKS[kind].name}`, (old) => ({
      ...old,
      plan: { ...old.plan, marks: [...old.plan.marks, one] },
    }));
  };
  return (
    <Group title="What is there">
      {answer.isPending && <p className="text-quiet">Reading the capture…</p>}
      <NoAnswer answer={answer} what="The reading" />
      <ul className="space-y-1.5 leading-snug" data-testid="capture-reading">
        {answer.data?.map(({ text, offer }) => (
          <li key={text}>
            {text}{" "}
            {offer && (
              <button
                className="text-accent cursor-pointer underline-offset-2 hover:underline"
                onClick={() => mark(offer)}
              >
                Mark it: {MARKS[offer.kind].name}
              </button>
            )}
          </li>
        ))}
      </ul>
    </Group>
  );
}

/** One sentence; kept when the hand leaves it. */
function Sentence({ value, onKeep }: { value: string; onKeep: (sentence: string) => void }) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <textarea
      className="field h-[74px] w-full resize-none py-1 font-serif text-[15px] leading-snug"
      aria-label="What the picture is to say"
      placeholder="One sentence: what is it about, what comes forward, what falls away?"
      maxLength={400}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text.trim() !== value && onKeep(text.trim())}
      onKeyDown={(event) => {
        if (event.key === "Enter" && !event.shiftKey) {
          event.preventDefault();
          event.currentTarget.blur();
        }
      }}
    />
  );
}

function Marks({ plan }: { plan: Plan }) {
  const { tool, markId } = useStore(benchView);
  const notes = useNotesSession();
  const put = (marks: PlanMark[], label: string) =>
    notes.change(label, (old) => ({ ...old, plan: { ...old.plan, marks } }));
  const remove = (id: string) =>
    put(
      plan.marks.filter((mark) => mark.id !== id),
      "Mark taken away",
    );
  const isDrawing = MARK_KINDS.some((kind) => markTool(kind) === tool);
  useAct({ ...INTEND_ACTS["mark-done"], enabled: isDrawing, run: () => benchView.setState({ tool: "look" }) });
  useAct({ ...INTEND_ACTS["mark-remove"], enabled: markId !== null, run: () => markId && remove(markId) });
  return (
    <Group title="Marks">
      <div className="-mx-2 flex flex-col">
        {MARK_KINDS.map((kind) => (
          <Pen key={kind} kind={kind} active={tool === markTool(kind)} />
        ))}
      </div>
      {plan.marks.length === 0 ? (
        <p className="text-quiet pt-2 leading-snug">
          Take a pen and draw a rough loop on the picture. Black and white points, edge burn and the second look heed
          it.
        </p>
      ) : (
        <ol className="-mx-2 pt-2" aria-label="Marks of the plan">
          {plan.marks.map((mark) => (
            <MarkRow
              key={mark.id}
              mark={mark}
              active={mark.id === markId}
              onRemove={() => remove(mark.id)}
              onShape={(shape) =>
                put(
                  plan.marks.map((one) => (one.id === mark.id ? { ...one, shape } : one)),
                  "Mark found",
                )
              }
            />
          ))}
        </ol>
      )}
    </Group>
  );
}

function Pen({ kind, active }: { kind: MarkKind; active: boolean }) {
  const { name, sign, act } = MARKS[kind];
  const take = () => benchView.setState({ tool: active ? "look" : markTool(kind), markId: null });
  useAct({ ...act, run: take });
  return (
    <button className="act justify-between px-2" aria-pressed={active} onClick={take}>
      <span className="min-w-0 truncate">
        <span className="mr-1.5 inline-block w-3 text-center font-serif">{sign}</span>
        {name}
      </span>
      <Keys of={act} />
    </button>
  );
}

interface MarkRowProps {
  readonly mark: PlanMark;
  readonly active: boolean;
  readonly onRemove: () => void;
  readonly onShape: (shape: PlanMark["shape"]) => void;
}

function MarkRow({ mark: { id, kind, shape }, active, onRemove, onShape }: MarkRowProps) {
  const session = useSession();
  const pool = usePool();
  const find = async () => {
    if (shape.kind !== "outline") return;
    const seeds = [{ id: newId(), inside: true, points: shape.points }];
    const found = await pool.ask("findRegion", { recipe: session.store.getState().recipe, of: "outline", seeds });
    if (found) onShape(found);
    else notify("Nothing was found inside the loop.");
  };
  return (
    <li className={`flex items-center rounded px-2 ${active ? "bg-fill" : ""}`}>
      <button
        className="min-w-0 flex-1 cursor-pointer truncate py-1 text-left"
        onClick={() => benchView.setState({ markId: active ? null : id })}
      >
        <span className="mr-1.5 inline-block w-3 text-center font-serif">{MARKS[kind].sign}</span>
        {MARKS[kind].name}
      </button>
      {shape.kind === "outline" && (
        <button
          className="act px-1"
          title="Find its exact border in the picture"
          onClick={() => void find().catch((error: Error) => notify(error.message))}
        >
          <WandSparkles size={13} /> Find it
        </button>
      )}
      <button className="act px-1" aria-label={`Take away: ${MARKS[kind].name}`} onClick={onRemove}>
        <X size={13} />
      </button>
    </li>
  );
}
