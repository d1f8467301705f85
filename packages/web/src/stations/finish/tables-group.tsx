import { CubeError, readCube, TABLE_LIMITS, tableOf, writeCube, type ToneTable } from "@yelm/core";
import { X } from "lucide-react";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { asPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { newId } from "../../shapes/stack-edits.ts";
import { notify } from "../../shell/shell-view.ts";

const MOST = 2;
const LIMIT_WORDS = { all: "all", darks: "darks, never lighter", lights: "lights, never darker" } as const;
const LARGEST_BYTES = 64e6;

/** Tone tables from files, one laid on the other, and the print's own tone as a file. */
export function TablesGroup() {
  const session = useSession();
  const finish = useEdit((state) => state.recipe.finish);
  const name = useEdit((state) => state.print.name);
  const { tables } = finish;
  const put = (next: ToneTable[]) =>
    session.preview((recipe) => ({ ...recipe, finish: { ...recipe.finish, tables: next } }));
  const change = (label: string, next: ToneTable[]) => {
    put(next);
    session.commit("Finish", label);
  };
  const set = (id: string, part: Partial<ToneTable>) =>
    tables.map((one) => (one.id === id ? { ...one, ...part } : one));
  const open = async (file: File) => {
    if (file.size > LARGEST_BYTES) {
      notify(`“${file.name}” is larger than a table is: 64 MB at most.`);
      return;
    }
    try {
      const { title, values } = readCube(await file.text());
      const table: ToneTable = {
        id: newId(),
        name: title || file.name.replace(/\.[^.]*$/, "").slice(0, 80),
        limit: tables.length === 0 ? "all" : "lights",
        strength: 1,
        values: [...values],
      };
      change(`Table: ${table.name}`, [...tables, table]);
    } catch (error) {
      if (!(error instanceof CubeError)) throw error;
      notify(`“${file.name}”: ${error.message}`);
    }
  };
  const write = () => {
    const text = writeCube(tableOf(finish, name));
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
    link.download = `${name.replace(/[^A-Za-z0-9 _-]+/g, "").trim() || "tone"}.cube`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  };
  return (
    <Group title="Tables" folded={tables.length === 0 ? "none" : tables.map((one) => one.name).join(", ")}>
      {tables.map((table) => (
        <div key={table.id} className="pb-2">
          <div className="flex items-center justify-between gap-2">
            <span className="min-w-0 truncate">{table.name}</span>
            <button
              className="act px-1"
              aria-label={`Take off the table ${table.name}`}
              onClick={() =>
                change(
                  `Table off: ${table.name}`,
                  tables.filter(({ id }) => id !== table.id),
                )
              }
            >
              <X size={13} />
            </button>
          </div>
          <Choice
            label={`What ${table.name} acts on`}
            options={TABLE_LIMITS.map((limit) => [limit, LIMIT_WORDS[limit]] as const)}
            value={table.limit}
            onChoose={(limit) => change(`Table on ${limit}`, set(table.id, { limit }))}
          />
          <Amount
            label="Table’s strength"
            value={table.strength}
            range={{ minimum: 0, maximum: 1, default: 1, description: "How far the table is followed." }}
            step={0.05}
            format={asPercent}
            typedScale={100}
            onChange={(strength) => put(set(table.id, { strength }))}
            onEnd={() => session.commit("Finish", "Table’s strength")}
          />
        </div>
      ))}
      <div className="-mx-2 flex flex-wrap">
        {tables.length < MOST && (
          <label className="act">
            From a .cube file
            <input
              type="file"
              accept=".cube,text/plain"
              className="sr-only"
              aria-label="A table from a file"
              onChange={(event) => {
                const [file] = event.target.files ?? [];
                event.target.value = "";
                if (file) void open(file).catch((error: Error) => notify(error.message));
              }}
            />
          </label>
        )}
        <button className="act" title="What this print makes of every grey, as a table for elsewhere" onClick={write}>
          Write the tone as a table
        </button>
      </div>
    </Group>
  );
}
