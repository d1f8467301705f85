import type { ExportJob } from "@yelm/core";
import { format } from "date-fns";
import { ExportRow } from "../controls/export-row.tsx";
import { useExports } from "../data/queries.ts";
import { Page } from "./page.tsx";

/** Every file that was written or is being written, by day. */
export function ExportsScreen() {
  const { data, isPending } = useExports();
  const days = byDay(data ?? []);
  return (
    <Page>
      <h1 className="font-serif text-[28px]">Exports</h1>
      {isPending && <p className="text-quiet pt-4">Looking…</p>}
      {data?.length === 0 && (
        <p className="text-quiet pt-4">Nothing was written yet. Open a print, go to Deliver (8), and write its file.</p>
      )}
      {days.map(([day, jobs]) => (
        <section key={day} className="max-w-[760px] pt-6">
          <h2 className="text-quiet border-line border-b pb-1 font-serif text-[15px]">{day}</h2>
          <ul>
            {jobs.map((job) => (
              <ExportRow key={job.id} job={job} />
            ))}
          </ul>
        </section>
      ))}
    </Page>
  );
}

function byDay(jobs: readonly ExportJob[]): [string, ExportJob[]][] {
  const days = new Map<string, ExportJob[]>();
  for (const job of jobs) {
    const day = format(new Date(job.createdAt), "EEEE, d MMMM yyyy");
    days.set(day, [...(days.get(day) ?? []), job]);
  }
  return [...days];
}
