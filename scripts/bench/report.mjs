const ms = (value) => `${Math.round(value)} ms`;
const ns = (value) => `${value.toFixed(1)} ns`;
const table = (head, rows) =>
  [
    `| ${head.join(" | ")} |`,
    `|${head.map(() => "---").join("|")}|`,
    ...rows.map((row) => `| ${row.join(" | ")} |`),
  ].join("\n");

/** The figures as a page. */
export function report({ machine, kernels, exported, drags }) {
  const { rows, library } = exported;
  const slope = (a, b) => (b.renderMs - a.renderMs) / (b.megapixels - a.megapixels);
  return `# Performance

Written by \`npm run bench\`. Machine: ${machine.cpu}, ${machine.cores} cores, ${machine.memoryGiB} GiB, Node ${machine.node}.
Absolute times belong to this machine; ratios are what counts. The recipe uses every stage: weights, six families, local contrast, six
light moves (four ellipses, two brushes of eight strokes), burned edges, film-like curve with points, grain, toning.

## Dragging in Chromium

A view of ${drags.viewMP.toFixed(2)} MP of a 24 MP negative, one render worker (cores − 1). "First" is the first picture that shows the
change, coarser when the sharp one would take longer than a frame; "sharp" is the picture at the view's own resolution.
Aims: 33 ms p95 for stages 5–8, 100 ms for 3–8.

${table(["control", "runs again", "first, median", "first, p95", "sharp, median", "sharp, p95"], drags.rows.map((r) => [r.name, r.stages, ms(r.firstMs), ms(r.firstP95Ms), ms(r.sharpMs), ms(r.sharpP95Ms)]))}

Opening the print to the first picture: ${ms(drags.openedColdMs)} the first time, ${ms(drags.openedWarmMs)} warm (aim 1 s).
Importing the 24 MP raw file through the server, upload to finished tiles: ${ms(drags.importMs)}.

## Raw file to 16-bit TIFF, one thread

${table(["MP", "unpack", "demosaic and tiles", "render", "render, a pixel", "encode and write", "peak memory"], rows.map((r) => [r.megapixels.toFixed(1), ms(r.unpackMs), ms(r.demosaicMs), ms(r.renderMs), ns((r.renderMs * 1e6) / (r.megapixels * 1e6)), ms(r.encodeMs), `${r.peakMemoryMb} MB`]))}

Slope of rendering from the smallest to the largest: ${slope(rows[0], rows.at(-1)).toFixed(0)} ms a megapixel. Peak memory counts the whole process with
the tiles of the negative in memory, which the command line holds and the server does not.
${library ? `
Against the image library on the same number of pixels, from decoded pixels to the written file, one thread each:
recombine, gamma, sharpen by blur, six masks composited, TIFF: ${ms(library.libraryMs)}; Yelm's full recipe: ${ms(library.oursMs)}; ratio ${library.ratio.toFixed(2)}.
Recombine and gamma alone take the library ${ms(library.recombAndCurveMs)}.
` : ""}
## Kernels, one thread, a pixel

${table(["work", "time", "against copying"], [
    ["copy two planes (the bytes that the fused kernel reads)", ns(kernels.copyNs), "1"],
    ["light and tone (E · 2^stops through the table)", ns(kernels.developNs), (kernels.developNs / kernels.copyNs).toFixed(1)],
    ["grain, tone, dither to 8 bit, neutral", ns(kernels.finishNs), (kernels.finishNs / kernels.copyNs).toFixed(1)],
    ["the same, toned", ns(kernels.finishTonedNs), (kernels.finishTonedNs / kernels.copyNs).toFixed(1)],
  ])}
`;
} // prettier-ignore
