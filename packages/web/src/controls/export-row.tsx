import type { ExportJob } from "@yelm/core";
import { Download, X } from "lucide-react";
import { useCancelExport } from "../data/queries.ts";

/** One export: its file, or how far it is, or why it failed. */
export function ExportRow({ job }: { job: ExportJob }) {
  const cancel = useCancelExport();
  const under = job.state === "waiting" || job.state === "running";
  return (
    <li className="py-1.5" data-testid="export" data-state={job.state}>
      <div className="flex min-h-6 items-center justify-between gap-2">
        <span className="truncate" title={job.fileName ?? undefined}>
          {job.fileName ?? `${job.options.format.toUpperCase()}, ${job.options.longEdge ?? "full size"}`}
        </span>
        {job.state === "done" && (
          <a className="act text-accent" href={`/api/exports/${job.id}/file`} download={job.fileName ?? true}>
            <Download size={14} /> {formatBytes(job.bytes ?? 0)}
          </a>
        )}
        {under && (
          <button className="act" aria-label="Cancel this export" onClick={() => cancel.mutate(job.id)}>
            <X size={14} />
          </button>
        )}
        {job.state === "cancelled" && <span className="text-quiet">cancelled</span>}
      </div>
      {under && (
        <progress
          className="progress h-[2px] w-full"
          aria-label="Progress of this export"
          value={job.progress}
          max={1}
        />
      )}
      {job.state === "failed" && <p className="text-accent">Not written. {job.error}</p>}
    </li>
  );
}

export function formatBytes(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}
