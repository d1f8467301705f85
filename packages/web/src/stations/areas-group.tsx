import { ellipseSchema, rangeOf, weighAreaSchema, type WeighArea } from "@yelm/core";
import { ArrowDown, ArrowUp, Brush, Circle, Eye, EyeOff, Trash2 } from "lucide-react";
import { useEffect } from "react";
import { useStore } from "zustand";
import { Amount } from "../controls/amount.tsx";
import { Choice } from "../controls/choice.tsx";
import { Group } from "../controls/group.tsx";
import { IconAct } from "../controls/icon-act.tsx";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView, type Tool } from "../picture/bench-view.ts";
import { changeArea, removeArea, shiftArea } from "./area-edits.ts";
import { FilmChoices } from "./film-group.tsx";
import { asPercent, asWeight } from "./formats.ts";
import { WEIGHT_LABELS } from "./weight-edits.ts";

/** Areas with a conversion of their own: drawn on the picture, each laid over those before it. */
export function AreasGroup() {
  const areas = useEdit((state) => state.recipe.weigh.areas);
  const session = useSession();
  const { tool, areaId } = useStore(benchView);
  const active = areas.find(({ id }) => id === areaId);
  const take = (next: Tool) => benchView.setState({ tool: tool === next ? "look" : next });
  const newBrush = () => benchView.setState({ tool: tool === "brush" ? "look" : "brush", areaId: null });
  useEffect(() => {
    benchView.setState({ areasOpen: true });
    return () => benchView.setState({ areasOpen: false, tool: "look" });
  }, []);
  useAct({ id: "area-ellipse", label: "Ellipse for an area", group: "Print", keys: "e", run: () => take("ellipse") });
  useAct({ id: "area-brush", label: "Brush an area", group: "Print", keys: "p", run: newBrush });
  const flip = (area: WeighArea) =>
    session.change("Weigh", `${area.name} ${area.on ? "off" : "on"}`, (recipe) =>
      changeArea(recipe, area.id, ({ on }) => ({ on: !on })),
    );
  return (
    <Group title="Areas">
      <div className="-mx-2 flex gap-1 pb-1">
        <button className="act" aria-pressed={tool === "ellipse"} onClick={() => take("ellipse")}>
          <Circle size={14} /> Ellipse <kbd>E</kbd>
        </button>
        <button className="act" aria-pressed={tool === "brush"} onClick={newBrush}>
          <Brush size={14} /> Brush <kbd>P</kbd>
        </button>
      </div>
      {areas.length === 0 && (
        <p className="text-quiet pb-1">
          No areas yet. Draw one where the picture wants other weights or another film; what no area claims stays as it
          is.
        </p>
      )}
      <ol aria-label="Areas" className="-mx-2">
        {areas.map((area, i) => (
          <li
            key={area.id}
            className={`flex items-center gap-2 rounded px-2 py-1 ${area === active ? "bg-fill" : ""} ${area.on ? "" : "opacity-50"}`}
          >
            <span
              className={`w-4 text-center font-serif text-[15px] ${area === active ? "text-accent" : "text-quiet"}`}
            >
              {i + 1}
            </span>
            <button
              className="min-w-0 flex-1 cursor-pointer truncate text-left"
              aria-pressed={area === active}
              onClick={() => benchView.setState({ areaId: area === active ? null : area.id, tool: "look" })}
            >
              {area.name}
            </button>
            <IconAct
              label={area.on ? `Switch ${area.name} off` : `Switch ${area.name} on`}
              icon={area.on ? <Eye size={14} /> : <EyeOff size={14} />}
              onClick={() => flip(area)}
            />
          </li>
        ))}
      </ol>
      {active && <AreaControls key={active.id} area={active} />}
    </Group>
  );
}

function AreaControls({ area }: { area: WeighArea }) {
  const session = useSession();
  const { id, name, shape } = area;
  const preview = (change: Partial<WeighArea>) => session.preview((recipe) => changeArea(recipe, id, () => change));
  const keep = (what: string) => session.commit("Weigh", `${what} of ${name}`);
  const change = (what: string, next: Partial<WeighArea>) => {
    preview(next);
    keep(what);
  };
  const shift = (by: -1 | 1) => session.change("Weigh", `Order of ${name}`, (recipe) => shiftArea(recipe, id, by));
  const remove = () => {
    session.change("Weigh", `Took away ${name}`, (recipe) => removeArea(recipe, id));
    benchView.setState({ areaId: null });
  };
  return (
    <div className="pt-1">
      <div className="flex items-center gap-1 pb-1">
        <input
          className="field min-w-0 flex-1"
          aria-label="Name of the area"
          value={name}
          maxLength={40}
          onChange={(event) => event.target.value && preview({ name: event.target.value })}
          onBlur={() => keep("Name")}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
        <span className="text-quiet flex">
          <IconAct label="Earlier" onClick={() => shift(-1)} icon={<ArrowUp size={14} />} />
          <IconAct label="Later" onClick={() => shift(1)} icon={<ArrowDown size={14} />} />
          <IconAct label="Take away" onClick={remove} icon={<Trash2 size={14} />} />
        </span>
      </div>
      <div className="flex items-center justify-between pb-1">
        <Choice
          label="Conversion of the area"
          value={area.by}
          options={[
            ["weights", "weights"],
            ["film", "film"],
          ]}
          onChoose={(by) => change("Conversion", { by })}
        />
        <button className="act" aria-pressed={area.invert} onClick={() => change("Side", { invert: !area.invert })}>
          {area.invert ? "Outside" : "Inside"}
        </button>
      </div>
      {area.by === "weights" ? (
        WEIGHT_LABELS.map(([field, label]) => (
          <Amount
            key={field}
            label={label}
            value={area[field]}
            range={rangeOf(weighAreaSchema, field)}
            step={0.05}
            format={asWeight}
            onChange={(value) => preview({ [field]: value })}
            onEnd={() => keep(label)}
          />
        ))
      ) : (
        <FilmChoices film={area.film} onFilm={(label, film) => change(label, { film: { ...area.film, ...film } })} />
      )}
      {shape.kind === "ellipse" && (
        <Amount
          label="Softness"
          value={shape.softness}
          range={rangeOf(ellipseSchema, "softness")}
          step={0.05}
          format={asPercent}
          typedScale={100}
          onChange={(softness) => preview({ shape: { ...shape, softness } })}
          onEnd={() => keep("Softness")}
        />
      )}
    </div>
  );
}
