/** A byte offset in kernel memory. */
export type Pointer = number;

/** What `kernels.wasm` offers; each function is documented beside its source in `packages/core/kernels`. */
export interface KernelExports {
  halfToFloat(src: Pointer, dst: Pointer, n: number): void;
  floatToHalf(src: Pointer, dst: Pointer, n: number): void;
  weighHalf(
    red: Pointer,
    green: Pointer,
    blue: Pointer,
    width: number,
    height: number,
    out: Pointer,
    outStride: number,
    r: number,
    g: number,
    b: number,
  ): void;
  weighByColour(
    red: Pointer,
    green: Pointer,
    blue: Pointer,
    width: number,
    height: number,
    out: Pointer,
    outStride: number,
    r: number,
    g: number,
    b: number,
    lattice: Pointer,
    floor: number,
  ): void;
  develop(
    exposure: Pointer,
    stops: Pointer,
    stride: number,
    out: Pointer,
    outStride: number,
    width: number,
    height: number,
    table: Pointer,
  ): void;
  copyRect(src: Pointer, srcStride: number, out: Pointer, outStride: number, width: number, height: number): void;
  stopsAndSquares(light: Pointer, stops: Pointer, squares: Pointer, n: number): void;
  guidedLine(mean: Pointer, square: Pointer, n: number, epsilon: number): void;
  localContrast(
    light: Pointer,
    out: Pointer,
    stride: number,
    width: number,
    height: number,
    slope: Pointer,
    offset: Pointer,
    coarseStride: number,
    coarseWidth: number,
    coarseHeight: number,
    rows: Pointer,
    originX: number,
    originY: number,
    ratio: number,
    low: number,
    mid: number,
    high: number,
  ): void;
  mixByMask(
    light: Pointer,
    own: Pointer,
    ownStride: number,
    mask: Pointer,
    stride: number,
    width: number,
    height: number,
    invert: number,
  ): void;
  whiteNoise(out: Pointer, width: number, height: number, x0: number, y0: number, seed: number): void;
  addGrain(reflectance: Pointer, noise: Pointer, n: number, sigma: number): void;
  convolveRows(
    src: Pointer,
    srcStride: number,
    out: Pointer,
    width: number,
    height: number,
    weights: Pointer,
    taps: number,
  ): void;
  convolveColumns(src: Pointer, out: Pointer, width: number, height: number, weights: Pointer, taps: number): void;
  resampleRows(
    src: Pointer,
    srcStride: number,
    out: Pointer,
    outStride: number,
    outWidth: number,
    height: number,
    first: Pointer,
    weights: Pointer,
    taps: number,
  ): void;
  resampleColumns(
    src: Pointer,
    out: Pointer,
    width: number,
    outHeight: number,
    first: Pointer,
    weights: Pointer,
    taps: number,
  ): void;
  sampleAffine(
    src: Pointer,
    srcWidth: number,
    srcHeight: number,
    out: Pointer,
    outStride: number,
    outWidth: number,
    outHeight: number,
    ax: number,
    bx: number,
    cx: number,
    ay: number,
    by: number,
    cy: number,
  ): void;
  drawEllipse(
    out: Pointer,
    width: number,
    height: number,
    ax: number,
    bx: number,
    cx: number,
    ay: number,
    by: number,
    cy: number,
    hard: number,
  ): void;
  addEdgeBurn(
    out: Pointer,
    width: number,
    height: number,
    x0: number,
    y0: number,
    stepX: number,
    stepY: number,
    start: number,
    roundness: number,
    gain: number,
  ): void;
  strokePiece(
    out: Pointer,
    width: number,
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    ax: number,
    bx: number,
    cx: number,
    ay: number,
    by: number,
    cy: number,
    px: number,
    py: number,
    qx: number,
    qy: number,
    radius: number,
    hard: number,
    flowP: number,
    flowQ: number,
  ): void;
  buildUp(mask: Pointer, stroke: Pointer, n: number, erase: number): void;
  addScaled(out: Pointer, mask: Pointer, n: number, gain: number, invert: number): void;
  encodeRgba8(
    src: Pointer,
    stride: number,
    noise: Pointer,
    sigma: number,
    out: Pointer,
    width: number,
    height: number,
    x0: number,
    y0: number,
    red: Pointer,
    green: Pointer,
    blue: Pointer,
  ): void;
  encode16(src: Pointer, out: Pointer, n: number, table: Pointer, step: number): void;
  encodeColour8(
    red: Pointer,
    green: Pointer,
    blue: Pointer,
    out: Pointer,
    n: number,
    matrix: Pointer,
    table: Pointer,
  ): void;
  demosaicMalvar(src: Pointer, out: Pointer, width: number, height: number, redX: number, redY: number): void;
  colourDifferences(
    src: Pointer,
    along: Pointer,
    down: Pointer,
    stride: number,
    height: number,
    redX: number,
    redY: number,
  ): void;
  smoothDifferences(
    along: Pointer,
    down: Pointer,
    alongLow: Pointer,
    downLow: Pointer,
    stride: number,
    height: number,
  ): void;
  fuseDifferences(
    along: Pointer,
    down: Pointer,
    alongLow: Pointer,
    downLow: Pointer,
    out: Pointer,
    stride: number,
    height: number,
  ): void;
  coloursFromDifferences(
    src: Pointer,
    difference: Pointer,
    out: Pointer,
    width: number,
    height: number,
    stride: number,
    border: number,
    redX: number,
    redY: number,
  ): void;
  applyMatrix(red: Pointer, green: Pointer, blue: Pointer, n: number, matrix: Pointer): void;
  halve(src: Pointer, srcWidth: number, srcHeight: number, out: Pointer, outWidth: number, outHeight: number): void;
  mendDefects(
    mosaic: Pointer,
    stride: number,
    height: number,
    redX: number,
    redY: number,
    noise: Pointer,
    reach: number,
  ): number;
  reconstructHighlights(
    red: Pointer,
    green: Pointer,
    blue: Pointer,
    n: number,
    redTop: number,
    greenTop: number,
    blueTop: number,
  ): void;
  cellMeans(src: Pointer, out: Pointer, width: number, height: number): void;
  multiplyPlanes(a: Pointer, b: Pointer, out: Pointer, n: number): void;
  boxMean(plane: Pointer, width: number, height: number, radius: number, rows: Pointer, ring: Pointer): void;
  chromaLines(planes: Pointer, n: number, params: Pointer): void;
  divideByLast(planes: Pointer, count: number, n: number): void;
  smoothChroma(
    red: Pointer,
    green: Pointer,
    blue: Pointer,
    width: number,
    height: number,
    lines: Pointer,
    rows: Pointer,
    lr: number,
    lg: number,
    lb: number,
  ): void;
  scaleRow(
    codes: Pointer,
    out: Pointer,
    width: number,
    black0: number,
    black1: number,
    scale0: number,
    scale1: number,
    top0: number,
    top1: number,
  ): void;
  sampleThroughLens(
    src: Pointer,
    srcWidth: number,
    srcHeight: number,
    srcX: number,
    srcY: number,
    out: Pointer,
    outStride: number,
    outWidth: number,
    outHeight: number,
    ax: number,
    bx: number,
    cx: number,
    ay: number,
    by: number,
    cy: number,
    centreX: number,
    centreY: number,
    radius: number,
    distortion: number,
    perspectiveX: number,
    perspectiveY: number,
  ): void;
  liftCorners(
    light: Pointer,
    stride: number,
    width: number,
    height: number,
    x0: number,
    y0: number,
    step: number,
    stops: number,
  ): void;
  calmLines(mean: Pointer, square: Pointer, n: number, slope: number, offset: number, strength: number): void;
  applyLines(
    src: Pointer,
    srcStride: number,
    slope: Pointer,
    offset: Pointer,
    lineStride: number,
    out: Pointer,
    outStride: number,
    width: number,
    height: number,
  ): void;
}
