import type { SheetProps } from "../station.ts";
import { CompareGroup } from "./compare-group.tsx";
import { EyeGroup } from "./eye-group.tsx";
import { FindingsGroup } from "./findings-group.tsx";
import { StatesGroup } from "./states-group.tsx";

/** Judge: a second look, the eye's way, the print beside others, and states to return to. */
export function JudgeStation({ negative }: SheetProps) {
  return (
    <>
      <FindingsGroup negative={negative} />
      <EyeGroup />
      <CompareGroup negative={negative} />
      <StatesGroup />
    </>
  );
}
