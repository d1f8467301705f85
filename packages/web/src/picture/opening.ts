import { keptPicture } from "./kept-pictures.ts";
import type { SeenMount } from "./mounts-seen.ts";
import { MARGIN } from "./placement.ts";
import { surroundColour, type Look } from "../theme/theme.ts";

/** What the server has of a print as a small picture; nothing is made for it. */
export const keptThumbnail = (printId: string) => `/api/prints/${printId}/kept-thumbnail`;

let standing: { readonly picture: string; readonly bench: HTMLElement; readonly small: Element } | undefined;

/**
 * A bench that is not open yet: its frame, and the print as it was last seen small where it will lie, then as this browser has kept it, if
 * it has. Plain elements, so that a page that has not read its own code can show it, too. The same ones until the bench
 * {@link openingOver | is open}: whoever asks moves them to where they belong, and the small picture is not read again.
 * @param picture - address of the small picture.
 * @param mount - what lies around it, if anything.
 */
export function openingBench(printId: string, picture: string, look: Look, mount?: SeenMount): HTMLElement {
  if (standing?.picture !== picture) {
    const { bench, small, put } = made(picture, look, mount);
    standing = { picture, bench, small };
    // What a roll shows is newer than what was kept, or the same.
    const isOldest = picture === keptThumbnail(printId);
    void keptPicture(printId).then((kept) => kept && isOldest && put(kept.image.src));
  }
  return standing.bench;
}

/** Long edge of the print on a bench that is not open yet, CSS pixels; 0 where none is seen. */
export function openingEdge(): number {
  const { width = 0, height = 0 } = standing?.small.getBoundingClientRect() ?? {};
  return Math.max(width, height);
}

/** The bench stands; the next one that opens is another. */
export function openingOver(): void {
  standing = undefined;
}

/** A place for a picture, and how to put another into it. */
interface Shown {
  readonly shown: Element;
  /** The picture itself, without what lies around it. */
  readonly small: Element;
  readonly put: (picture: string) => void;
}

function made(picture: string, look: Look, mount?: SeenMount): Omit<Shown, "shown"> & { bench: HTMLElement } {
  const element = (name: string) => document.createElement(name);
  const bench = element("div");
  bench.className = "bench bench-opening";
  const place = element("div");
  place.style.background = surroundColour(look);
  place.style.setProperty("--margin", `${MARGIN}px`);
  const { shown, small, put } = mount ? mounted(picture, mount) : bare(picture);
  place.append(shown);
  bench.append(element("header"), element("nav"), element("main"), place, element("aside"), element("footer"));
  return { bench, small, put };
}

function bare(picture: string): Shown {
  const image = new Image();
  image.alt = "";
  image.dataset.testid = "stand-in";
  image.decoding = "sync";
  image.src = picture;
  const put = (kept: string) => {
    image.dataset.kept = "";
    image.src = kept;
  };
  return { shown: image, small: image, put };
}

function mounted(picture: string, { sheet, picture: at, layers }: SeenMount): Shown {
  const element = (name: string, attributes: Readonly<Record<string, string | number>>) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, String(value));
    return made;
  };
  const { x, y, width, height } = at;
  const whole = element("svg", { viewBox: `0 0 ${sheet.width} ${sheet.height}` });
  const small = element("image", { x, y, width, height, href: picture, preserveAspectRatio: "none" });
  small.dataset.testid = "stand-in";
  // A mat with nothing on it would be no print.
  whole.style.visibility = "hidden";
  small.addEventListener("load", () => (whole.style.visibility = "visible"));
  whole.append(...layers.map(({ colour, ...place }) => element("rect", { ...place, fill: colour })), small);
  const put = (kept: string) => {
    small.dataset.kept = "";
    small.setAttribute("href", kept);
  };
  return { shown: whole, small, put };
}
