import { DELIVER_ACTS } from "./acts.ts";
import {
  DEFAULT_EXPORT,
  frameOf,
  isGrey,
  isMounted,
  mountLayout,
  NAME_WORDS,
  scaledSize,
  type ExportOptions,
  type Negative,
} from "@yelm/core";
import { useState } from "react";
import { Link } from "react-router";
import { ExportRow } from "../../controls/export-row.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useExports, useStartExport } from "../../data/queries.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { TakenAlong } from "./taken-along.tsx";

const KEPT_OPTIONS = "yelm-export";
const EDGES = [null, 4000, 2400, 1600, 1080] as const;
const PREVIEW_JOBS = 4;

/** Deliver: how the file is to be, and the files of this print. */
export function DeliverStation({ negative }: { negative: Negative }) {
  const session = useSession();
  const { id } = useEdit((state) => state.print);
  const ground = useEdit((state) => state.recipe.ground);
  const finish = useEdit((state) => state.recipe.finish);
  const [options, setOptions] = useState<ExportOptions>(readOptions);
  const start = useStartExport();
  const jobs = (useExports().data ?? []).filter((job) => job.printId === id);
  const set = (change: Partial<ExportOptions>) => {
    const next = { ...options, ...change };
    setOptions(next);
    localStorage.setItem(KEPT_OPTIONS, JSON.stringify(next));
  };
  const write = () => {
    void session.sendAll().then(() => start.mutate({ printIds: [id], options }));
  };
  useAct({ ...DELIVER_ACTS["write"], run: write });

  const frame = frameOf(negative, ground);
  const mounted = options.mount && isMounted(finish.mount);
  const sheetOf = (scale: number) => {
    const size = scaledSize(frame, scale);
    return mounted ? mountLayout(finish.mount, size).sheet : size;
  };
  const full = sheetOf(1);
  const whole = Math.max(full.width, full.height);
  const size = sheetOf(options.longEdge ? Math.min(1, options.longEdge / whole) : 1);
  const depth = options.format === "jpeg" ? "8 bit" : "16 bit";
  return (
    <>
      <Group title="File">
        <Choice
          label="Format"
          options={[
            ["tiff", "TIFF 16 bit"],
            ["png", "PNG 16 bit"],
            ["jpeg", "JPEG"],
          ]}
          value={options.format}
          onChoose={(format) => set({ format })}
        />
        <p className="text-quiet pt-2">
          {size.width} × {size.height}, {depth}, {isGrey(finish) ? "grey" : "toned RGB"}, profile inside
        </p>
        {isMounted(finish.mount) && (
          <label className="flex cursor-pointer items-center gap-2 pt-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={options.mount}
              onChange={(event) => set({ mount: event.target.checked })}
            />
            With border, mat and caption
          </label>
        )}
      </Group>
      <Group title="Size">
        <Choice
          label="Long edge"
          options={EDGES.map((edge) => [String(edge), edge ? String(edge) : "full size"] as const)}
          value={String(options.longEdge)}
          onChoose={(edge) => set({ longEdge: edge === "null" ? null : Number(edge) })}
        />
        <label className="flex items-center justify-between pt-2">
          <span>Long edge, pixels</span>
          <input
            className="field w-24 text-right"
            inputMode="numeric"
            placeholder={String(whole)}
            value={options.longEdge ?? ""}
            onChange={(event) => {
              const edge = Number(event.target.value);
              if (event.target.value === "") set({ longEdge: null });
              else if (Number.isInteger(edge) && edge > 0 && edge <= 30000) set({ longEdge: edge });
            }}
          />
        </label>
      </Group>
      <Group title="Coding">
        <Choice
          label="Coding"
          options={[
            ["srgb", "sRGB"],
            ["gamma22", "gamma 2.2"],
            ["lightness", "L*"],
          ]}
          value={options.encoding}
          onChoose={(encoding) => set({ encoding })}
        />
        {options.format === "jpeg" && (
          <label className="flex items-center justify-between pt-2">
            <span>Quality</span>
            <input
              type="number"
              className="field w-24 text-right"
              min={40}
              max={100}
              value={options.jpegQuality}
              onChange={(event) => {
                const quality = Math.round(Number(event.target.value));
                if (quality >= 40 && quality <= 100) set({ jpegQuality: quality });
              }}
            />
          </label>
        )}
        <label className="flex cursor-pointer items-center gap-2 pt-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={options.metadata}
            onChange={(event) => set({ metadata: event.target.checked })}
          />
          Keep camera, exposure and date
        </label>
      </Group>
      <Group title="Name">
        <input
          className="field w-full"
          aria-label="File-name pattern"
          value={options.namePattern}
          maxLength={120}
          onChange={(event) => set({ namePattern: event.target.value })}
          onBlur={() => options.namePattern.trim() === "" && set({ namePattern: DEFAULT_EXPORT.namePattern })}
        />
        <div className="flex flex-wrap gap-1 pt-2">
          {NAME_WORDS.map((word) => (
            <button
              key={word}
              className="chip"
              onClick={() => set({ namePattern: `${options.namePattern}-{${word}}`.slice(0, 120) })}
            >
              {word}
            </button>
          ))}
        </div>
      </Group>
      <button
        className="write-act"
        onClick={write}
        disabled={start.isPending || (options.longEdge !== null && options.longEdge < 16)}
      >
        Write the file <kbd>Ctrl Enter</kbd>
      </button>
      {start.error && <p className="text-accent pt-2">{start.error.message}</p>}
      {jobs.length > 0 && (
        <Group
          title="Files of this print"
          aside={
            <Link className="act" to="/exports">
              All exports
            </Link>
          }
        >
          <ul>
            {jobs.slice(0, PREVIEW_JOBS).map((job) => (
              <ExportRow key={job.id} job={job} />
            ))}
          </ul>
        </Group>
      )}
      <TakenAlong negative={negative} />
    </>
  );
}

function readOptions(): ExportOptions {
  try {
    return { ...DEFAULT_EXPORT, ...(JSON.parse(localStorage.getItem(KEPT_OPTIONS) ?? "{}") as Partial<ExportOptions>) };
  } catch {
    return DEFAULT_EXPORT;
  }
}
