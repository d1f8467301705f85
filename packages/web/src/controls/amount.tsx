import type { NumberRange } from "@yelm/core";
import { memo, useEffect, useRef, useState, type KeyboardEvent, type RefObject } from "react";
import { flushSync } from "react-dom";
import { takeInHand } from "./amount-in-hand.ts";
import { parseAmount } from "./parse-amount.ts";

export interface AmountProps {
  readonly label: string;
  readonly value: number;
  readonly range: Pick<NumberRange, "minimum" | "maximum" | "default" | "description">;
  /** One press of an arrow; Shift takes five, Alt a fifth. */
  readonly step: number;
  readonly format: (value: number) => string;
  /** Factor between the value and the number that is typed; 100 for per cent. */
  readonly typedScale?: number;
  /** While it moves. */
  readonly onChange: (value: number) => void;
  /** When it rests. */
  readonly onEnd: () => void;
}

const COARSE = 5;
const FINE = 0.2;

/** A named amount: a line to drag, a number to type. The mark on the line is its default; the name resets on double click. */
export function Amount(props: AmountProps) {
  const { label, value, range, format, typedScale = 1 } = props;
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });
  const { minimum, maximum, default: standard, description } = range;
  return (
    <Line {...{ label, value, minimum, maximum, standard, description, typedScale, latest }} shown={format(value)} />
  );
}

interface LineProps {
  readonly label: string;
  readonly value: number;
  readonly shown: string;
  readonly minimum: number;
  readonly maximum: number;
  readonly standard: number;
  readonly description: string;
  readonly typedScale: number;
  /** What the hand does is told to whoever stands there now. */
  readonly latest: RefObject<AmountProps>;
}

/** Drawn again only when something of it is seen: a station has twenty of them, and one of them moves. */
const Line = memo(function Line(props: LineProps) {
  const { label, value, shown, minimum, maximum, standard, description, typedScale, latest } = props;
  const take = () => takeInHand({ label, now: () => latest.current });
  const clamp = (v: number) => Math.min(maximum, Math.max(minimum, v));
  const share = (v: number) => (clamp(v) - minimum) / (maximum - minimum);
  const set = (v: number) => latest.current.onChange(Number(clamp(v).toPrecision(7)));
  const end = () => latest.current.onEnd();
  const reset = () => {
    latest.current.onChange(standard);
    end();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const sign = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!sign) return;
    event.preventDefault();
    const { step } = latest.current;
    const size = event.shiftKey ? COARSE : event.altKey ? FINE : 1;
    set(Math.round((value + sign * size * step) / (step * FINE)) * step * FINE);
    end();
  };
  const from = Math.min(share(value), share(standard));
  const to = Math.max(share(value), share(standard));
  return (
    <div className="amount" title={description} onPointerEnter={take} onFocus={take}>
      <span className="truncate select-none" onDoubleClick={reset}>
        {label}
      </span>
      <span className="amount-track">
        <i className="amount-mark" style={{ left: `${100 * share(standard)}%` }} />
        <i className="amount-fill" style={{ left: `${100 * from}%`, width: `${100 * (to - from)}%` }} />
        <i className="amount-knob" style={{ left: `${100 * share(value)}%` }} />
        <input
          type="range"
          aria-label={label}
          data-find={label}
          aria-valuetext={shown}
          min={minimum}
          max={maximum}
          step="any"
          value={value}
          onChange={(event) => set(snap(Number(event.target.value), standard, maximum - minimum))}
          onPointerUp={end}
          onLostPointerCapture={end}
          onKeyDown={onKeyDown}
          onDoubleClick={reset}
        />
      </span>
      <Typed label={label} value={value} scale={typedScale} shown={shown} onTyped={(v) => { set(v); end(); }} />
    </div>
  ); // prettier-ignore
});

/** Near the default a drag holds to it, so that "nothing" can be found again by hand. */
function snap(value: number, standard: number, span: number): number {
  return Math.abs(value - standard) < span * 0.008 ? standard : value;
}

interface TypedProps {
  readonly label: string;
  readonly value: number;
  readonly scale: number;
  readonly shown: string;
  readonly onTyped: (value: number) => void;
}

function Typed({ label, value, scale, shown, onTyped }: TypedProps) {
  const [text, setText] = useState<string | null>(null);
  const keep = () => {
    const parsed = text === null ? null : parseAmount(text);
    setText(null);
    if (parsed !== null) onTyped(parsed / scale);
  };
  return (
    <input
      className="amount-number"
      aria-label={`${label}, number`}
      value={text ?? shown}
      onFocus={(event) => {
        // At once, so that what is typed next replaces the whole number.
        flushSync(() => setText(String(Number((value * scale).toFixed(3)))));
        event.currentTarget.select();
      }}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") {
          setText(null);
          const input = event.currentTarget;
          requestAnimationFrame(() => input.blur());
        }
      }}
    />
  );
}
