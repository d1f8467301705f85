import { lightToStops, SENSOR_WHITE_STOPS } from "../../colour/stops.ts";

/** An exposure that suits a picture, with its reason. */
export interface ExposureProposal {
  readonly exposureEv: number;
  readonly reason: string;
}

/** Room left under white for the lightest hundredth, stops. */
const ROOM = 0.25;
/** Where the middle of the picture may lie at most after it was raised, stops from Zone V. */
const HIGHEST_MIDDLE = 0.3;
const LARGEST_EV = 4;

/**
 * Proposes an exposure: the lightest hundredth of the picture a little under white, unless that would make the middle of
 * the picture lighter than middle grey asks for.
 * @param light - plain luminance of the picture without exposure, 1.0 = sensor white; whole frame, some ten thousand values.
 * @param headroomStops - how far beyond sensor white the capture still measured.
 */
export function proposeExposure(light: Float32Array, headroomStops: number): ExposureProposal {
  const sorted = Float32Array.from(light).sort();
  const at = (share: number) => lightToStops(sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]);
  const high = at(0.99);
  const middle = at(0.5);
  const toWhite = SENSOR_WHITE_STOPS - ROOM - high;
  const toMiddle = HIGHEST_MIDDLE - middle;
  const round = (ev: number) => Math.round(6 * Math.min(LARGEST_EV, Math.max(-LARGEST_EV, ev))) / 6 || 0;
  const words = (stops: number) => `${Math.abs(stops).toFixed(1)} stops`;
  if (high > SENSOR_WHITE_STOPS) {
    const exposureEv = round(Math.max(-headroomStops, SENSOR_WHITE_STOPS - high));
    if (exposureEv === 0)
      return { exposureEv, reason: "The lights reach white already, and nothing beyond it was measured." };
    return {
      exposureEv,
      reason: `The lights go ${words(high - SENSOR_WHITE_STOPS)} beyond white, and the capture still measured them there.`,
    };
  }
  if (toWhite <= 1 / 12)
    return { exposureEv: 0, reason: "The lightest hundredth lies just under white: the exposure is right as it is." };
  if (toMiddle < toWhite) {
    const exposureEv = round(Math.max(0, toMiddle));
    const side = `${words(middle)} ${middle < 0 ? "below" : "above"} Zone V`;
    const where = `The middle of the picture lies ${Math.abs(middle) < 0.1 ? "on Zone V" : side}`;
    if (exposureEv === 0) return { exposureEv, reason: `${where}; raised further it would look washed out.` };
    return {
      exposureEv,
      reason: `${where}; this brings it a little above, and the lights stay ${words(toWhite - exposureEv + ROOM)} under white.`,
    };
  }
  return {
    exposureEv: round(toWhite),
    reason: `The lightest hundredth lies ${words(toWhite + ROOM)} under white, so there is room.`,
  };
}
