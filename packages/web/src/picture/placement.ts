import type { Frame, MountLayout, Size } from "@yelm/core";

/** How the picture lies in its pane. `zoom` is "fit" or device pixels per picture pixel; the centre counts in frame shares. */
export interface Zoom {
  readonly zoom: "fit" | number;
  readonly centreX: number;
  readonly centreY: number;
}

export const FIT: Zoom = { zoom: "fit", centreX: 0.5, centreY: 0.5 };
export const ZOOM_STEPS = [0.25, 0.5, 1, 2] as const;
/** About the whole picture in its pane, CSS pixels. */
export const MARGIN = 18;

/** The picture's place on screen, in CSS pixels of the pane, with the part of it to render in device pixels. */
export interface Placement {
  /** Device pixels per frame pixel. */
  readonly scale: number;
  readonly dpr: number;
  /** Corner and size of the whole picture, device pixels in the pane. */
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
  /** Visible part, device pixels of the scaled picture. */
  readonly visible: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
}

/** Scale at which the whole frame fits into the pane. */
export function fitScale(frame: Size, pane: Size, dpr: number): number {
  const width = Math.max(16, pane.width - 2 * MARGIN);
  const height = Math.max(16, pane.height - 2 * MARGIN);
  return Math.min((width * dpr) / frame.width, (height * dpr) / frame.height, 2);
}

/**
 * Works out where everything is. The picture, with what is mounted around it, never leaves the pane: what is small is centred,
 * what is large covers it.
 * @param mount - how the frame lies on its sheet; null where there is nothing around it.
 */
export function place(
  frame: Frame,
  pane: Size,
  dpr: number,
  { zoom, centreX, centreY }: Zoom,
  mount: MountLayout | null = null,
): Placement {
  const scale = zoom === "fit" ? fitScale(mount?.sheet ?? frame, pane, dpr) : zoom;
  const width = Math.max(1, Math.round(frame.width * scale));
  const height = Math.max(1, Math.round(frame.height * scale));
  const before = [mount?.picture.x ?? 0, mount?.picture.y ?? 0].map((length) => Math.round(length * scale));
  const sheet = mount
    ? [mount.sheet.width, mount.sheet.height].map((length) => Math.round(length * scale))
    : [width, height];
  const left = before[0] + along(sheet[0], Math.round(pane.width * dpr), (before[0] + centreX * width) / sheet[0]);
  const top = before[1] + along(sheet[1], Math.round(pane.height * dpr), (before[1] + centreY * height) / sheet[1]);
  const x = Math.min(width - 1, Math.max(0, -left));
  const y = Math.min(height - 1, Math.max(0, -top));
  const visible = {
    x,
    y,
    width: Math.max(1, Math.min(width, Math.round(pane.width * dpr) - left) - x),
    height: Math.max(1, Math.min(height, Math.round(pane.height * dpr) - top) - y),
  };
  return { scale, dpr, left, top, width, height, visible };
}

function along(length: number, pane: number, centre: number): number {
  if (length <= pane) return Math.round((pane - length) / 2);
  return Math.round(Math.min(0, Math.max(pane - length, pane / 2 - centre * length)));
}

/** Pane point (CSS pixels) → frame pixel coordinates, full size. */
export function paneToFrame({ left, top, scale, dpr }: Placement, x: number, y: number): [number, number] {
  return [(x * dpr - left) / scale, (y * dpr - top) / scale];
}

/** Frame pixel coordinates → pane point, CSS pixels. */
export function frameToPane({ left, top, scale, dpr }: Placement, x: number, y: number): [number, number] {
  return [(x * scale + left) / dpr, (y * scale + top) / dpr];
}
