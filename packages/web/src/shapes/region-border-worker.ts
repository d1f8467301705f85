import { regionBorder, type BorderedCells } from "./region-border.ts";

/** Looks for the borders of regions, so that the page's own thread need not. */
self.onmessage = ({ data }: MessageEvent<BorderedCells & { readonly id: number }>) => {
  self.postMessage({ id: data.id, path: regionBorder(data) });
};
