const ms = (value) => `${Math.round(value)} ms`;
const ns = (value) => `${value.toFixed(1)} ns`;
const percent = (share) => `${Math.round(100 * share)} %`;
/** How many tasks, and the longest. */
const longest = (tasks) => (tasks.length === 0 ? "none" : `${tasks.length}, the longest ${ms(Math.max(...tasks))}`);
const table = (head, rows) =>
  [
    `| ${head.join(" | ")} |`,
    `|${head.map(() => "---").join("|")}|`,
    ...rows.map((row) => `| ${row.join(" | ")} |`),
  ].join("\n");

/** The figures as a page. */
export function report({ machine, speeds, stolen, kernels, stages, exported, drags, before }) {
  const { rows, library } = exported;
  const slope = (a, b) => (b.renderMs - a.renderMs) / (b.megapixels - a.megapixels);
  return `# Performance

Written by \`npm run bench\`. Machine: ${machine.cpu}, ${machine.cores} cores, ${machine.memoryGiB} GiB, Node ${machine.node}.
Absolute times belong to this machine in this hour; ratios are what counts. One step of a chain of numbers that nothing can shorten took ${speeds.map(ns).join(", ")}
before dragging, kernels, stages and export and at the end, and the host gave ${stolen.map(percent).join(", ")} of the time asked for in these four to other machines: two runs that differ in this are two machines. The recipe uses every stage: weights, six families, local contrast, six
light moves (four ellipses, two brushes of eight strokes), burned edges, film-like curve with points, grain, toning.

## Dragging in Chromium

A view of ${drags.viewMP.toFixed(2)} MP of a 24 MP negative, one render worker (cores − 1). "First" is the first picture that shows the
change, coarser only when the sharp one is expected to take longer than 80 ms; "sharp" is the picture on the view's own pixels, "computing" the
worker's share of it. Aims: sharp within 33 ms p95 for curve, move and local contrast, 50 ms for weight and family.

${table(["control", "runs again", "first, p95", "sharp, median", "sharp, p95", "computing"], drags.rows.map((r) => [r.name, r.stages, ms(r.firstP95Ms), ms(r.sharpMs), ms(r.sharpP95Ms), ms(r.computeMs)]))}

Tasks of the page's own thread over 50 ms in these ${drags.rows.length} drags of 40 steps: ${longest(drags.longTasks)}; aim none. While the print opened: ${longest(drags.longTasksOpening)}.
The first step of the first family that is moved on this print with none moved is sharp after ${ms(drags.firstTouch)}.

Painting a stroke on a print of twenty brush moves with fifteen strokes of forty points each, one in four with a firm edge: an event of the pointer is
shown after ${ms(drags.paintMs)} (median), ${ms(drags.paintP95Ms)} (p95); aim 33 ms.

"Kept" is the exact picture as this browser last showed it, where the print was not changed elsewhere meanwhile; the others are computed. Aims: a
small picture within 100 ms, a picture within 500 ms, sharp within 1 s (twenty brush moves: 2 s).

${table(["opening a print", "small picture", "kept", "first computed", "sharp", "exact"], [["by its address, first time", drags.openedCold], ["by its address, again", drags.openedWarm], ["by its address, again, nothing kept", drags.openedAgain], ["by its address, twenty brush moves, nothing kept", drags.openedPainted], ["from the roll, the session's first", drags.insideOnce], ["from the roll", drags.insideWarm], ["from the roll, twenty brush moves, nothing kept", drags.insidePainted]].map(([name, o]) => [name, o.standIn ? ms(o.standIn) : "–", o.kept ? ms(o.kept) : "–", ms(o.first), ms(o.sharp), ms(o.exact)]))}

${table(["workers", "curve, sharp", "weight, sharp", "opening to exact"], drags.scaling.map((r) => [r.workers, ms(r.curveMs), ms(r.weightMs), ms(r.exactMs)]))}

Importing the 24 MP raw file through the server, upload to finished tiles, once its roll was looked at for some seconds: ${ms(drags.importMs)}.

${before ? beforeAndAfter(before) : ""}## Raw file to 16-bit TIFF, one thread

${table(["MP", "unpack", "demosaic and tiles", "render", "render, a pixel", "encode and write", "peak memory"], rows.map((r) => [r.megapixels.toFixed(1), ms(r.unpackMs), ms(r.demosaicMs), ms(r.renderMs), ns((r.renderMs * 1e6) / (r.megapixels * 1e6)), ms(r.encodeMs), `${r.peakMemoryMb} MB`]))}

Slope of rendering from the smallest to the largest: ${slope(rows[0], rows.at(-1)).toFixed(0)} ms a megapixel. Peak memory counts the whole process with
the tiles of the negative in memory, which the command line holds and the server does not.
${library ? `
Against the image library on the same number of pixels, from decoded pixels to the written file, one thread each:
recombine, gamma, sharpen by blur, six masks composited, TIFF: ${ms(library.libraryMs)}; Yelm's full recipe: ${ms(library.oursMs)}; ratio ${library.ratio.toFixed(2)}.
Recombine and gamma alone take the library ${ms(library.recombAndCurveMs)}.
` : ""}
## Stages, one thread, a pixel that the stage computes

The same view of 1 MP on its own pixels, cut at a slant and calmed, everything computed anew; sharpening and calming, of which coarse levels have nothing, at 100 %. "Stated" is the stage's own \`costNs\`, by which results are kept or
given up. The field counts cells of a sixteenth of a vote each and is cold here: votes and all. Field and base lie on coarser grids.

${table(["stage", "measured", "stated"], stages.stages.map(({ name, ns: value, stated }) => [name, ns(value), `${stated} ns`]))}

From kept stops to codes (tone curve, grain, toning, dither), a pixel of the view: ${ns(stages.viewNs)}. This is what every drag takes at least.

## Kernels, one thread, a pixel

${table(["work", "time", "against copying"], [
    ["copy two planes (the bytes that the next one reads)", ns(kernels.copyNs), "1"],
    ["stops and moves through the tone table", ns(kernels.developNs), (kernels.developNs / kernels.copyNs).toFixed(1)],
    ["grain, toning, dither to 8 bit", ns(kernels.finishNs), (kernels.finishNs / kernels.copyNs).toFixed(1)],
  ])}
`;
} // prettier-ignore

function beforeAndAfter({ revision, rounds, rows }) {
  return `## Before and after

The same drags on the same capture, and the same full-size file, by the code of revision ${revision} and by this code, in turns, ${rounds} times each in
this run: medians of the rounds. What hour the machine has is in both; the last column is what counts.

${table(
  ["what", "before", "after", "after ÷ before"],
  rows.map((r) => [r.name, ms(r.before), ms(r.after), (r.after / r.before).toFixed(2)]),
)}

`;
}
