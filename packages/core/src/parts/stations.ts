/** Stations of the bench, by their fixed number and key. */
export const STATIONS = ["Intend", "Ground", "Weigh", "Shape", "Light", "Finish", "Judge", "Deliver"] as const;
export type Station = (typeof STATIONS)[number];
