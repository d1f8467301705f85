import type { Size } from "../../maths/rect.ts";
import { wholeCrop } from "./geometry.ts";
import type { Crop, Ground } from "./schema.ts";

/** Edge of the smallest crop that is made by hand, long edges. */
const SMALLEST = 0.04;

/** Keeps a crop inside the straightened picture and not too small. */
export function fitCrop(crop: Crop, limit: Crop): Crop {
  const width = Math.min(limit.width, Math.max(SMALLEST, crop.width));
  const height = Math.min(limit.height, Math.max(SMALLEST, crop.height));
  const inside = (centre: number, length: number, whole: number) =>
    Math.min((whole - length) / 2, Math.max((length - whole) / 2, centre));
  return {
    width,
    height,
    centreX: inside(crop.centreX, width, limit.width),
    centreY: inside(crop.centreY, height, limit.height),
  };
}

/** The largest crop of a ratio about the present crop's centre. */
export function cropToRatio(negative: Size, ground: Ground, ratio: number): Crop {
  const limit = wholeCrop(negative, ground);
  const width = Math.min(limit.width, limit.height * ratio);
  const { centreX, centreY } = ground.crop ?? limit;
  return fitCrop({ centreX, centreY, width, height: width / ratio }, limit);
}
