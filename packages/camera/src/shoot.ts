import { HALDEN_ONE, type CameraModel } from "./camera.ts";
import { PLAIN_SHOT, writeDng, type ShotMetadata } from "./dng.ts";
import { expose, PLAIN_EXPOSURE, type Exposure } from "./expose.ts";
import type { Scene } from "./scene.ts";

/** Everything about one shot that differs from a plain one. */
export type ShotOptions = Partial<Exposure & ShotMetadata> & { readonly camera?: CameraModel };

/** Photographs a scene and returns the DNG. */
export async function shoot(scene: Scene, { camera = HALDEN_ONE, ...options }: ShotOptions = {}): Promise<Uint8Array> {
  const frame = expose(scene, camera, { ...PLAIN_EXPOSURE, ...options });
  return writeDng(frame, camera, { ...PLAIN_SHOT, ...options }, scene);
}
