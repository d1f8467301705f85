import { beforeEach, expect, test } from "@jest/globals";
import { mountSeen, rememberMount, type SeenMount } from "../mounts-seen.ts";

const at = { x: 10, y: 10, width: 80, height: 60 };
const MAT: SeenMount = { sheet: { width: 100, height: 80 }, picture: at, layers: [{ ...at, colour: "rgb(240 240 240)" }] }; // prettier-ignore

let stored: string | null = null;
let written = 0;
beforeEach(() => {
  [stored, written] = [null, 0];
  Object.assign(globalThis, {
    localStorage: {
      getItem: () => stored,
      setItem: (_: string, value: string) => {
        stored = value;
        written++;
      },
    },
  });
});

test("what lay around a print is there again, until nothing does; the oldest of many go", () => {
  rememberMount("a", MAT);
  expect(mountSeen("a")).toEqual(MAT);
  expect(mountSeen("b")).toBeUndefined();
  rememberMount("a", null);
  expect(mountSeen("a")).toBeUndefined();
  for (let i = 0; i < 250; i++) rememberMount(`p${i}`, MAT);
  expect([mountSeen("p0"), mountSeen("p249")]).toEqual([undefined, MAT]);
});

test("a bare print writes nothing", () => {
  rememberMount("a", MAT);
  const before = written;
  rememberMount("b", null);
  expect(written).toBe(before);
});

test("whatever else lies in the storage stops nothing, and what is right in it is kept", () => {
  const wrong = [null, 3, [], ["a"], ["a", null], ["a", { ...MAT, sheet: {} }], ["a", { ...MAT, layers: 1 }], ["a", { ...MAT, layers: [{}] }]]; // prettier-ignore
  for (const text of ["", "{", "null", "7", '"x"', JSON.stringify(wrong)]) {
    stored = text;
    expect(mountSeen("a")).toBeUndefined();
  }
  stored = JSON.stringify([...wrong, ["b", MAT]]);
  expect(mountSeen("b")).toEqual(MAT);
  rememberMount("a", MAT);
  expect([mountSeen("a"), mountSeen("b")]).toEqual([MAT, MAT]);
});
