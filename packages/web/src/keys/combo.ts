/** A key with its modifiers. */
interface Combo {
  readonly mod: boolean;
  readonly alt: boolean;
  readonly shift: boolean;
  /** Lower case: a character, or a name such as "enter". */
  readonly key: string;
}

/** A keyboard event, as far as combos go. */
export type KeyPress = Pick<KeyboardEvent, "key" | "code" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey"> & {
  readonly getModifierState?: (name: string) => boolean;
};

const NAMES: Readonly<Record<string, string>> = {
  " ": "space",
  arrowleft: "left",
  arrowright: "right",
  arrowup: "up",
  arrowdown: "down",
};
const WORDS: Readonly<Record<string, string>> = {
  mod: "Ctrl",
  shift: "Shift",
  alt: "Alt",
  "-": "−",
  left: "←",
  right: "→",
  up: "↑",
  down: "↓",
  delete: "Del",
  escape: "Esc",
  enter: "Enter",
  space: "Space",
  backspace: "Backspace",
};

function parse(text: string): Combo {
  // "+" itself may be the key: "+", "mod++".
  const parts = text.endsWith("+") ? [...text.slice(0, -1).split("+").filter(Boolean), "+"] : text.split("+");
  const key = parts.at(-1)!;
  const has = (name: string) => parts.slice(0, -1).includes(name);
  return { mod: has("mod"), alt: has("alt"), shift: has("shift"), key };
}

/** The character or name of the key that was pressed, as it is printed on it. */
function keyOf({ key }: KeyPress): string {
  const lower = key.toLowerCase();
  return NAMES[lower] ?? lower;
}

const isLetter = (key: string) => key.length === 1 && key.toLowerCase() !== key.toUpperCase();

/**
 * Whether a press means one of some keys. Characters count as they are printed, wherever they lie: "?" is the key that
 * writes a question mark, with whatever it takes to write it; letters tell Shift apart.
 * @param keys - alternatives separated by spaces; empty matches nothing.
 * @param isTaken - whether a character means something by itself: then a digit's key that writes it is not the digit.
 */
export function matches(press: KeyPress, keys: string, isTaken: (key: string) => boolean = () => false): boolean {
  return keys.split(" ").some((text) => text !== "" && matchesOne(press, parse(text), isTaken));
}

function matchesOne(press: KeyPress, { mod, alt, shift, key }: Combo, isTaken: (key: string) => boolean): boolean {
  const pressed = keyOf(press);
  // The second Alt key writes characters on many keyboards, and is told as Ctrl with Alt on some systems.
  const writes = press.getModifierState?.("AltGraph") === true;
  if (!writes && ((press.ctrlKey || press.metaKey) !== mod || press.altKey !== alt)) return false;
  const character = key.length === 1 && !isLetter(key);
  if (pressed === key) return (character && !shift) || press.shiftKey === shift;
  // Where digits take Shift, the key that has the digit printed on it does without it too.
  const digit = /^[0-9]$/.test(key) && press.code === `Digit${key}`;
  return digit && !press.shiftKey && !isTaken(pressed);
}

/** The keys that a press would be written as; null for a modifier alone. */
export function comboOf(press: KeyPress): string | null {
  const key = keyOf(press);
  if (["shift", "control", "alt", "meta", "altgraph", "dead", "capslock"].includes(key)) return null;
  const shift = press.shiftKey && (isLetter(key) || key.length > 1);
  const parts = [(press.ctrlKey || press.metaKey) && "mod", press.altKey && "alt", shift && "shift", key];
  return parts.filter(Boolean).join("+");
}

/** The first of an act's keys as it is printed on a keyboard: "Ctrl Z", "[". */
export function keyText(keys: string): string {
  const { mod, alt, shift, key } = parse(keys.split(" ")[0]);
  const words = [mod && "mod", alt && "alt", shift && "shift", key].filter((word): word is string => word !== false);
  return words.map((word) => WORDS[word] ?? word.toUpperCase()).join(" ");
}

/** True when two sets of keys share one. */
export function overlap(one: string, other: string): boolean {
  const of = (keys: string) => keys.split(" ").filter(Boolean);
  return of(one).some((keys) => of(other).includes(keys));
}
