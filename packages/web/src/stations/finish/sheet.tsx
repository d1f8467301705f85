import type { Negative } from "@yelm/core";
import { EdgesGroup } from "./edges-group.tsx";
import { GrainGroup } from "./grain-group.tsx";
import { LooksGroup } from "./looks-group.tsx";
import { MountGroup } from "./mount-group.tsx";
import { TablesGroup } from "./tables-group.tsx";
import { OutputGroup } from "./output-group.tsx";
import { ToneGroup } from "./tone-group.tsx";

/** Finish: grain, tone, edges and what lies around the picture. */
export function FinishStation({ negative }: { negative: Negative }) {
  return (
    <>
      <LooksGroup />
      <GrainGroup negative={negative} />
      <ToneGroup />
      <TablesGroup />
      <EdgesGroup negative={negative} />
      <MountGroup />
      <OutputGroup />
    </>
  );
}
