import { transform3 } from "@yelm/core";
import { blur } from "./blur.ts";
import { readNoiseElectrons, sceneToCamera, type CameraModel, type Pattern } from "./camera.ts";
import { createNormal, createRandom } from "./random.ts";
import { bilinear, type Scene } from "./scene.ts";

/** How a picture is taken. */
export interface Exposure {
  readonly iso: number;
  /** Stops added to the scene's light; 0 puts 1.0 of a neutral at sensor white. */
  readonly stops: number;
  readonly pattern: Pattern;
  readonly seed: number;
  /** Light lost in the corners, stops (cos⁴-like). */
  readonly fallOffStops: number;
  /** Lens blur, standard deviation in pixels. */
  readonly blurPx: number;
  /** Radial distortion k1: positive is barrel. */
  readonly distortion: number;
  /** Specks of dust on the sensor, placed by the seed. */
  readonly dust: number;
  /** Photon and read noise and hot pixels; false gives the noiseless truth. */
  readonly noise: boolean;
}

export const PLAIN_EXPOSURE: Exposure = {
  iso: 100,
  stops: 0,
  pattern: "RGGB",
  seed: 1,
  fallOffStops: 0,
  blurPx: 0,
  distortion: 0,
  dust: 0,
  noise: true,
};

/** A raw frame: one code for each sensor site. */
export interface RawFrame {
  readonly width: number;
  readonly height: number;
  readonly data: Uint16Array;
  readonly white: number;
}

/**
 * Photographs a scene: lens, colour filters, photon noise, read noise, gain, black level, saturation, hot pixels.
 * Sensor white (saturation) stands for light 1.0 in the strongest channel of a neutral.
 */
export function expose(scene: Scene, camera: CameraModel, exposure: Exposure): RawFrame {
  const { width, height } = scene;
  const seen = { ...scene, rgb: blur(scene.rgb, width, 3, exposure.blurPx) };
  const toCamera = sceneToCamera(camera);
  const normalise = 1 / Math.max(...transform3(toCamera, [1, 1, 1]));
  const white = 2 ** camera.bits - 1;
  const wellAtIso = (camera.fullWell * camera.baseIso) / exposure.iso;
  const readNoise = readNoiseElectrons(camera, exposure.iso);
  const specks = dustSpecks(exposure, width, height);
  const random = createRandom(exposure.seed);
  const normal = createNormal(random);
  const gain = 2 ** exposure.stops * normalise;
  const data = new Uint16Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const channel = "RGB".indexOf(exposure.pattern[2 * (y & 1) + (x & 1)]);
      const light = channelLight(seen, toCamera, channel, x, y, exposure);
      let electrons =
        Math.max(0, light * gain * fallOff(x, y, width, height, exposure.fallOffStops) * shade(specks, x, y)) *
        wellAtIso;
      if (exposure.noise) {
        electrons = poisson(electrons, random, normal) + readNoise * normal();
        if (random() < camera.hotPixels) electrons = wellAtIso * (0.5 + 0.5 * random());
      }
      const black = camera.blackLevel + camera.blackOffsets[2 * (y & 1) + (x & 1)];
      const code = Math.round((electrons / wellAtIso) * (white - black) + black);
      data[y * width + x] = Math.min(white, Math.max(0, code));
    }
  return { width, height, data, white };
}

/** Slope and offset of noise variance over signal, both in units of sensor white: the DNG NoiseProfile. */
export function noiseProfile(camera: CameraModel, iso: number): { slope: number; offset: number } {
  const wellAtIso = (camera.fullWell * camera.baseIso) / iso;
  return { slope: 1 / wellAtIso, offset: (readNoiseElectrons(camera, iso) / wellAtIso) ** 2 };
}

function channelLight(
  scene: Scene,
  m: readonly number[],
  channel: number,
  x: number,
  y: number,
  { distortion }: Exposure,
) {
  const k = 3 * channel;
  if (distortion === 0) {
    const i = 3 * (y * scene.width + x);
    return m[k] * scene.rgb[i] + m[k + 1] * scene.rgb[i + 1] + m[k + 2] * scene.rgb[i + 2];
  }
  const cx = scene.width / 2;
  const cy = scene.height / 2;
  const u = (x + 0.5 - cx) / Math.hypot(cx, cy);
  const v = (y + 0.5 - cy) / Math.hypot(cx, cy);
  // A barrel sees more than the scene holds, so all of it is seen from nearer.
  const stretch = (1 + distortion * (u * u + v * v)) / (1 + Math.max(0, distortion));
  const sx = cx + (x + 0.5 - cx) * stretch - 0.5;
  const sy = cy + (y + 0.5 - cy) * stretch - 0.5;
  return [0, 1, 2].reduce((sum, c) => sum + m[k + c] * bilinear(scene, sx, sy, c), 0);
}

function fallOff(x: number, y: number, width: number, height: number, stops: number): number {
  if (stops === 0) return 1;
  const r2 = ((2 * x + 1 - width) ** 2 + (2 * y + 1 - height) ** 2) / (width ** 2 + height ** 2);
  return 2 ** (-stops * r2);
}

/** A speck of dust: centre and radius in pixels, and the share of light that it takes. */
export interface Speck {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
  readonly loss: number;
}

/** The specks of an exposure, the same for every frame of a seed, as dust stays where it lies. */
export function dustSpecks({ dust, seed }: Exposure, width: number, height: number): Speck[] {
  const random = createRandom(seed + 7919);
  const unit = Math.hypot(width, height) / 1000;
  return Array.from({ length: dust }, () => ({
    x: (0.06 + 0.88 * random()) * width,
    y: (0.05 + 0.5 * random()) * height,
    radius: unit * (1.6 + 2 * random()),
    loss: 0.12 + 0.16 * random(),
  }));
}

function shade(specks: readonly Speck[], x: number, y: number): number {
  let light = 1;
  for (const { x: cx, y: cy, radius, loss } of specks) {
    const d = Math.hypot(x - cx, y - cy) / radius;
    if (d < 2) light *= 1 - loss * Math.exp(-(d ** 4));
  }
  return light;
}

/** Poisson deviate: Knuth's product for few photons, the normal limit for many. */
function poisson(mean: number, random: () => number, normal: () => number): number {
  if (mean > 40) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal()));
  const limit = Math.exp(-mean);
  let count = 0;
  for (let product = random(); product > limit; product *= random()) count++;
  return count;
}
