import { Pin, X } from "lucide-react";
import { useStore } from "zustand";
import { formatSigned } from "@yelm/core";
import { Group } from "../../controls/group.tsx";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { zoneThirds } from "../../controls/formats.ts";
import { useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { SHAPE_STATION_ACTS } from "./acts.ts";
import { familyNameAt, useColours } from "../../instruments/use-colours.ts";
import { trouble, useSpots, type SpotReading } from "../../instruments/spots.ts";
import { useEdit } from "../../data/use-session.ts";

/** Spots of the picture: what they read, and the zones they are placed on. */
export function SpotsGroup() {
  const session = useSession();
  const { tool, spotId } = useStore(benchView);
  const shape = useEdit((state) => state.recipe.shape);
  const { readings, answer } = useSpots();
  const pinning = tool === "spot";
  const toggle = () => benchView.setState({ tool: pinning ? "look" : "spot", spotId: null });
  useAct({ ...SHAPE_STATION_ACTS["spot-pin"], run: toggle });
  useAct({ ...SHAPE_STATION_ACTS["spot-done"], enabled: pinning, run: toggle });
  const remove = (id: string) =>
    session.change("Shape", "Spot taken away", (recipe) => ({
      ...recipe,
      shape: { ...recipe.shape, spots: recipe.shape.spots.filter((spot) => spot.id !== id) },
    }));
  useAct({ ...SHAPE_STATION_ACTS["spot-remove"], enabled: spotId !== null, run: () => spotId && remove(spotId) });
  const colours = useColours(readings.length > 0).data ?? null;
  const fault = trouble(shape, readings);
  return (
    <Group
      title="Spots"
      aside={
        <button className="act" aria-pressed={pinning} onClick={toggle}>
          <Pin size={13} /> Pin <Keys of={SHAPE_STATION_ACTS["spot-pin"]} />
        </button>
      }
    >
      <NoAnswer answer={answer} what="The spots" />
      {readings.length === 0 ? (
        <p className="text-quiet leading-snug">
          Pin a spot and place it: pull it up or down on the picture, type its zone, or pull its rung on the ladder.
        </p>
      ) : (
        <ol aria-label="Spots" className="-mx-2">
          {readings.map((reading) => (
            <SpotRow
              key={reading.spot.id}
              reading={reading}
              family={colours && reading.at ? familyNameAt(colours, reading.at.x, reading.at.y) : ""}
              active={reading.spot.id === spotId}
              onRemove={remove}
            />
          ))}
        </ol>
      )}
      {fault && (
        <p role="alert" className="text-base-content pt-1.5 leading-snug">
          {fault}
        </p>
      )}
    </Group>
  );
}

interface SpotRowProps {
  readonly reading: SpotReading;
  /** The colours it belongs to. */
  readonly family: string;
  readonly active: boolean;
  readonly onRemove: (id: string) => void;
}

function SpotRow({ reading: { spot, number, stops, before, zone, clipped }, family, active, onRemove }: SpotRowProps) {
  return (
    <li className={`flex items-baseline gap-2 rounded px-2 py-0.5 ${active ? "bg-base-200" : ""}`}>
      <button
        className="flex min-w-0 flex-1 cursor-pointer items-baseline gap-2 text-left"
        title={family}
        aria-pressed={active}
        onClick={() => benchView.setState({ spotId: active ? null : spot.id })}
      >
        <span className="w-4 font-serif text-[15px]">{number}</span>
        <span className="text-quiet w-11 tabular-nums">{stops === null ? "–" : formatSigned(stops, 1)}</span>
        <span className="text-quiet w-9 font-serif" title="Zone by points and grade alone">
          {stops === null ? "" : zoneThirds(before)}
        </span>
        <span className="w-9 font-serif text-[15px]" title="Zone on which it prints">
          {stops === null ? "outside" : zoneThirds(zone)}
        </span>
        <span className="text-quiet min-w-0">
          {clipped === "white"
            ? "bare paper"
            : clipped === "black"
              ? "deepest black"
              : spot.placed
                ? `placed on ${zoneThirds(spot.zone)}`
                : "read"}
          {family && <span className="block truncate text-[12px] leading-tight">{family}</span>}
        </span>
      </button>
      <button
        className="text-quiet cursor-pointer self-center"
        aria-label={`Take spot ${number} away`}
        onClick={() => onRemove(spot.id)}
      >
        <X size={13} />
      </button>
    </li>
  );
}
