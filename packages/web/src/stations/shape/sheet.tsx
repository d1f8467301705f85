import { useHistograms } from "../../instruments/use-histograms.ts";
import { CharacteristicGroup } from "./characteristic-group.tsx";
import { PointsGroup } from "./points-group.tsx";
import { OpenGroup, SpaceGroups } from "./space-groups.tsx";
import { SpotsGroup } from "./spots-group.tsx";

/** Shape: the ends of the scale, its middle, what is opened and placed, its characteristic, and contrast in space. */
export function ShapeStation() {
  const { histograms } = useHistograms();
  return (
    <>
      <PointsGroup />
      <OpenGroup />
      <SpotsGroup />
      <CharacteristicGroup histograms={histograms} />
      <SpaceGroups />
    </>
  );
}
