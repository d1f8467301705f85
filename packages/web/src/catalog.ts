import type { Station } from "@yelm/core";
import { BENCH_ACTS, stationAct } from "./bench/acts.ts";
import type { ActFacts } from "./keys/act-facts.ts";
import { SCREEN_ACTS } from "./screens/acts.ts";
import { SHELL_ACTS } from "./shell/acts.ts";
import type { Findable } from "./stations/station.ts";
import { STATION_DEFS } from "./stations/stations.ts";

/** An act, and the station that offers it; null when it belongs to no station. */
export interface CataloguedAct extends ActFacts {
  readonly station: Station | null;
}

/** A control of a station, by its name. */
export interface CataloguedControl extends Findable {
  readonly station: Station;
}

const of = (acts: Readonly<Record<string, ActFacts>>, station: Station | null = null): CataloguedAct[] =>
  Object.values(acts).map((act) => ({ ...act, station }));

/** Every act there is, whatever is open at present. */
export const EVERY_ACT: readonly CataloguedAct[] = [
  ...of(SHELL_ACTS),
  ...STATION_DEFS.map(({ name }) => ({ ...stationAct(name), station: null })),
  ...of(BENCH_ACTS),
  ...STATION_DEFS.flatMap(({ name, acts }) => of(acts, name)),
  ...of(SCREEN_ACTS),
];

/** Every control of every station. */
export const EVERY_CONTROL: readonly CataloguedControl[] = STATION_DEFS.flatMap(({ name, controls }) =>
  controls.map((control) => ({ ...control, station: name })),
);
