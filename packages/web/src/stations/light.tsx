import { ellipseSchema, formatStops, lightMoveSchema, rangeOf, strokeSchema, type LightMove } from "@yelm/core";
import { ArrowDown, ArrowUp, Brush, Circle, Copy, Eye, EyeOff, Trash2 } from "lucide-react";
import { useStore } from "zustand";
import { Amount } from "../controls/amount.tsx";
import { Group } from "../controls/group.tsx";
import { IconAct } from "../controls/icon-act.tsx";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView, type Tool } from "../picture/bench-view.ts";
import { asDegrees, asPercent, asStops } from "./formats.ts";
import { changeMove, duplicateMove, removeMove, shiftMove } from "./light-edits.ts";

const A_LITTLE_STOPS = 1 / 6;

/** Light: the ordered stack of moves and the one in hand. */
export function LightStation() {
  const moves = useEdit((state) => state.recipe.light.moves);
  const { tool, moveId } = useStore(benchView);
  const active = moves.find((move) => move.id === moveId) ?? null;
  const take = (next: Tool) => benchView.setState({ tool: tool === next ? "look" : next });
  const newBrush = () => benchView.setState({ tool: "brush", moveId: null });
  useAct({ id: "brush", label: "Brush", group: "Light", keys: "p", run: () => take("brush") });
  useAct({ id: "new-brush", label: "Brush a new move", group: "Light", keys: "shift+p", run: newBrush });
  useAct({ id: "ellipse", label: "Ellipse", group: "Light", keys: "e", run: () => take("ellipse") });
  useAct({
    id: "lay-down",
    label: "Lay the tool down",
    group: "Light",
    keys: "escape",
    enabled: tool !== "look",
    run: () => benchView.setState({ tool: "look" }),
  });
  return (
    <>
      <div className="flex gap-1 pb-2">
        <button className="act" aria-pressed={tool === "brush"} onClick={() => take("brush")}>
          <Brush size={15} /> Brush <kbd>P</kbd>
        </button>
        <button className="act" aria-pressed={tool === "ellipse"} onClick={() => take("ellipse")}>
          <Circle size={15} /> Ellipse <kbd>E</kbd>
        </button>
      </div>
      {moves.length === 0 ? (
        <p className="text-quiet py-3 leading-relaxed">
          No light moves yet. Take the brush and paint where the picture wants less light, or draw an ellipse from its
          middle outwards where it wants more. Stops are set afterwards.
        </p>
      ) : (
        <ol aria-label="Light moves" className="-mx-2">
          {moves.map((move, i) => (
            <MoveRow key={move.id} move={move} number={i + 1} active={move === active} />
          ))}
        </ol>
      )}
      {tool === "brush" && (
        <BrushGroup continues={active?.shape.kind === "brush" ? active.name : null} onNew={newBrush} />
      )}
      {active && <MoveGroup key={active.id} move={active} number={moves.indexOf(active) + 1} />}
    </>
  );
}

function MoveRow({ move, number, active }: { move: LightMove; number: number; active: boolean }) {
  const session = useSession();
  const span = 1.5;
  const share = Math.min(1, Math.abs(move.stops) / span) * 50;
  const kind =
    move.shape.kind === "ellipse"
      ? "ellipse"
      : `brush, ${move.shape.strokes.length} ${move.shape.strokes.length === 1 ? "stroke" : "strokes"}`;
  const flip = () =>
    session.change("Light", `${move.name} ${move.on ? "off" : "on"}`, (recipe) =>
      changeMove(recipe, move.id, (old) => ({ ...old, on: !old.on })),
    );
  return (
    <li
      className={`flex items-center gap-2 rounded px-2 py-1.5 ${active ? "bg-fill" : ""} ${move.on ? "" : "opacity-50"}`}
    >
      <span className={`w-4 text-center font-serif text-[15px] ${active ? "text-accent" : "text-quiet"}`}>
        {number}
      </span>
      <button
        className="min-w-0 flex-1 cursor-pointer text-left"
        aria-pressed={active}
        onClick={() => benchView.setState({ moveId: active ? null : move.id, tool: "look" })}
      >
        <span className="block truncate">{move.name}</span>
        <span className="text-quiet block truncate text-[11px]">
          {move.invert ? `outside ${kind}` : kind}
          {move.amountPercent !== 100 && `, ${move.amountPercent} %`}
        </span>
      </button>
      <span className="bg-line relative h-[7px] w-[56px] shrink-0" aria-hidden style={{ background: "none" }}>
        <i className="bg-quiet absolute top-[-2px] left-1/2 h-[11px] w-px" />
        <i
          className={`absolute top-0 h-full ${active ? "bg-accent" : "bg-quiet"}`}
          style={move.stops < 0 ? { right: "50%", width: `${share}%` } : { left: "50%", width: `${share}%` }}
        />
      </span>
      <span className="w-9 shrink-0 text-right font-serif text-[15px]">{formatStops(move.stops)}</span>
      <button
        className="text-quiet cursor-pointer p-1"
        aria-label={move.on ? `Switch ${move.name} off` : `Switch ${move.name} on`}
        onClick={flip}
      >
        {move.on ? <Eye size={14} /> : <EyeOff size={14} />}
      </button>
    </li>
  );
}

