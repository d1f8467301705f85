import { formatSigned, lightnessToLuminance, type Family } from "@yelm/core";
import { useState, type KeyboardEvent, type MouseEvent } from "react";
import { useStore } from "zustand";
import type { WeighScene } from "./measured.ts";
import { groupId } from "./group-name.ts";
import { benchView } from "../../picture/bench-view.ts";
import { zoneNumeral, zoneThirds } from "../../controls/formats.ts";
import { greyToCss, workingToCss } from "../../instruments/colour-css.ts";
import { FamilyHandle } from "./family-handle.tsx";

const WIDTH = 268;
const SWATCH = 20;
const ROW = 31;
const TOP = 22;
const FOOT = 12;
const NAME_X = 28;
const RAIL_X = 226;
const FROM_X = 138;
/** Ends nearer than this lie side by side. */
const BESIDE = 12;

interface RungsProps {
  readonly scene: WeighScene;
  readonly gain: number;
}

/**
 * Colour in, grey out: the picture's families on the left, the zones they print on at the right. Lines that meet are colours that
 * have become one grey; merged neighbours are dashed. The right-hand ends are handles.
 */
export function FamilyRungs({ scene, gain }: RungsProps) {
  const { families, facts, greys, plain, neighbours } = scene;
  const { familyId, besideId, pointed, under } = useStore(benchView);
  const [held, setHeld] = useState<string | null>(null);
  const rows = order(scene);
  const height = TOP + FOOT + Math.max(8, rows.length) * ROW;
  const zoneY = (lightness: number) => height - FOOT - (lightness / 100) * (height - TOP - FOOT);
  const ends = sideBySide(rows, (index) => zoneY(greys[index].lightness));
  const isChosen = (index: number) => familyId === groupId(families, index);
  // What is chosen lies on top, so that it can be taken where others end too. What is held stays where it is: moved in the page it would
  // lose the pointer.
  const drawn = [...rows].sort((p, q) => Number(isChosen(p)) - Number(isChosen(q)));
  const merged = new Set(neighbours.filter((pair) => pair.merged).flatMap(({ first, second }) => [first, second]));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="block w-full touch-none select-none"
      role="group"
      aria-label="Colour in, grey out"
      data-testid="family-rungs"
      onPointerLeave={() => benchView.setState({ pointed: [] })}
    >
      <text x={0} y={10} fontSize={11} className="fill-quiet">
        colour in
      </text>
      <text x={RAIL_X} y={10} textAnchor="middle" fontSize={11} className="fill-quiet">
        grey out
      </text>
      <line x1={RAIL_X} x2={RAIL_X} y1={zoneY(0)} y2={zoneY(100)} className="stroke-quiet" strokeOpacity={0.5} />
      {Array.from({ length: 11 }, (_, zone) => (
        <g key={zone}>
          <line
            x1={RAIL_X + 8}
            x2={RAIL_X + 13}
            y1={zoneY(10 * zone)}
            y2={zoneY(10 * zone)}
            className="stroke-quiet"
            strokeOpacity={0.5}
          />
          <text x={WIDTH} y={zoneY(10 * zone) + 4} textAnchor="end" fontSize={12} className="fill-quiet font-serif">
            {zoneNumeral(zone)}
          </text>
        </g>
      ))}
      {drawn.map((index) => {
        const family = families[index] as Family | undefined;
        const id = groupId(families, index);
        const { lightness } = greys[index];
        const active = held === id || familyId === id || pointed.includes(id) || under === id;
        return (
          <Rung
            key={id}
            id={id}
            name={family?.name ?? "neutrals"}
            swatch={workingToCss(facts[index].working, gain)}
            share={facts[index].share}
            stops={family?.stops ?? 0}
            pinned={family?.pinned ?? false}
            lightness={lightness}
            plain={plain[index].lightness}
            fromY={TOP + ROW * (rows.indexOf(index) + 0.5)}
            toX={ends.get(index)!}
            toY={zoneY(lightness)}
            state={active ? "active" : besideId === id ? "beside" : merged.has(index) ? "merged" : "plain"}
          >
            {family && (
              <FamilyHandle
                scene={scene}
                index={index}
                x={ends.get(index)!}
                y={zoneY(lightness)}
                zoneY={zoneY}
                onHold={setHeld}
              />
            )}
          </Rung>
        );
      })}
    </svg>
  );
}

