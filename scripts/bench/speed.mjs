import { median } from "./material.mjs";

const STEPS = 2e7;

/** How fast the machine is right now, ns for one step of a chain that nothing can shorten; without it two runs cannot be told from two machines. */
export function stepNs() {
  const once = () => {
    const from = process.hrtime.bigint();
    let state = 1;
    for (let i = 0; i < STEPS; i++) {
      state ^= state << 13;
      state ^= state >>> 17;
      state ^= state << 5;
    }
    if (state === 0) throw new Error("The chain of numbers broke.");
    return Number(process.hrtime.bigint() - from) / STEPS;
  };
  return median(Array.from({ length: 5 }, once));
}
