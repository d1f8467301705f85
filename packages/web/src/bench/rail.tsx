import { describeRecipe, type Station } from "@yelm/core";
import { useMemo } from "react";
import { useEdit } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { stationAct } from "./acts.ts";
import { STATION_DEFS, stationNumber } from "../stations/stations.ts";

/** The stations that there are, each with the number of its place in the work; a dot where one has changed something. */
export function Rail({ station, onGo }: { station: Station; onGo: (station: Station) => void }) {
  const recipe = useEdit((state) => state.kept);
  const changed = useMemo(() => new Set<Station>(describeRecipe(recipe).map((line) => line.station)), [recipe]);
  return (
    <nav aria-label="Stations" className="bg-base-200 border-line flex flex-col border-r pt-2">
      {STATION_DEFS.map(({ name }) => (
        <RailItem
          key={name}
          name={name}
          active={name === station}
          changed={changed.has(name)}
          onGo={() => onGo(name)}
        />
      ))}
    </nav>
  );
}

function RailItem({
  name,
  active,
  changed,
  onGo,
}: {
  name: Station;
  active: boolean;
  changed: boolean;
  onGo: () => void;
}) {
  const number = stationNumber(name);
  useAct({ ...stationAct(name), run: onGo });
  return (
    <button
      aria-current={active ? "step" : undefined}
      className={`relative flex cursor-pointer flex-col items-center py-2 ${active ? "" : "text-quiet hover:text-base-content"}`}
      onClick={onGo}
    >
      {active && <i className="bg-accent absolute top-2 bottom-2 left-0 w-[3px]" />}
      <span className={`font-serif text-[19px] leading-6 ${active ? "text-accent" : ""}`}>{number}</span>
      <span className="text-[12px]">{name}</span>
      {changed && <i aria-label="changed" className="bg-quiet absolute top-3 right-3 h-[5px] w-[5px] rounded-full" />}
    </button>
  );
}