/** Lightest first by luminance, neutrals last; it does not change while families are moved. */
function order({ families, facts, plain }: WeighScene): number[] {
  const shown = families.map((_, i) => i).sort((p, q) => plain[q].lightness - plain[p].lightness);
  return facts[families.length].share > 0.002 ? [...shown, families.length] : shown;
}

/** Where rungs end: beside each other when they end at nearly the same zone. */
function sideBySide(rows: readonly number[], yOf: (index: number) => number): Map<number, number> {
  const ends = new Map<number, number>();
  const placed: { x: number; y: number }[] = [];
  for (const index of [...rows].sort((p, q) => yOf(p) - yOf(q))) {
    const y = yOf(index);
    let x = RAIL_X;
    while (placed.some((other) => Math.abs(other.x - x) < BESIDE && Math.abs(other.y - y) < BESIDE)) x -= BESIDE;
    placed.push({ x, y });
    ends.set(index, x);
  }
  return ends;
}

interface RungProps {
  readonly id: string;
  readonly name: string;
  readonly swatch: string;
  readonly share: number;
  readonly stops: number;
  readonly pinned: boolean;
  readonly lightness: number;
  readonly plain: number;
  readonly fromY: number;
  readonly toX: number;
  readonly toY: number;
  readonly state: "active" | "beside" | "merged" | "plain";
  readonly children: React.ReactNode;
}

function Rung({
  id,
  name,
  swatch,
  share,
  stops,
  pinned,
  lightness,
  plain,
  fromY,
  toX,
  toY,
  state,
  children,
}: RungProps) {
  const choose = (event: MouseEvent | KeyboardEvent) => {
    const { familyId } = benchView.getState();
    if (event.shiftKey && familyId && familyId !== id) benchView.setState({ besideId: id });
    else benchView.setState({ familyId: familyId === id ? null : id, besideId: null });
  };
  const changed = Math.abs(stops) >= 0.005 ? `${formatSigned(stops, 2).replace(/0$/, "")}` : null;
  const stroke = state === "active" ? "stroke-accent" : state === "plain" ? "stroke-quiet" : "stroke-base-content";
  return (
    <g onPointerEnter={({ buttons }) => buttons === 0 && benchView.setState({ pointed: [id] })}>
      <path
        d={`M${FROM_X} ${fromY}C${FROM_X + 40} ${fromY} ${toX - 44} ${toY} ${toX - 7} ${toY}`}
        fill="none"
        className={state === "merged" ? "stroke-accent" : stroke}
        strokeDasharray={state === "merged" ? "4 3" : undefined}
        strokeWidth={state === "active" ? 1.75 : 1}
      />
      <g
        role="button"
        tabIndex={0}
        aria-label={`${name}, ${sharePercent(share)} of the picture`}
        aria-pressed={state === "active"}
        className="cursor-pointer outline-offset-2"
        onClick={choose}
        onKeyDown={(event) => (event.key === "Enter" || event.key === " ") && (event.preventDefault(), choose(event))}
      >
        <rect x={0} y={fromY - ROW / 2} width={FROM_X} height={ROW} fill="transparent" />
        <rect x={0} y={fromY - SWATCH / 2} width={SWATCH} height={SWATCH} rx={2} fill={swatch} />
        {state === "active" && (
          <rect
            x={-0.5}
            y={fromY - SWATCH / 2 - 0.5}
            width={SWATCH + 1}
            height={SWATCH + 1}
            rx={2}
            fill="none"
            className="stroke-accent"
          />
        )}
        <text x={NAME_X} y={fromY - 2} fontSize={12} className="fill-base-content">
          {short(name)}
        </text>
        <text x={NAME_X} y={fromY + 12} fontSize={11} className="fill-quiet">
          {sharePercent(share)}
          {changed && <tspan className="fill-accent"> {changed}</tspan>}
          {pinned && " pinned"}
        </text>
      </g>
      <circle
        cx={toX}
        cy={toY}
        r={6}
        fill={greyToCss(lightnessToLuminance(lightness))}
        className={stroke}
        strokeWidth={state === "active" ? 2 : 1}
      >
        <title>{`Zone ${zoneThirds(lightness / 10)}; plain luminance gives ${zoneThirds(plain / 10)}`}</title>
      </circle>
      {children}
    </g>
  );
}

function sharePercent(share: number): string {
  return share < 0.01 ? "<1 %" : `${Math.round(100 * share)} %`;
}

/** Names are cut where the lines begin; the whole name stands in the family's own controls. */
function short(name: string): string {
  return name.length > 19 ? `${name.slice(0, 18).trimEnd()}…` : name;
}
