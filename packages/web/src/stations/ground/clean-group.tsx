import { GROUND_ACTS } from "./acts.ts";
import { frameOf, type DustPlace, type Negative } from "@yelm/core";
import { Eye, EyeOff, X } from "lucide-react";
import { useState } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { benchView, type Tool } from "../../picture/bench-view.ts";
import { FIT } from "../../picture/placement.ts";
import { usePool } from "../../workers/use-answer.ts";
import { notify } from "../../shell/shell-view.ts";
import { newSpot, withoutSpot, withSpot } from "./clean-edits.ts";
import { applyToFrame } from "./frame-places.ts";

const RADIUS = { minimum: 0.001, maximum: 0.1, default: 0.01, description: "Radius of new places, in long edges." };
const asShare = (share: number) => `${(100 * share).toFixed(2)} %`;

/** Healing and cloning; each mended place can be looked at before and after, and dust is proposed one by one. */
export function CleanGroup({ negative }: { negative: Negative }) {
  const pool = usePool();
  const session = useSession();
  const spots = useEdit((state) => state.recipe.ground.clean);
  const { tool, cleanId, cleanRadius, dust, dustIndex } = useStore(benchView);
  const [looking, setLooking] = useState(false);
  const hold = (wanted: Tool) => benchView.setState({ tool: tool === wanted ? "look" : wanted });
  const grow = (factor: number) =>
    benchView.setState({ cleanRadius: Math.min(RADIUS.maximum, Math.max(RADIUS.minimum, cleanRadius * factor)) });
  const current = spots.find(({ id }) => id === cleanId);
  const remove = (id: string) =>
    session.change("Ground", "Mended place taken away", (recipe) => withoutSpot(recipe, id));

  const findDust = () => {
    setLooking(true);
    pool
      .ask("dust", { recipe: session.store.getState().recipe })
      .then((places) => {
        benchView.setState({ dust: places });
        if (places.length === 0) notify("Nothing on smooth areas looks like dust.");
        else goTo(places, 0);
      })
      .catch((error: Error) => notify(error.message))
      .finally(() => setLooking(false));
  };
  /** Shows one place of the list at 100 %. */
  const goTo = (places: readonly DustPlace[], index: number) => {
    const place = places[index];
    if (!place) {
      benchView.setState({ dust: [], dustIndex: 0, zoom: FIT });
      return;
    }
    const frame = frameOf(negative, session.store.getState().recipe.ground);
    const [x, y] = applyToFrame(negative, frame, place.x, place.y);
    benchView.setState({
      dustIndex: index,
      zoom: { zoom: 1, centreX: x / frame.width, centreY: y / frame.height },
    });
  };
  const leave = () => {
    const left = dust.filter((_, i) => i !== dustIndex);
    benchView.setState({ dust: left });
    goTo(left, Math.min(dustIndex, left.length - 1));
  };
  const take = () => {
    const place = dust[dustIndex];
    if (!place) return;
    const spot = newSpot("heal", [[place.x, place.y]], place.radius * 1.4);
    void pool
      .ask("healSource", { recipe: session.store.getState().recipe, spot })
      .catch(() => ({}))
      .then((source) => {
        session.change("Ground", "Dust healed", (recipe) => withSpot(recipe, { ...spot, ...source }));
        leave();
      });
  };
  useAct({ ...GROUND_ACTS["heal"], run: () => hold("heal") });
  useAct({ ...GROUND_ACTS["clone"], run: () => hold("clone") });
  useAct({ ...GROUND_ACTS["dust"], run: findDust });
  const asked = dust.length > 0;
  useAct({ ...GROUND_ACTS["dust-take"], enabled: asked, run: take });
  useAct({ ...GROUND_ACTS["dust-leave"], enabled: asked, run: leave });
  const mending = tool === "heal" || tool === "clone";
  useAct({ ...GROUND_ACTS["clean-wider"], enabled: mending, run: () => grow(1.2) });
  useAct({ ...GROUND_ACTS["clean-narrower"], enabled: mending, run: () => grow(1 / 1.2) });
  useAct({
    ...GROUND_ACTS["clean-remove"],
    enabled: mending && current !== undefined,
    run: () => current && remove(current.id),
  });
  return (
    <Group title="Clean" folded={spots.length === 0 ? "as it came" : `${spots.length} mended`}>
      <div className="flex flex-wrap gap-1 pb-1">
        <button
          className={`chip ${tool === "heal" ? "chip-on" : ""}`}
          aria-pressed={tool === "heal"}
          onClick={() => hold("heal")}
        >
          Heal <kbd>M</kbd>
        </button>
        <button
          className={`chip ${tool === "clone" ? "chip-on" : ""}`}
          aria-pressed={tool === "clone"}
          onClick={() => hold("clone")}
        >
          Clone <kbd>⇧ M</kbd>
        </button>
        <button className="chip" disabled={looking} onClick={findDust}>
          {looking ? "Looking…" : "Find dust"} <kbd>Z</kbd>
        </button>
      </div>
      <Amount
        label="Radius"
        value={cleanRadius}
        range={RADIUS}
        step={0.001}
        format={asShare}
        typedScale={100}
        onChange={(value) => benchView.setState({ cleanRadius: value })}
        onEnd={() => undefined}
      />
      {asked && (
        <div className="border-accent my-2 border-l-2 pl-3" data-testid="dust-asked">
          <p className="pb-1">
            {dust.length === 1 ? "One place looks" : `${dust.length} places look`} like dust. Is the one that is marked?
          </p>
          <span className="flex flex-wrap gap-1">
            <button className="chip" onClick={take}>
              Heal it <kbd>Y</kbd>
            </button>
            <button className="chip" onClick={leave}>
              Leave it <kbd>D</kbd>
            </button>
            <button className="chip" onClick={() => goTo([], 0)}>
              Enough
            </button>
          </span>
        </div>
      )}
      <ol className="pt-1">
        {spots.map((spot, i) => {
          const put = (on: boolean) => session.preview((recipe) => withSpot(recipe, { ...spot, on }));
          return (
            <li key={spot.id} className={`flex items-center ${spot.id === cleanId ? "bg-fill" : ""} rounded`}>
              <button
                className="flex min-w-0 flex-1 cursor-pointer gap-2 px-1 py-0.5 text-left"
                onClick={() => benchView.setState({ cleanId: spot.id, tool: spot.kind })}
              >
                <span className="text-quiet w-5 text-right font-serif">{i + 1}</span>
                <span className="truncate">
                  {spot.kind === "heal" ? "healed" : "cloned"}, {spot.points.length > 1 ? "stroke" : "spot"}
                </span>
              </button>
              <button
                className="act"
                title="Hold to see it before"
                aria-label={`Mended place ${i + 1}: hold to see before`}
                onPointerDown={() => put(false)}
                onPointerUp={() => session.revert()}
                onPointerLeave={() => session.revert()}
              >
                {spot.on ? <Eye size={14} /> : <EyeOff size={14} />}
              </button>
              <button className="act" aria-label={`Take mended place ${i + 1} away`} onClick={() => remove(spot.id)}>
                <X size={14} />
              </button>
            </li>
          );
        })}
      </ol>
    </Group>
  );
}
