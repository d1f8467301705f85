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

function read(): [string, SeenMount][] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(stored) ? (stored as [string, SeenMount][]) : [];
  } catch {
    return [];
  }
}

/** What lay around a print when this browser last showed it; undefined when nothing did, or it never has. */
export function mountSeen(printId: string): SeenMount | undefined {
  return read().find(([id]) => id === printId)?.[1];
}

/** @param mount - null where nothing lies around the print. */
export function rememberMount(printId: string, mount: SeenMount | null): void {
  const others = read().filter(([id]) => id !== printId);
  if (mount) others.push([printId, mount]);
  try {
    localStorage.setItem(KEY, JSON.stringify(others.slice(-MOST)));
  } catch {
    // Without storage a print opens bare.
  }
}
