import { useStore } from "zustand";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import type { SheetProps } from "../station.ts";
import { GROUND_ACTS } from "./acts.ts";
import { CaptureGroup } from "./capture-group.tsx";
import { CleanGroup } from "./clean-group.tsx";
import { ExposureGroup } from "./exposure-group.tsx";
import { FrameGroup } from "./frame-group.tsx";
import { LensGroup } from "./lens-group.tsx";
import { useGroundMeasured } from "./measured.ts";
import { NoiseGroup } from "./noise-group.tsx";
import { WhiteBalanceGroup } from "./white-balance.tsx";

/** Ground: the colour file made right before it is weighed. */
export function GroundStation({ negative }: SheetProps) {
  const { tool } = useStore(benchView);
  const answer = useGroundMeasured();
  useAct({
    ...GROUND_ACTS["tool-done"],
    enabled: tool !== "look",
    run: () => benchView.setState({ tool: "look" }),
  });
  return (
    <>
      <ExposureGroup negative={negative} proposal={answer.data?.proposal ?? null} />
      <NoAnswer answer={answer} what="The light" />
      <WhiteBalanceGroup negative={negative} trace={answer.data?.trace ?? []} />
      <FrameGroup negative={negative} />
      <CleanGroup negative={negative} />
      <LensGroup negative={negative} />
      <NoiseGroup negative={negative} />
      <CaptureGroup negative={negative} />
    </>
  );
}
