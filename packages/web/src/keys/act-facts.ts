/** Where an act is listed: a station, or what it is about. */
export type ActGroup =
  | "Go"
  | "Picture"
  | "Print"
  | "Stations"
  | "Bench"
  | "Roll"
  | "Spread"
  | "Intend"
  | "Ground"
  | "Weigh"
  | "Shape"
  | "Light"
  | "Finish"
  | "Judge"
  | "Deliver";

/** What is known of an act whether it can be done at present or not. */
export interface ActFacts {
  readonly id: string;
  readonly group: ActGroup;
  readonly label: string;
  /** Keys by the characters on them, several separated by spaces, as `combo.ts` reads them. Empty: only by name. */
  readonly keys: string;
  /** Lasts while its key is held. */
  readonly held: boolean;
}

type Row = readonly [group: ActGroup, label: string, keys: string, held?: "held"];

/** Acts by id, from rows of group, label and keys. */
export function facts<T extends Record<string, Row>>(rows: T): { readonly [K in keyof T]: ActFacts } {
  const made = Object.entries(rows).map(([id, [group, label, keys, held]]) => [
    id,
    { id, group, label, keys, held: held !== undefined },
  ]);
  return Object.fromEntries(made) as { readonly [K in keyof T]: ActFacts };
}
