import { useEffect, useMemo, useState } from "react";
import { useStore } from "zustand";
import { amountInHand } from "../controls/amount-in-hand.ts";
import { BENCH_ACTS } from "../bench/acts.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView, type AmountInHand } from "../picture/bench-view.ts";
import { notify } from "../shell/shell-view.ts";
import { LaidOut } from "./laid-out.tsx";

/** Factors of an amount's own step that the wheel goes through. */
const STEPS = [0.5, 1, 2, 3, 5, 8, 12] as const;
const FIRST = 3;
/** Renditions in a strip, and in the columns and rows of a grid. */
const IN_STRIP = 5;
const IN_GRID = [4, 3] as const;

/** Makes a strip of the amount pointed at last; a second amount makes a grid of the two. */
export function useTestStripAct(): void {
  useAct({
    ...BENCH_ACTS["test-strip"],
    run: () => {
      const amount = amountInHand();
      if (!amount) return notify("Point at an amount first: the strip shows the print at five of its values.");
      const { laidOut, stripOf } = benchView.getState();
      const [first] = stripOf;
      const another = laidOut === "strip" && first && first.label !== amount.label;
      benchView.setState({ laidOut: "strip", stripOf: another ? [first, amount] : [amount] });
    },
  });
}

/** The print at several values of one amount, or of two; taking one brings its neighbours, a finer step apart. */
export function TestStrip() {
  const session = useSession();
  const { stripOf } = useStore(benchView);
  const recipe = useEdit((state) => state.kept);
  const [factor, setFactor] = useState(FIRST);
  const leave = () => benchView.setState({ laidOut: null, stripOf: [] });
  useAct({ ...BENCH_ACTS["leave-strip"], run: leave });
  const axes = stripOf.map((amount, axis) => axisOf(amount, factor, stripOf.length === 1 ? IN_STRIP : IN_GRID[axis]));
  const key = JSON.stringify(axes.map(({ label, values }) => [label, values]));
  useEffect(() => setFactor(FIRST), [stripOf]);
  const choices = useMemo(
    () =>
      combinations(axes).map((values) => ({
        id: JSON.stringify(values),
        name: values.map((value, i) => axes[i].format(value)).join(" · "),
        why: "",
        recipe: session.imagine(() => values.forEach((value, i) => axes[i].set(value))),
      })),
    // The axes are new objects every time; what they say is in the key.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [session, recipe, key],
  );
  const taken = JSON.stringify(axes.map(({ now }) => now));
  const title = `Test strip: ${axes.map(({ label }) => label).join(" by ")}`;
  return (
    <LaidOut
      title={title}
      leaveAct={BENCH_ACTS["leave-strip"]}
      onLeave={leave}
      choices={choices}
      takenId={taken}
      columns={axes.length > 1 ? axes[0].values.length : undefined}
      onTake={(id) => {
        if (id === taken) return leave();
        const values = JSON.parse(id) as number[];
        for (const [i, value] of values.entries()) {
          axes[i].set(value);
          axes[i].keep();
        }
        setFactor((now) => Math.max(0, now - 1));
      }}
      onWheel={(up) => setFactor((now) => Math.min(STEPS.length - 1, Math.max(0, now + (up ? 1 : -1))))}
      acts={
        <span
          className="text-quiet self-center px-2"
          title="Point at a second amount and press the key again: a grid of the two"
        >
          wheel: finer, coarser
        </span>
      }
    />
  );
}

/** Values about the present one, within the range; the present one is among them. */
function axisOf({ label, now }: AmountInHand, factor: number, count: number) {
  const { value, range, step, format, onChange, onEnd } = now();
  const apart = STEPS[factor] * step;
  const values: number[] = [];
  const before = Math.floor((count - 1) / 2);
  // Near an end of the range the strip goes on to the other side.
  const first = Math.max(0, Math.min(before, Math.floor((value - range.minimum) / apart + 1e-9)));
  const room = Math.floor((range.maximum - value) / apart + 1e-9);
  const from = Math.min(
    first + Math.max(0, count - 1 - first - room),
    Math.floor((value - range.minimum) / apart + 1e-9),
  );
  for (let i = -from; i < count - from && values.length < count; i++) {
    const at = value + i * apart;
    if (at >= range.minimum - 1e-9 && at <= range.maximum + 1e-9) values.push(i === 0 ? value : Number(at.toFixed(4)));
  }
  return { label, values, now: value, format, set: onChange, keep: onEnd };
}

/** Every value of the first axis with every one of the second, row by row. */
function combinations(axes: readonly { readonly values: readonly number[] }[]): number[][] {
  const [across, down] = axes;
  if (!across) return [];
  if (!down) return across.values.map((value) => [value]);
  return down.values.flatMap((below) => across.values.map((value) => [value, below]));
}
