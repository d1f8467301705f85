import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, normalize, relative } from "node:path";
import { fileURLToPath } from "node:url";
import { describe, expect, test } from "@jest/globals";

const CORE = fileURLToPath(new URL("..", import.meta.url));
const WEB = join(CORE, "../../web/src");
/** Rooms of the core, each of which imports only itself and those before it. */
const ROOMS = [
  "maths", "schema", "colour", "kernels", "encode", "tiles", "raw", "graph", "shapes", "parts", "recipe", "notes", "looks", "render",
  "measure", "regions", "judge", "questions", "api",
]; // prettier-ignore

function sources(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: "utf8" })
    .filter((file) => /\.tsx?$/.test(file) && !file.includes("__tests__") && !file.endsWith(".d.ts"))
    .map((file) => file.replaceAll("\\", "/"));
}

/** What each file imports of its own package, types too. */
function importsIn(folder: string): Map<string, string[]> {
  return new Map(
    sources(folder).map((file) => {
      const text = readFileSync(join(folder, file), "utf8");
      const specifiers = [...text.matchAll(/(?:from|import)\s+"(\.[^"]+)"/g)].map(([, path]) => path);
      return [file, specifiers.map((path) => relative(folder, normalize(join(folder, dirname(file), path))))];
    }),
  );
}

describe("the core's rooms", () => {
  const imports = importsIn(CORE);
  const roomOf = (file: string) => file.split("/")[0];

  test("are all named", () => {
    const found = new Set([...imports.keys()].map(roomOf).filter((room) => room !== "index.ts"));
    expect([...found].sort()).toEqual([...ROOMS].sort());
  });
  test("import only themselves and those before them", () => {
    const upward = [...imports].flatMap(([file, targets]) =>
      file === "index.ts"
        ? []
        : targets
            .filter((target) => ROOMS.indexOf(roomOf(target)) > ROOMS.indexOf(roomOf(file)))
            .map((target) => `${file} → ${target}`),
    );
    expect(upward).toEqual([]);
  });
  test("have no circles, types included", () => {
    const state = new Map<string, "open" | "done">();
    const circles: string[] = [];
    const visit = (file: string, path: readonly string[]) => {
      if (state.get(file) === "done") return;
      if (state.get(file) === "open") {
        circles.push([...path.slice(path.indexOf(file)), file].join(" → "));
        return;
      }
      state.set(file, "open");
      for (const target of imports.get(file) ?? []) visit(target, [...path, file]);
      state.set(file, "done");
    };
    for (const file of imports.keys()) visit(file, []);
    expect(circles).toEqual([]);
  });
});

test("no file outside a shape's own knows its kind by name", () => {
  const ladders = [CORE, WEB].flatMap((folder) =>
    sources(folder)
      .filter((file) => !/(^|\/)shapes\//.test(file))
      .filter((file) => /kind\s*[=!]==\s*"(ellipse|brush|ramp)"/.test(readFileSync(join(folder, file), "utf8"))),
  );
  expect(ladders).toEqual([]);
});

test("the page's picture, shapes and workers do not import stations", () => {
  const imports = importsIn(WEB);
  const wrong = [...imports].flatMap(([file, targets]) =>
    /^(picture|shapes|workers|controls|data|keys|instruments)\//.test(file)
      ? targets.filter((target) => target.startsWith("stations/")).map((target) => `${file} → ${target}`)
      : [],
  );
  expect(wrong).toEqual([]);
});
