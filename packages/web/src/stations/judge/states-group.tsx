import { formatDistanceToNowStrict } from "date-fns";
import { X } from "lucide-react";
import { useState } from "react";
import { Group } from "../../controls/group.tsx";
import { useNotes, useNotesSession } from "../../data/notes/use-notes.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { newId } from "../../shapes/stack-edits.ts";
import { JUDGE_ACTS } from "./acts.ts";
import { comparing } from "./compare.ts";

/** States of the print with names: to return to, and to compare with. */
export function StatesGroup() {
  const session = useSession();
  const notes = useNotesSession();
  const states = useNotes((all) => all.states);
  const head = useEdit((state) => state.head);
  const revisions = useEdit((state) => state.revisions);
  const [name, setName] = useState<string | null>(null);
  useAct({ ...JUDGE_ACTS["state-name"], run: () => setName("") });
  const keep = () => {
    const text = name?.trim();
    setName(null);
    if (!text) return;
    const state = {
      id: newId(),
      name: text,
      note: "",
      revision: session.store.getState().head,
      at: new Date().toISOString(),
    };
    notes.change(`State named: ${text}`, (old) => ({ ...old, states: [...old.states, state] }));
  };
  return (
    <Group
      title="States"
      aside={
        <button className="act" onClick={() => setName("")}>
          Name this one <Keys of={JUDGE_ACTS["state-name"]} />
        </button>
      }
    >
      {name !== null && (
        <form
          className="flex gap-1 pb-1"
          onSubmit={(event) => {
            event.preventDefault();
            keep();
          }}
        >
          <input
            className="field min-w-0 flex-1"
            aria-label="Name of the state"
            autoFocus
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && setName(null)}
          />
          <button className="act" type="submit">
            Keep
          </button>
        </form>
      )}
      {states.length === 0 && name === null && (
        <p className="text-quiet">None yet. Whatever is named can be returned to and compared with.</p>
      )}
      <ol className="-mx-2" aria-label="Named states">
        {states.map(({ id, name: text, revision, at }) => (
          <li key={id} className={`flex items-center rounded px-2 ${revision === head ? "bg-fill" : ""}`}>
            <button
              className="min-w-0 flex-1 cursor-pointer truncate py-1 text-left"
              title="Return to it"
              disabled={!revisions.has(revision)}
              onClick={() => session.goTo(revision)}
            >
              {text} <span className="text-quiet">{formatDistanceToNowStrict(new Date(at))} ago</span>
            </button>
            <button
              className="act px-1"
              onClick={() => comparing.setState({ by: "wipe", against: { kind: "state", id } })}
            >
              Compare
            </button>
            <button
              className="act px-1"
              aria-label={`Forget the name ${text}`}
              onClick={() =>
                notes.change(`State unnamed: ${text}`, (old) => ({
                  ...old,
                  states: old.states.filter((one) => one.id !== id),
                }))
              }
            >
              <X size={13} />
            </button>
          </li>
        ))}
      </ol>
    </Group>
  );
}
