/** Stations that have something to offer so far, in the order of the work. */
export const OFFERED = ["Ground", "Weigh", "Shape", "Light", "Finish", "Deliver"] as const;
export type OfferedStation = (typeof OFFERED)[number];
