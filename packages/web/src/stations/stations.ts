import { STATIONS, type Station } from "@yelm/core";
import { deliver } from "./deliver/station.ts";
import { finish } from "./finish/station.ts";
import { ground } from "./ground/station.ts";
import { intend } from "./intend/station.ts";
import { judge } from "./judge/station.ts";
import { light } from "./light/station.ts";
import { shape } from "./shape/station.ts";
import type { StationDef } from "./station.ts";
import { weigh } from "./weigh/station.ts";

/** The stations that there are, in the order of the work. A new one is a folder and a line here. */
export const STATION_DEFS: readonly StationDef[] = [intend, ground, weigh, shape, light, finish, judge, deliver];

export function stationDef(name: Station): StationDef | undefined {
  return STATION_DEFS.find((station) => station.name === name);
}

/** A station's fixed number, which is its key. */
export function stationNumber(name: Station): number {
  return STATIONS.indexOf(name) + 1;
}
