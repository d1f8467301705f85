export { halfToFloat, floatToHalf } from "./half";
export { weighHalf } from "./weigh";
export { develop } from "./develop";
export { whiteNoise, addGrain } from "./grain";
export { convolveRows, convolveColumns } from "./filter";
export { resampleRows, resampleColumns, sampleAffine } from "./resample";
export { addEllipse, addEdgeBurn, strokePiece, buildUp, addScaled } from "./mask";
export { encodeRgba8, encode16, encodeColour8 } from "./encode";
export { demosaicMalvar, applyMatrix, halve } from "./demosaic";
