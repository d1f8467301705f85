import type { Negative } from "@yelm/core";
import { useStore } from "zustand";
import { useGroundMeasured } from "../bench/ground-measured.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import type { RenderPool } from "../picture/render-pool.ts";
import { CaptureGroup } from "./capture-group.tsx";
import { CleanGroup } from "./clean-group.tsx";
import { ExposureGroup } from "./exposure-group.tsx";
import { FrameGroup } from "./frame-group.tsx";
import { LensGroup } from "./lens-group.tsx";
import { NoiseGroup } from "./noise-group.tsx";
import { WhiteBalanceGroup } from "./white-balance.tsx";

/** Ground: the colour file made right before it is weighed. */
export function GroundStation({ negative, pool }: { negative: Negative; pool: RenderPool }) {
  const { tool } = useStore(benchView);
  const measured = useGroundMeasured(pool);
  useAct({
    id: "tool-done",
    label: "Leave the tool",
    group: "Print",
    keys: "enter,escape",
    enabled: tool !== "look",
    run: () => benchView.setState({ tool: "look" }),
  });
  return (
    <>
      <ExposureGroup negative={negative} proposal={measured?.proposal ?? null} />
      <WhiteBalanceGroup negative={negative} trace={measured?.trace ?? []} />
      <FrameGroup negative={negative} />
      <CleanGroup negative={negative} pool={pool} />
      <LensGroup negative={negative} pool={pool} />
      <NoiseGroup negative={negative} />
      <CaptureGroup negative={negative} />
    </>
  );
}
