import type { Vector3 } from "../../colour/matrix.ts";
import { SRGB_TRANSFER } from "../../colour/transfer.ts";
import { MOST_NODES, type GreyTable } from "../../encode/cube.ts";
import type { Finish, Toning, Wear } from "./schema.ts";
import { isGreyTable, throughTables } from "./tables.ts";
import { isNeutral, tonedColour } from "./toning.ts";

/** Light that a wholly faded black gives, and the share that a wholly faded white keeps. */
const FADED = { black: 0.045, white: 0.78 } as const;
/** Tint of wholly yellowed paper, OKLab. */
const YELLOWED = { hueDegrees: 86, chroma: 0.05 } as const;
/** Where the wear of the edges begins, as edge burn says it, and its shape. */
export const WORN_EDGE = { start: 0.55, roundness: 0.35 } as const;

/** Whether a print shows greys only. */
export function isGrey({ toning, wear, tables }: Finish): boolean {
  return isNeutral(toning) && tables.every(isGreyTable) && !(wear.yellow > 0 && (wear.fade > 0 || wear.edges > 0));
}

/**
 * Print reflectance → linear Rec.709 of the print as it is seen: worn, toned, and through its tables.
 * @param atEdge - whether at the very edge, where an old print is worn most.
 */
export function printColour(reflectance: number, { toning, wear, tables }: Finish, atEdge = false): Vector3 {
  const age = ageOf(wear, atEdge);
  if (age === 0) return throughTables(tonedColour(reflectance, toning), tables);
  const white = 1 - age * (1 - FADED.white);
  const black = age * FADED.black;
  const worn = white * (black + (1 - black) * reflectance);
  return throughTables(tonedColour(worn, yellowed(toning, wear.yellow * age)), tables);
}

const ageOf = ({ fade, edges }: Wear, atEdge: boolean) => (atEdge ? fade + (1 - fade) * edges : fade);

/** Toning on paper that has yellowed. */
function yellowed(toning: Toning, share: number): Toning {
  if (share === 0) return toning;
  const bare: Toning = toning.on
    ? toning
    : {
        ...toning,
        on: true,
        toner: "none",
        second: "none",
        darks: { ...toning.darks, chroma: 0 },
        lights: { ...toning.lights, chroma: 0 },
        paper: { ...toning.paper, chroma: 0 },
      };
  const ends = [
    { ...bare.paper, chroma: bare.paper.chroma },
    { ...YELLOWED, chroma: YELLOWED.chroma * share },
  ];
  let [a, b] = [0, 0];
  for (const { hueDegrees, chroma } of ends) {
    a += chroma * Math.cos((hueDegrees * Math.PI) / 180);
    b += chroma * Math.sin((hueDegrees * Math.PI) / 180);
  }
  const hueDegrees = (360 + (Math.atan2(b, a) * 180) / Math.PI) % 360;
  return { ...bare, paper: { hueDegrees, chroma: Math.hypot(a, b) } };
}

/**
 * How far a place counts as the edge, 0–1; places go from −1 to 1 over the frame.
 */
export function wornShare(u: number, v: number): number {
  const square = Math.max(Math.abs(u), Math.abs(v));
  const round = Math.hypot(u, v) * Math.SQRT1_2;
  const d = square + WORN_EDGE.roundness * (round - square);
  const t = Math.min(1, Math.max(0, (d - WORN_EDGE.start) / (1 - WORN_EDGE.start)));
  return t * t * (3 - 2 * t);
}

/** What a print makes of every grey, as a table that can be written to a file. */
export function tableOf(finish: Finish, title: string): GreyTable {
  const values = Array.from({ length: MOST_NODES }, (_, k) => {
    const light = SRGB_TRANSFER.decode(k / (MOST_NODES - 1));
    return printColour(light, finish).map((v) => SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v))));
  });
  return { title, values: values.flat() };
}
