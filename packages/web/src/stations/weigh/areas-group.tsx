import { rangeOf, weighAreaSchema, type WeighArea } from "@yelm/core";
import { useEffect } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { asWeight } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { ShapeGroup, ShapeList } from "../../shapes/shape-list.tsx";
import { ShapeToolRow } from "../../shapes/tool-row.tsx";
import { changeArea } from "./area-edits.ts";
import { FilmChoices } from "./film-group.tsx";
import { AREA_STACK } from "./stack.ts";
import { WEIGHT_LABELS } from "./weight-edits.ts";

/** Areas with a conversion of their own: drawn on the picture, each laid over those before it. */
export function AreasGroup() {
  const areas = useEdit((state) => state.recipe.weigh.areas);
  const { areaId } = useStore(benchView);
  const index = areas.findIndex(({ id }) => id === areaId);
  const active = areas[index] as WeighArea | undefined;
  useEffect(() => {
    benchView.setState({ areasOpen: true });
    return () => benchView.setState({ areasOpen: false });
  }, []);
  return (
    <>
      <Group title="Areas">
        <ShapeToolRow stack={AREA_STACK} active={active && { ...active, label: "" }} />
        {areas.length === 0 && (
          <p className="text-quiet pb-1">
            No areas yet. Draw one where the picture wants other weights or another film; what no area claims stays as
            it is.
          </p>
        )}
        <ShapeList stack={AREA_STACK} label="Areas" />
      </Group>
      {active && <AreaGroup key={active.id} area={active} number={index + 1} />}
    </>
  );
}

function AreaGroup({ area, number }: { area: WeighArea; number: number }) {
  const session = useSession();
  const { id, name } = area;
  const preview = (change: Partial<WeighArea>) => session.preview((recipe) => changeArea(recipe, id, () => change));
  const keep = (what: string) => session.commit("Weigh", `${what} of ${name}`);
  const change = (what: string, next: Partial<WeighArea>) => {
    preview(next);
    keep(what);
  };
  return (
    <ShapeGroup stack={AREA_STACK} item={{ ...area, label: "" }} number={number}>
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
    </ShapeGroup>
  );
}
