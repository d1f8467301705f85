import { MARGIN } from "./placement.ts";
import { surroundColour, type Look } from "../theme/theme.ts";

/** What the server has of a print as a small picture; nothing is made for it. */
export const keptThumbnail = (printId: string) => `/api/prints/${printId}/kept-thumbnail`;

let standing: { readonly picture: string; readonly bench: HTMLElement } | undefined;

/**
 * A bench that is not open yet: its frame, and the print as it was last seen small where it will lie. Plain elements, so that a page that
 * has not read its own code can show it, too. The same ones until the bench {@link openingOver | is open}: whoever asks moves them to where
 * they belong, and the small picture is not read again.
 * @param picture - address of the small picture.
 */
export function openingBench(picture: string, look: Look): HTMLElement {
  if (standing?.picture !== picture) standing = { picture, bench: made(picture, look) };
  return standing.bench;
}

/** The bench stands; the next one that opens is another. */
export function openingOver(): void {
  standing = undefined;
}

function made(picture: string, look: Look): HTMLElement {
  const element = (name: string) => document.createElement(name);
  const bench = element("div");
  bench.className = "bench bench-opening";
  const place = element("div");
  place.style.background = surroundColour(look);
  place.style.setProperty("--margin", `${MARGIN}px`);
  const image = new Image();
  image.alt = "";
  image.dataset.testid = "stand-in";
  image.decoding = "sync";
  image.src = picture;
  place.append(image);
  bench.append(element("header"), element("nav"), element("main"), place, element("aside"), element("footer"));
  return bench;
}