function BrushGroup({ continues, onNew }: { continues: string | null; onNew: () => void }) {
  const { brush } = useStore(benchView);
  const set = (change: Partial<typeof brush>) => benchView.setState({ brush: { ...brush, ...change } });
  const props = (field: "radius" | "softness" | "flow", label: string) => ({
    label,
    value: brush[field],
    range: rangeOf(strokeSchema, field),
    format: asPercent,
    typedScale: 100,
    onChange: (value: number) => set({ [field]: value }),
    onEnd: () => undefined,
  });
  const grow = (factor: number) => set({ radius: Math.min(1, Math.max(0.001, brush.radius * factor)) });
  useAct({ id: "wider", label: "Wider brush", group: "Light", keys: "w", run: () => grow(1.2) });
  useAct({ id: "narrower", label: "Narrower brush", group: "Light", keys: "q", run: () => grow(1 / 1.2) });
  useAct({
    id: "erase",
    label: "Lay down or take away",
    group: "Light",
    keys: "r",
    run: () => set({ erase: !brush.erase }),
  });
  return (
    <Group
      title="Brush"
      aside={
        <span className="flex">
          <button className="act" aria-pressed={brush.erase} onClick={() => set({ erase: !brush.erase })}>
            {brush.erase ? "Takes away" : "Lays down"} <kbd>R</kbd>
          </button>
          {continues && (
            <button className="act" onClick={onNew} title="The next stroke begins a new move">
              New
            </button>
          )}
        </span>
      }
    >
      <Amount
        {...props("radius", "Radius")}
        range={{ ...rangeOf(strokeSchema, "radius"), maximum: 0.3 }}
        step={0.005}
      />
      <Amount {...props("softness", "Softness")} step={0.05} />
      <Amount {...props("flow", "Flow")} step={0.01} />
      <p className="text-quiet pt-1">
        {continues ? `Strokes go on in “${continues}”.` : "The first stroke begins a new move."} Q and W change the
        radius.
      </p>
    </Group>
  );
}

