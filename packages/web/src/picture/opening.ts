import { surroundColour, type Look } from "../theme/theme.ts";

/** What the server has of a print as a small picture; nothing is made for it. */
export const keptThumbnail = (printId: string) => `/api/prints/${printId}/kept-thumbnail`;

/**
 * A bench that is not open yet: its frame, and the print as it was last seen small where it will lie. Plain elements, so that a page that
 * has not read its own code can show it, too.
 * @param picture - address of the small picture.
 */
export function openingBench(picture: string, look: Look): HTMLElement {
  const bench = document.createElement("div");
  bench.className = "bench bench-opening";
  const place = document.createElement("div");
  place.style.background = surroundColour(look);
  const image = new Image();
  image.alt = "";
  image.dataset.testid = "stand-in";
  image.decoding = "sync";
  image.src = picture;
  place.append(image);
  bench.append(...["header", "nav", "main"].map((name) => document.createElement(name)), place, document.createElement("aside"), document.createElement("footer")); // prettier-ignore
  return bench;
}
