import { GROUND_ACTS } from "./acts.ts";
import { formatStops, type ExposureProposal, type Negative } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useAct } from "../../keys/acts.ts";
import { asStops } from "../../controls/formats.ts";
import { GROUND } from "../../controls/lenses.ts";

/** A share of saturated sites that is worth a word. */
const SEEN = 5e-5;

/** Exposure, what the capture holds beyond white, and the exposure that suits the picture with its reason. */
export function ExposureGroup({ negative, proposal }: { negative: Negative; proposal: ExposureProposal | null }) {
  const { value: ground, amount, change } = useLens(GROUND);
  const { clipped, headroomStops } = negative.capture;
  const take = () => proposal && change("Exposure proposed", { exposureEv: proposal.exposureEv });
  useAct({ ...GROUND_ACTS["propose"], run: take });
  const taken = proposal !== null && Math.abs(proposal.exposureEv - ground.exposureEv) < 0.01;
  return (
    <Group
      title="Light"
      aside={
        proposal && !taken ? (
          <button className="act" onClick={take}>
            Take {formatStops(proposal.exposureEv)} <kbd>J</kbd>
          </button>
        ) : undefined
      }
    >
      <Amount {...amount("exposureEv", "Exposure")} step={1 / 6} format={asStops} />
      {proposal && <p className="text-quiet pt-1">{proposal.reason}</p>}
      {clipped && (
        <p className="text-quiet pt-1" data-testid="headroom">
          {saturated(clipped)}
          {headroomStops > 0.05 &&
            clipped.some((share) => share > SEEN) &&
            ` Up to ${headroomStops.toFixed(1)} stops beyond white are measured: lower the exposure to print them.`}
        </p>
      )}
    </Group>
  );
}

function saturated(clipped: readonly number[]): string {
  const names = ["red", "green", "blue"];
  const parts = clipped
    .map((share, i) => (share > SEEN ? `${names[i]} ${share < 0.001 ? "<0.1" : (100 * share).toFixed(1)} %` : null))
    .filter(Boolean);
  return parts.length > 0 ? `Saturated in the capture: ${parts.join(", ")}.` : "Nothing is saturated in the capture.";
}