function MoveGroup({ move, number }: { move: LightMove; number: number }) {
  const session = useSession();
  const preview = (change: (old: LightMove) => LightMove) =>
    session.preview((recipe) => changeMove(recipe, move.id, change));
  const keep = (what: string) => session.commit("Light", `${what} of ${move.name}`);
  const change = (what: string, next: (old: LightMove) => LightMove) => {
    preview(next);
    keep(what);
  };
  const stopsRange = rangeOf(lightMoveSchema, "stops");
  const setStops = (what: string, next: (stops: number) => number) =>
    change(what, (old) => ({
      ...old,
      stops: Number(Math.min(stopsRange.maximum, Math.max(stopsRange.minimum, next(old.stops))).toFixed(4)),
    }));
  const duplicate = () => {
    const { copy } = duplicateMove(session.store.getState().recipe, move.id);
    if (!copy) return;
    session.change("Light", `Copy of ${move.name}`, (recipe) => duplicateMove(recipe, move.id, copy.id).recipe);
    benchView.setState({ moveId: copy.id });
  };
  const remove = () => {
    session.change("Light", `Took away ${move.name}`, (recipe) => removeMove(recipe, move.id));
    benchView.setState({ moveId: null });
  };
  const shift = (by: -1 | 1) =>
    session.change("Light", `Order of ${move.name}`, (recipe) => shiftMove(recipe, move.id, by));
  const softnessRange = rangeOf(ellipseSchema, "softness");
  useAct({
    id: "less",
    label: "A little darker",
    group: "Light",
    keys: "bracketleft",
    run: () => setStops("Stops", (s) => s - A_LITTLE_STOPS),
  });
  useAct({
    id: "more",
    label: "A little lighter",
    group: "Light",
    keys: "bracketright",
    run: () => setStops("Stops", (s) => s + A_LITTLE_STOPS),
  });
  useAct({
    id: "halve",
    label: "Halve the move",
    group: "Light",
    keys: "h",
    run: () => setStops("Half", (s) => s / 2),
  });
  useAct({
    id: "opposite",
    label: "Opposite of the move",
    group: "Light",
    keys: "o",
    run: () => setStops("Opposite", (s) => -s),
  });
  useAct({
    id: "invert",
    label: "Inside or outside",
    group: "Light",
    keys: "i",
    run: () => change("Side", (old) => ({ ...old, invert: !old.invert })),
  });
  useAct({ id: "duplicate-move", label: "Duplicate the move", group: "Light", keys: "shift+d", run: duplicate });
  useAct({ id: "remove-move", label: "Take the move away", group: "Light", keys: "delete,backspace", run: remove });

  return (
    <Group
      title={`${number} · ${move.name}`}
      aside={
        <span className="text-quiet flex">
          <IconAct label="Earlier" onClick={() => shift(-1)} icon={<ArrowUp size={14} />} />
          <IconAct label="Later" onClick={() => shift(1)} icon={<ArrowDown size={14} />} />
          <IconAct label="Duplicate" onClick={duplicate} icon={<Copy size={14} />} />
          <IconAct label="Take away" onClick={remove} icon={<Trash2 size={14} />} />
        </span>
      }
    >
      <input
        className="field mb-1 w-full"
        aria-label="Name of the move"
        value={move.name}
        maxLength={80}
        onChange={(event) => preview((old) => ({ ...old, name: event.target.value }))}
        onBlur={() => keep("Name")}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <Amount
        label="Stops"
        value={move.stops}
        range={{ ...stopsRange, default: 0 }}
        step={A_LITTLE_STOPS}
        format={asStops}
        onChange={(stops) => preview((old) => ({ ...old, stops }))}
        onEnd={() => keep("Stops")}
      />
      <Amount
        label="Amount"
        value={move.amountPercent}
        range={rangeOf(lightMoveSchema, "amountPercent")}
        step={5}
        format={(v) => `${Math.round(v)} %`}
        onChange={(v) => preview((old) => ({ ...old, amountPercent: Math.round(v) }))}
        onEnd={() => keep("Amount")}
      />
      {move.shape.kind === "ellipse" && (
        <>
          <Amount
            label="Softness"
            value={move.shape.softness}
            range={softnessRange}
            step={0.05}
            format={asPercent}
            typedScale={100}
            onChange={(softness) =>
              preview((old) => (old.shape.kind === "ellipse" ? { ...old, shape: { ...old.shape, softness } } : old))
            }
            onEnd={() => keep("Softness")}
          />
          <Amount
            label="Turned"
            value={move.shape.angleDegrees}
            range={{ minimum: -180, maximum: 180, default: 0, description: "Turned clockwise." }}
            step={5}
            format={asDegrees}
            onChange={(angleDegrees) =>
              preview((old) => (old.shape.kind === "ellipse" ? { ...old, shape: { ...old.shape, angleDegrees } } : old))
            }
            onEnd={() => keep("Turn")}
          />
        </>
      )}
      <div className="-mx-2 flex flex-wrap pt-1">
        <button className="act" onClick={() => setStops("Stops", (s) => s - A_LITTLE_STOPS)}>
          Darker <kbd>[</kbd>
        </button>
        <button className="act" onClick={() => setStops("Stops", (s) => s + A_LITTLE_STOPS)}>
          Lighter <kbd>]</kbd>
        </button>
        <button className="act" onClick={() => setStops("Half", (s) => s / 2)}>
          Halve it <kbd>H</kbd>
        </button>
        <button className="act" onClick={() => setStops("Opposite", (s) => -s)}>
          Opposite <kbd>O</kbd>
        </button>
        <button
          className="act"
          aria-pressed={move.invert}
          onClick={() => change("Side", (old) => ({ ...old, invert: !old.invert }))}
        >
          {move.invert ? "Outside" : "Inside"} <kbd>I</kbd>
        </button>
      </div>
    </Group>
  );
}
