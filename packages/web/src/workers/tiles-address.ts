import { tilesVersion, type Negative } from "@yelm/core";

/** Where a negative's tiles lie, as they are made at present. */
export const tilesAddress = ({ id, capture }: Negative): string =>
  `/api/negatives/${id}/tiles/${tilesVersion(capture)}`;
