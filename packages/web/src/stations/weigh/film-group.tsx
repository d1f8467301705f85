import {
  beyondRed,
  FILM_LIGHTS,
  FILM_NAMES,
  FILTER_NAMES,
  filterFactorStops,
  formatSigned,
  parseSpectralCsv,
  type FilmChoice,
} from "@yelm/core";
import { FileUp } from "lucide-react";
import { useRef } from "react";
import { Choice } from "../../controls/choice.tsx";
import { SpectralChart } from "./spectral-chart.tsx";
import { notify } from "../../shell/shell-view.ts";

const LARGEST_CSV = 256 * 1024;

interface FilmGroupProps {
  readonly film: FilmChoice;
  readonly onFilm: (label: string, change: Partial<FilmChoice>) => void;
}

/** Film, filter and light, with their curves and the filter factor. */
export function FilmChoices({ film, onFilm }: FilmGroupProps) {
  const factor = filterFactorStops(film);
  const beyond = beyondRed(film);
  const films = FILM_NAMES.filter((name) => name !== "own" || film.ownFilm);
  const filters = FILTER_NAMES.filter((name) => name !== "own" || film.ownFilter);
  return (
    <div className="space-y-2.5">
      <Named title="Film">
        <Choice
          label="Film"
          value={film.film}
          options={films.map((name) => [name, name === "own" ? film.ownFilm!.name : name] as const)}
          onChoose={(name) => onFilm(`Film: ${name}`, { film: name })}
        />
      </Named>
      <Named title="Filter">
        <Choice
          label="Filter"
          value={film.filter}
          options={filters.map((name) => [name, name === "own" ? film.ownFilter!.name : name] as const)}
          onChoose={(name) => onFilm(`Filter: ${name}`, { filter: name })}
        />
      </Named>
      <Named title="Light">
        <Choice
          label="Light"
          value={film.light}
          options={FILM_LIGHTS.map((name) => [name, name] as const)}
          onChoose={(name) => onFilm(`Light: ${name}`, { light: name })}
        />
      </Named>
      <SpectralChart choice={film} />
      <p data-testid="filter-factor">
        {film.filter === "none" ? (
          <span className="text-quiet">No filter, no factor.</span>
        ) : factor > 8 ? (
          <span className="text-accent">This film sees next to nothing through this filter.</span>
        ) : (
          <>
            Filter factor {formatFactor(2 ** factor)}, {formatSigned(factor, 1)} stops of exposure{" "}
            <span className="text-quiet">(allowed for here)</span>
          </>
        )}
      </p>
      {beyond === "mainly" && (
        <p className="text-quiet">
          Colour tells nothing of what lies beyond red. What looks like leaves is taken to be bright there, as leaves
          are; everything else goes on as its red does. It is a guess.
        </p>
      )}
      {beyond === "a little" && (
        <p className="text-quiet">
          A part of what this film sees lies at the end of red, where colour tells little: everything goes on as its red
          does. Leaves would be lighter on film, green paint would not.
        </p>
      )}
      <div className="-mx-2 flex flex-wrap">
        <OwnCurve kind="film" onCurve={(curve) => onFilm(`Film: ${curve.name}`, { film: "own", ownFilm: curve })} />
        <OwnCurve
          kind="filter"
          onCurve={(curve) => onFilm(`Filter: ${curve.name}`, { filter: "own", ownFilter: curve })}
        />
      </div>
    </div>
  );
}

function Named({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div>
      <h4 className="text-quiet pb-1 text-[12px]">{title}</h4>
      {children}
    </div>
  );
}

/** A curve of the user's own, from a table of wavelengths. */
function OwnCurve({
  kind,
  onCurve,
}: {
  kind: "film" | "filter";
  onCurve: (curve: NonNullable<FilmChoice["ownFilm"]>) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      if (file.size > LARGEST_CSV)
        throw new RangeError(
          `Expected a table of up to ${LARGEST_CSV / 1024} kB but received ${Math.round(file.size / 1024)} kB.`,
        );
      const points = parseSpectralCsv(await file.text(), kind);
      onCurve({ name: file.name.replace(/\.[^.]*$/, "").slice(0, 60) || `own ${kind}`, points });
    } catch (error) {
      notify(`${file.name} is no ${kind} curve. ${error instanceof Error ? error.message : String(error)}`);
    }
  };
  return (
    <>
      <button
        className="act"
        title="A text file: wavelength in nm and value, a line each"
        onClick={() => input.current!.click()}
      >
        <FileUp size={14} /> Own {kind}…
      </button>
      <input
        ref={input}
        type="file"
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        className="hidden"
        aria-label={`Own ${kind} from a table`}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          event.target.value = "";
          if (file) void read(file);
        }}
      />
    </>
  );
}

function formatFactor(factor: number): string {
  return `${factor < 10 ? factor.toFixed(1) : factor.toFixed(0)}×`;
}
