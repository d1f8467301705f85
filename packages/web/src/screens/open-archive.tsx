import type { ArchiveAnswer } from "@yelm/core";
import { PackageOpen } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { FilePick } from "../controls/file-pick.tsx";
import { send } from "../data/api.ts";
import { queryClient } from "../data/queries.ts";
import { notify } from "../shell/shell-view.ts";

/** Brings in a roll that was taken along as an archive. */
export function OpenArchive() {
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const open = async (file: File) => {
    setBusy(true);
    try {
      const { roll, negatives, prints, failed } = await send<ArchiveAnswer>("/rolls/archive", file);
      await queryClient.invalidateQueries();
      const came = `“${roll.title}”: ${negatives} ${negatives === 1 ? "capture" : "captures"}, ${prints} new ${prints === 1 ? "print" : "prints"}`;
      const rest = failed.length > 0 ? `; not brought in: ${failed.map(({ reason }) => reason).join(" ")}` : "";
      notify(`${came}${rest}.`.replace("..", "."));
      void navigate(`/rolls/${roll.id}`);
    } finally {
      setBusy(false);
    }
  };
  return (
    <FilePick
      label="Archive of a roll"
      accept=".zip,application/zip"
      title="A roll that was taken along from a contact sheet"
      testId="archive-file"
      disabled={busy}
      onFile={(file) => void open(file).catch((error: Error) => notify(error.message))}
    >
      <PackageOpen size={15} /> {busy ? "Opening the archive…" : "Open an archive"}
    </FilePick>
  );
}
