import { useStore } from "zustand";
import { keyText } from "./combo.ts";
import { keysOf, ownKeys } from "./key-settings.ts";

/** An act's key as it stands beside it, quietly; nothing when it has none. */
export function Keys({ of, hold }: { of: { readonly id: string; readonly keys: string }; hold?: boolean }) {
  const keys = useStore(ownKeys, ({ keys: own }) => keysOf(of, own));
  if (keys === "") return null;
  return (
    <kbd>
      {hold && "hold "}
      {keyText(keys)}
    </kbd>
  );
}
