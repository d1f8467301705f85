import { isGrey, printColour } from "../parts/finish/print-colour.ts";
import { grainFilter, type GrainFilter } from "../parts/finish/grain.ts";
import type { Finish } from "../parts/finish/schema.ts";
import { REC2020_TO_REC709 } from "../colour/rgb-space.ts";
import { SRGB_TRANSFER, type Transfer } from "../colour/transfer.ts";
import type { Vector3 } from "../colour/matrix.ts";
import { bakeCodeTable, bakeLightTable } from "../kernels/light-table.ts";
import type { Size } from "../maths/rect.ts";
import type { NegativeFacts } from "../parts/ground/facts.ts";
import type { LightPrint } from "../parts/light/print.ts";
import type { ShapePrint } from "../parts/shape/part.ts";
import type { WeighPrint } from "../parts/weigh/print.ts";
import { PARTS } from "../recipe/parts.ts";
import type { Recipe } from "../recipe/schema.ts";

/** A recipe made ready for one negative: tables baked, geometry solved, shapes measured. */
export interface PreparedPrint extends WeighPrint, ShapePrint, LightPrint {
  readonly recipe: Recipe;
  readonly frame: WeighPrint["frame"];
}

/** Prepares prints; the last results of costly preparations are kept, by the recipe parts they read. */
export class Preparer {
  readonly #kept = new Map<string, { key: string; value: unknown }>();

  prepare(recipe: Recipe, negative: Size, facts: NegativeFacts): PreparedPrint {
    const source = { recipe, negative, facts };
    return PARTS.reduce(
      (print, part) => ({ ...print, ...part.prepare(print, (...of) => this.#keep(...of)) }),
      source,
    ) as PreparedPrint;
  }

  /** Tables reflectance → code 0–1 for red, green, blue; the three are one and the same when the print is neutral. */
  encodeTables(finish: Finish, transfer: Transfer, name: string, atEdge = false): Float32Array[] {
    return this.#keep(`encode ${name} ${atEdge}`, coloursOf(finish), () => encodeTables(finish, transfer, atEdge));
  }

  /** The same without its tone. */
  plainEncodeTables(finish: Finish, transfer: Transfer, name: string): Float32Array[] {
    return this.encodeTables(untoned(finish), transfer, `${name} untoned`);
  }

  /** The same for the screen: packed for the kernel that also lays on grain and dithers. */
  codeTable(finish: Finish, transfer: Transfer, name: string, atEdge = false): Int16Array {
    return this.#keep(`codes ${name} ${atEdge}`, coloursOf(finish), () =>
      bakeCodeTable((r) => {
        const [red, green, blue] = printColour(r, finish, atEdge);
        return [255 * transfer.encode(red), 255 * transfer.encode(green), 255 * transfer.encode(blue)];
      }),
    );
  }

  /** The same without its tone. */
  plainCodeTable(finish: Finish, transfer: Transfer, name: string): Int16Array {
    return this.codeTable(untoned(finish), transfer, `${name} untoned`);
  }

  grainFilter(grain: Finish["grain"], pixelUm: number): GrainFilter {
    const { crystalUm, granularity } = grain;
    return this.#keep("grain", [crystalUm, granularity, pixelUm], () => grainFilter(grain, pixelUm));
  }

  #keep<T>(name: string, reads: unknown, make: () => T): T {
    const key = JSON.stringify(reads);
    const known = this.#kept.get(name);
    if (known?.key === key) return known.value as T;
    const value = make();
    this.#kept.set(name, { key, value });
    return value;
  }
}

/** Matrix and table that show the negative's own colours on an sRGB screen. */
export const COLOUR_MATRIX = Float32Array.from(REC2020_TO_REC709);
export const colourTable = (): Float32Array => bakeLightTable((v) => SRGB_TRANSFER.encode(Math.min(1, v)));

const coloursOf = ({ toning, wear, tables }: Finish) => ({ toning, wear, tables });

/** A finish without what gives a print its tone. */
const untoned = (finish: Finish): Finish => ({ ...finish, toning: { ...finish.toning, on: false }, tables: [] });

function encodeTables(finish: Finish, transfer: Transfer, atEdge: boolean): Float32Array[] {
  if (isGrey(finish)) {
    const table = bakeLightTable((r) => transfer.encode(printColour(Math.min(1, r), finish, atEdge)[0]));
    return [table, table, table];
  }
  const channels = [0, 1, 2].map(() => [] as number[]);
  const colours = new Map<number, Vector3>();
  bakeLightTable((r) => {
    const colour = printColour(Math.min(1, r), finish, atEdge);
    colours.set(r, colour);
    return 0;
  });
  return channels.map((_, c) => bakeLightTable((r) => transfer.encode(colours.get(r)![c])));
}
