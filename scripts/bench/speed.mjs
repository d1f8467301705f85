import { readFileSync } from "node:fs";
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

/** Ticks that processors worked for anybody here, and that another machine on the same host had instead (Linux); both 0 where that is not told. */
function ticks() {
  try {
    const [user, nice, system, , , interrupts, soft, stolen] = readFileSync("/proc/stat", "utf8").match(/^cpu +(.*)/)[1].split(" ").map(Number); // prettier-ignore
    return { worked: user + nice + system + interrupts + soft, stolen };
  } catch {
    return { worked: 0, stolen: 0 };
  }
}

/** Begins to watch; what is returned tells the share of the time asked for that was taken away meanwhile, 0–1. */
export function watchStolen() {
  const before = ticks();
  return () => {
    const after = ticks();
    const [worked, stolen] = [after.worked - before.worked, after.stolen - before.stolen];
    return worked + stolen > 0 ? stolen / (worked + stolen) : 0;
  };
}
