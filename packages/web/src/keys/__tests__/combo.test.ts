import { describe, expect, test } from "@jest/globals";
import { comboOf, keyText, matches, overlap, type KeyPress } from "../combo.ts";

const press = (
  key: string,
  code: string,
  held: Partial<Record<"ctrl" | "alt" | "shift" | "altGraph", boolean>> = {},
): KeyPress => ({
  key,
  code,
  ctrlKey: held.ctrl ?? held.altGraph ?? false,
  altKey: held.alt ?? held.altGraph ?? false,
  metaKey: false,
  shiftKey: held.shift ?? false,
  getModifierState: (name) => name === "AltGraph" && held.altGraph === true,
});

describe("keys follow the character printed on them", () => {
  test.each<[string, string, KeyPress]>([
    ["? on a US keyboard", "?", press("?", "Slash", { shift: true })],
    ["? on a German one", "?", press("?", "Minus", { shift: true })],
    ["[ on a German one, with the second Alt", "[", press("[", "Digit8", { altGraph: true })],
    ["] where the second Alt is no Ctrl", "]", press("]", "Digit9", {})],
    ["Y where Z is on a US keyboard", "y", press("y", "KeyZ")],
    ["Ctrl Z where Y is on a US keyboard", "mod+z", press("z", "KeyY", { ctrl: true })],
    ["a digit on a French keyboard, with Shift", "3", press("3", "Digit3", { shift: true })],
    ["and without", "3", press('"', "Digit3")],
    ["+ by the number pad", "+ =", press("+", "NumpadAdd")],
    ["< with Shift", "<", press("<", "Comma", { shift: true })],
    ["Shift with a letter", "shift+d", press("D", "KeyD", { shift: true })],
    ["an arrow with Alt", "alt+left", press("ArrowLeft", "ArrowLeft", { alt: true })],
    ["one of two", "delete backspace", press("Backspace", "Backspace")],
    ["the space bar", "space", press(" ", "Space")],
  ])("%s", (_name, keys, pressed) => {
    expect(matches(pressed, keys)).toBe(true);
  });

  test.each<[string, string, KeyPress]>([
    ["a letter with Shift is another key", "d", press("D", "KeyD", { shift: true })],
    ["a letter with Ctrl too", "d", press("d", "KeyD", { ctrl: true })],
    ["the place of Z on a US keyboard is not Z on a German one", "z", press("y", "KeyZ")],
    ["no keys, no match", "", press("d", "KeyD")],
  ])("%s", (_name, keys, pressed) => {
    expect(matches(pressed, keys)).toBe(false);
  });

  test("a digit's key that writes a character of its own is that character", () => {
    const minus = press("-", "Digit6");
    expect(matches(minus, "6", (key) => key === "-")).toBe(false);
    expect(matches(minus, "-", (key) => key === "-")).toBe(true);
  });

  test("what is pressed is written as it is read", () => {
    const presses = [
      press("?", "Minus", { shift: true }),
      press("D", "KeyD", { shift: true }),
      press("z", "KeyY", { ctrl: true }),
      press("ArrowLeft", "ArrowLeft", { alt: true }),
      press("+", "Equal", { shift: true }),
      press(" ", "Space"),
    ];
    expect(presses.map(comboOf)).toEqual(["?", "shift+d", "mod+z", "alt+left", "+", "space"]);
    for (const one of presses) expect(matches(one, comboOf(one)!)).toBe(true);
    expect(comboOf(press("Shift", "ShiftLeft", { shift: true }))).toBeNull();
  });

  test("keys have texts, and share one or none", () => {
    const texts = ["mod+z", "?", "shift+delete", "+ =", "alt+left"].map(keyText);
    expect(texts).toEqual(["Ctrl Z", "?", "Shift Del", "+", "Alt ←"]);
    expect([overlap("+ =", "="), overlap("delete backspace", "d"), overlap("", "")]).toEqual([true, false, false]);
  });
});
