import type { Frame, Size } from "@yelm/core";

/** How the picture lies in its pane. `zoom` is "fit" or device pixels per picture pixel; the centre counts in frame shares. */
export interface Zoom {
  readonly zoom: "fit" | number;
  readonly centreX: number;
  readonly centreY: number;
}

export const FIT: Zoom = { zoom: "fit", centreX: 0.5, centreY: 0.5 };
export const ZOOM_STEPS = [0.25, 0.5, 1, 2] as const;
const MARGIN = 18;

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

/** Works out where everything is. The picture never leaves the pane: a small one is centred, a large one covers it. */
export function place(frame: Frame, pane: Size, dpr: number, { zoom, centreX, centreY }: Zoom): Placement {
  const scale = zoom === "fit" ? fitScale(frame, pane, dpr) : zoom;
  const width = Math.max(1, Math.round(frame.width * scale));
  const height = Math.max(1, Math.round(frame.height * scale));
  const left = along(width, Math.round(pane.width * dpr), centreX);
  const top = along(height, Math.round(pane.height * dpr), centreY);
  const x = Math.max(0, -left);
  const y = Math.max(0, -top);
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
