interface Place {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** What lay around a print when it was last seen, in one unit, outermost first. */
export interface SeenMount {
  readonly sheet: { readonly width: number; readonly height: number };
  readonly picture: Place;
  readonly layers: readonly (Place & { readonly colour: string })[];
}

const KEY = "yelm-mounts";
/** Prints of which it is known; those seen longest ago go. */
const MOST = 200;

type Entry = readonly [printId: string, mount: SeenMount];

function read(): Entry[] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(stored) ? stored.filter(isEntry) : [];
  } catch {
    return [];
  }
}

/** The page that opens reads this before all else: whatever else lies there must not stop it. */
function isEntry(stored: unknown): stored is Entry {
  if (!Array.isArray(stored) || typeof stored[0] !== "string") return false;
  const { sheet, picture, layers } = (stored[1] ?? {}) as Partial<Record<keyof SeenMount, unknown>>;
  const isPlaced = (layer: unknown) => hasNumbers(layer, "x", "y", "width", "height");
  return (
    hasNumbers(sheet, "width", "height") &&
    isPlaced(picture) &&
    Array.isArray(layers) &&
    layers.every((layer) => isPlaced(layer) && typeof (layer as { colour?: unknown }).colour === "string")
  );
}

function hasNumbers(value: unknown, ...keys: readonly string[]): boolean {
  if (typeof value !== "object" || value === null) return false;
  return keys.every((key) => Number.isFinite((value as Readonly<Record<string, unknown>>)[key]));
}

/** What lay around a print when this browser last showed it; undefined when nothing did, or it never has. */
export function mountSeen(printId: string): SeenMount | undefined {
  return read().find(([id]) => id === printId)?.[1];
}

/** @param mount - null where nothing lies around the print. */
export function rememberMount(printId: string, mount: SeenMount | null): void {
  const seen = read();
  const others = seen.filter(([id]) => id !== printId);
  if (mount) others.push([printId, mount]);
  else if (others.length === seen.length) return;
  try {
    localStorage.setItem(KEY, JSON.stringify(others.slice(-MOST)));
  } catch {
    // Without storage a print opens bare.
  }
}
