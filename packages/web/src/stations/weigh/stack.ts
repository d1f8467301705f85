import { benchView } from "../../picture/bench-view.ts";
import type { ShapeStack } from "../../shapes/stack.ts";
import { addArea, changeArea, LONGEST_NAME, placeArea, removeArea } from "./area-edits.ts";

/** Areas with a conversion of their own, as shapes on the picture. */
export const AREA_STACK: ShapeStack = {
  station: "Weigh",
  noun: "area",
  longestName: LONGEST_NAME,
  list: ({ weigh }) => weigh.areas.map((area) => ({ ...area, label: area.name })),
  add: addArea,
  change: (recipe, id, change) => changeArea(recipe, id, ({ shape }) => ({ shape: change(shape) })),
  put: (recipe, id, change) => changeArea(recipe, id, () => change),
  remove: removeArea,
  place: placeArea,
  activeId: ({ areaId }) => areaId,
  activate: (areaId) => benchView.setState({ areaId }),
};
