import { COPIED_PARTS, USUAL_LOOK_PARTS, type Look } from "@yelm/core";
import { useState } from "react";
import { Group } from "../../controls/group.tsx";
import { PartsSheet } from "../../copied-parts/parts-sheet.tsx";
import { api } from "../../data/api.ts";
import { queryClient } from "../../data/queries.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import { FINISH_ACTS } from "./acts.ts";

/** The wall, and keeping a manner of this print as a look. */
export function LooksGroup() {
  const [keeping, setKeeping] = useState(false);
  const open = () => benchView.setState({ laidOut: "starts" });
  useAct({ ...FINISH_ACTS.wall, run: open });
  useAct({ ...FINISH_ACTS["keep-look"], run: () => setKeeping(true) });
  const readFile = async (file: File) => {
    let parsed: unknown;
    try {
      parsed = JSON.parse(await file.text());
    } catch {
      notify(`“${file.name}” is no look: it is not JSON, or cut short.`);
      return;
    }
    const { name } = await api<Look>("/looks/file", { method: "POST", body: parsed });
    await queryClient.invalidateQueries({ queryKey: ["looks"] });
    notify(`The look “${name}” hangs on the wall.`);
  };
  return (
    <Group title="Looks">
      <div className="-mx-2 flex flex-wrap">
        <button className="act" onClick={open}>
          The wall <Keys of={FINISH_ACTS.wall} />
        </button>
        <button className="act" onClick={() => setKeeping(true)}>
          Keep as a look <Keys of={FINISH_ACTS["keep-look"]} />
        </button>
        <label className="act">
          From a file
          <input
            type="file"
            accept=".json,application/json"
            className="sr-only"
            aria-label="A look from a file"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              event.target.value = "";
              if (file) void readFile(file).catch((error: Error) => notify(error.message));
            }}
          />
        </label>
      </div>
      {keeping && <KeepLook onClose={() => setKeeping(false)} />}
    </Group>
  );
}

function KeepLook({ onClose }: { onClose: () => void }) {
  const session = useSession();
  const pool = usePool();
  const recipe = useEdit((state) => state.recipe);
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const keep = async (parts: readonly string[]) => {
    const now = session.store.getState().recipe;
    const fit = parts.includes("points") ? await pool.ask("fit", { recipe: now }) : null;
    const body = { name: name.trim() || "My look", note: note.trim(), parts, recipe: now, fit };
    const made = await api<Look>("/looks", { method: "POST", body });
    await queryClient.invalidateQueries({ queryKey: ["looks"] });
    notify(`“${made.name}” hangs on the wall.`);
    onClose();
  };
  return (
    <PartsSheet
      title="Keep as a look"
      recipe={recipe}
      start={USUAL_LOOK_PARTS}
      offered={COPIED_PARTS.map(({ id }) => id)}
      verb="Keep the look"
      onDone={(parts) => void keep(parts).catch((error: Error) => notify(error.message))}
      onClose={onClose}
    >
      <div className="border-line flex flex-col gap-2 border-t pt-3">
        <input
          className="field"
          aria-label="Name of the look"
          placeholder="Name"
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <input
          className="field"
          aria-label="Note of the look"
          placeholder="What it is for"
          maxLength={400}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      </div>
    </PartsSheet>
  );
}
