import { expect, test } from "@jest/globals";
import { IDENTITY3, transform3, type Matrix3, type Vector3 } from "../../../colour/matrix.ts";
import { REC709_TO_REC2020 } from "../../../colour/rgb-space.ts";
import { cameraToWorking } from "../../../raw/camera-matrix.ts";
import type { CaptureInfo } from "../../../raw/capture-info.ts";
import { channelValues, factsOf } from "../facts.ts";

const XYZ_TO_CAMERA: Matrix3 = [0.9, -0.25, -0.1, -0.45, 1.25, 0.2, -0.08, 0.18, 0.6];
const NEUTRAL: Vector3 = [0.5, 1, 0.7];
const BARE = { quarterTurns: 0, calibrations: [], neutral: null, noise: null } as unknown as CaptureInfo;
const RAW = { ...BARE, kind: "raw", calibrations: [{ xyzToCamera: XYZ_TO_CAMERA, temperatureK: 5500 }], neutral: NEUTRAL } as CaptureInfo; // prettier-ignore

test.each<[string, CaptureInfo, (channels: Vector3) => Vector3]>([
  ["a JPEG that says nothing", { ...BARE, kind: "jpeg" }, (c) => transform3(REC709_TO_REC2020, c)],
  ["one in the working space", { ...BARE, kind: "png", toWorking: IDENTITY3 }, (c) => c],
  // A channel of the sensor is full at its gain, which is 1 / neutral.
  ["a raw file", RAW, ([r, g, b]) => transform3(cameraToWorking(RAW.calibrations, NEUTRAL), [2 * r, g, b / 0.7])],
])("%s: each channel is full at 1, and none that begins to be is overlooked", (_name, capture, tileColour) => {
  const { toChannels } = factsOf(capture);
  const least = channelValues(toChannels).subarray(9);
  for (let n = 0; n < 27; n++) {
    const channels = [n % 3, Math.floor(n / 3) % 3, Math.floor(n / 9)].map((k) => [0, 0.61, 1][k]) as unknown as Vector3; // prettier-ignore
    const colour = tileColour(channels);
    transform3(toChannels, colour).forEach((v, c) => expect(v).toBeCloseTo(channels[c], 6));
    if (n > 0) expect(colour.some((v, c) => v > least[c])).toBe(true);
  }
}); // prettier-ignore

test("of no channels none begins to be full", () => {
  expect([...channelValues(null).subarray(9)]).toEqual([Infinity, Infinity, Infinity]);
});
