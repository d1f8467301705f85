import type { Negative, Print } from "@yelm/core";
import { FileDown, FileText, FileUp } from "lucide-react";
import { useNavigate } from "react-router";
import { FilePick } from "../../controls/file-pick.tsx";
import { Group } from "../../controls/group.tsx";
import { api } from "../../data/api.ts";
import { download } from "../../data/download.ts";
import { queryClient } from "../../data/queries.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { notify } from "../../shell/shell-view.ts";
import { DELIVER_ACTS } from "./acts.ts";

/** What goes with a picture: its sheet on paper, and the print as a file that opens elsewhere. */
export function TakenAlong({ negative }: { readonly negative: Negative }) {
  const session = useSession();
  const { id } = useEdit((state) => state.print);
  const navigate = useNavigate();
  /** What was edited has to be there first. */
  const get = (what: "sheet" | "file") => {
    if (what === "sheet") notify("The sheet is being made; the browser keeps it with its downloads.");
    void session.sendAll().then(() => download(`/prints/${id}/${what}`));
  };
  const open = async (file: File) => {
    let body: unknown;
    try {
      body = JSON.parse(await file.text());
    } catch {
      return notify(`Expected the file of a print, but ${file.name} is no JSON.`);
    }
    const made = await api<Print>(`/negatives/${negative.id}/prints/file`, { method: "POST", body });
    await queryClient.invalidateQueries({ queryKey: ["prints"] });
    notify(`“${made.name}” was made of its file.`);
    void navigate(`/prints/${made.id}`);
  };
  useAct({ ...DELIVER_ACTS["print-sheet"], run: () => get("sheet") });
  return (
    <Group title="Taken along">
      <div className="-mx-2 flex flex-col items-start">
        <button
          className="act"
          title="A4: picture, ticket, and a work print with marks and stops"
          onClick={() => get("sheet")}
        >
          <FileText size={14} /> Print sheet, PDF <Keys of={DELIVER_ACTS["print-sheet"]} />
        </button>
        <button
          className="act"
          title="Recipe, plan, named states and what is meant so, as JSON"
          onClick={() => get("file")}
        >
          <FileDown size={14} /> The print as a file
        </button>
        <FilePick
          label="File of a print"
          accept=".json,application/json"
          title="A new print of this negative"
          testId="print-file"
          onFile={(file) => void open(file).catch((error: Error) => notify(error.message))}
        >
          <FileUp size={14} /> A print from its file…
        </FilePick>
      </div>
    </Group>
  );
}
