import type { Rect, Size } from "../../maths/rect.ts";
import { lightnessToLuminance } from "../../colour/lab.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { printColour } from "./print-colour.ts";
import type { Finish, Mount } from "./schema.ts";

/** A print as it lies on its sheet. Whole pixels of the picture's own scale. */
export interface MountLayout {
  readonly sheet: Size;
  /** Place of the picture on the sheet. */
  readonly picture: Rect;
  /** What lies around it, outermost first; each covers what it lies on. */
  readonly layers: readonly (Rect & { readonly part: "mat" | "line" | "border" })[];
  /** Middle of the caption's line and the height of its letters; null where there is none. */
  readonly caption: { readonly x: number; readonly y: number; readonly height: number } | null;
}

/** Whether anything lies around the picture. */
export function isMounted({ border, line, mat, room }: Mount): boolean {
  return border > 0 || line > 0 || mat > 0 || room > 0;
}

/** How a picture of some size lies on its sheet. All widths are shares of the picture's long edge. */
export function mountLayout(mount: Mount, { width, height }: Size): MountLayout {
  const px = (share: number) => Math.round(share * Math.max(width, height));
  const [border, line, mat, room] = [mount.border, mount.line, mount.mat, mount.room].map(px);
  const more = (side: Mount["roomAt"]) => (mount.roomAt === side ? room : 0);
  const edge = mat + line + border;
  const picture = { x: edge + more("left"), y: edge + more("above"), width, height };
  const sheet = {
    width: width + 2 * edge + more("left") + more("right"),
    height: height + 2 * edge + more("above") + more("below"),
  };
  const around = (by: number) => ({
    x: picture.x - by,
    y: picture.y - by,
    width: width + 2 * by,
    height: height + 2 * by,
  });
  const layers = [
    mat + room > 0 && { part: "mat" as const, x: 0, y: 0, ...sheet },
    line > 0 && { part: "line" as const, ...around(border + line) },
    border > 0 && { part: "border" as const, ...around(border) },
  ].filter((layer) => layer !== false);
  return { sheet, picture, layers, caption: captionPlace(mount, sheet, picture, px(mount.captionSize)) };
}

/** The caption lies in the middle of what room there is: the room for text, else what is below the picture. */
function captionPlace(
  { caption, roomAt, room }: Mount,
  sheet: Size,
  picture: Rect,
  height: number,
): MountLayout["caption"] {
  if (caption.trim() === "" || height < 1) return null;
  const side = room > 0 ? roomAt : "below";
  const middleX = picture.x + picture.width / 2;
  const middleY = picture.y + picture.height / 2;
  if (side === "above") return { x: middleX, y: picture.y / 2, height };
  if (side === "left") return { x: picture.x / 2, y: middleY, height };
  const rightOf = picture.x + picture.width;
  if (side === "right") return { x: (rightOf + sheet.width) / 2, y: middleY, height };
  const below = picture.y + picture.height;
  return sheet.height - below < height ? null : { x: middleX, y: (below + sheet.height) / 2, height };
}

/** Linear Rec.709 of a part of the mount. */
export function mountColour(finish: Finish, part: "mat" | "line" | "border" | "caption"): Vector3 {
  const { mount } = finish;
  // Letters are dark on a light mat and light on a dark one.
  const lightness = {
    mat: mount.matLightness,
    line: mount.lineLightness,
    border: mount.borderLightness,
    caption: (mount.mat + mount.room > 0 ? mount.matLightness : mount.borderLightness) > 50 ? 25 : 85,
  }[part];
  const light = lightnessToLuminance(lightness);
  return mount.toned ? printColour(light, finish) : [light, light, light];
}

/** A line of text as curves, in units of its letters' height (the em); the baseline is y = 0, y goes down. */
export interface CaptionOutline {
  /** SVG path. */
  readonly path: string;
  readonly width: number;
  /** How far capital letters reach above the baseline. */
  readonly capHeight: number;
}

/** Where a caption's line begins, and by how much its outline is enlarged: it lies in the middle, and never wider than the sheet. */
export function captionTransform(
  outline: CaptionOutline,
  { sheet, caption }: MountLayout,
): { readonly scale: number; readonly left: number; readonly baseline: number } | null {
  if (!caption) return null;
  const { x, y, height } = caption;
  const scale = Math.min(
    height / outline.capHeight,
    (0.94 * 2 * Math.min(x, sheet.width - x)) / Math.max(1e-6, outline.width),
  );
  return { scale, left: x - (scale * outline.width) / 2, baseline: y + (scale * outline.capHeight) / 2 };
}
