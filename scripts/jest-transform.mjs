// Transforms TypeScript for Jest, and gives each module the language's own globals as constants: Jest runs modules in a context whose
// globals are looked up through an interceptor, which makes `Math.floor` in a loop some two hundred times as slow as it is.
import swc from "@swc/jest";

const GLOBALS = [
  "Math", "Number", "Array", "Map", "Set", "Object", "Infinity", "NaN",
  "Float32Array", "Float64Array", "Uint8Array", "Uint8ClampedArray", "Uint16Array", "Uint32Array", "Int16Array", "Int32Array",
]; // prettier-ignore
const DECLARES = (name) =>
  new RegExp(`(?:class|function|const|let|var|as|import)\\s+${name}\\b|[{,]\\s*${name}\\s*[,}]`);

/** On the first line, so that every line stays where it is. */
function withConstants(code) {
  const used = GLOBALS.filter((name) => new RegExp(`(?<![.\\w$])${name}\\b`).test(code) && !DECLARES(name).test(code));
  return used.length === 0 ? code : `const { ${used.join(", ")} } = globalThis; ${code}`;
}

const changed = (result) => ({ ...result, code: withConstants(result.code) });

export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options);
    return {
      canInstrument: inner.canInstrument,
      getCacheKey: (...args) => `constants-1-${inner.getCacheKey(...args)}`,
      process: (...args) => changed(inner.process(...args)),
      processAsync: async (...args) => changed(await inner.processAsync(...args)),
    };
  },
};
