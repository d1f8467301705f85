import {
  BY_LIGHT,
  easeFamilies,
  easeWeights,
  formatSigned,
  formatStops,
  luminanceNoise,
  SEEN_ROUGHNESS,
  SMALLEST_ASKED,
  VISIBLE_SEAM,
  type Negative,
  type Recipe,
  type Vector3,
  MIDDLE_GREY,
  seenDamage,
} from "@yelm/core";
import type { ReactNode } from "react";
import { groupName } from "./group-name.ts";
import type { WeighPrice } from "./measure-price.ts";
import { usePrice, type WeighScene } from "./measured.ts";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { benchView } from "../../picture/bench-view.ts";
import { clampStops } from "./family-edits.ts";
import { capital } from "../../controls/formats.ts";
import { WEIGH } from "../../controls/lenses.ts";
import { easing, milder, movedLess } from "./easing.ts";

/** Noise, in stops of ISO, from which it is worth a warning; and what easing brings it down to. */
const DEAR_STOPS = 0.7;
const FAIR_STOPS = 0.4;
/** Share of the picture that may clip. */
const CLEAN_CLIPPING = 0.002;

interface PriceProps {
  readonly negative: Negative;
  readonly scene: WeighScene;
  readonly exposureEv: number;
}

/** What the conversion costs, before it shows: noise, edges, clipping, seams; each with its mildest mending. */
export function PriceGroup({ negative, scene, exposureEv }: PriceProps) {
  const answer = usePrice();
  const price = answer.data;
  const { value: weigh, change } = useLens(WEIGH);
  // Of a file without a sensor's noise only what is printed of it can be measured.
  const noiseKnown = luminanceNoise(negative.capture) !== null;
  return (
    <Group title="Price">
      {noiseKnown && (
        <NoiseLine
          negative={negative}
          scene={scene}
          exposureEv={exposureEv}
          weigh={weigh}
          onEase={(eased) => change("Weights eased", eased)}
        />
      )}
      <NoAnswer answer={answer} what="The price" />
      {!price ? (
        !answer.isError && (
          <Line name="Edges, clipping">
            <span className="text-quiet">measuring…</span>
          </Line>
        )
      ) : (
        <>
          {!noiseKnown && (
            <RoughLine scene={scene} rough={price.rough} onEase={(eased) => change("Moves eased", eased)} />
          )}
          <EdgeLine scene={scene} edge={price.edge} weigh={weigh} onEase={(eased) => change("Edges eased", eased)} />
          <ClippingLine
            scene={scene}
            clipping={price.clipping}
            weigh={weigh}
            onEase={(eased) => change("Clipping eased", eased)}
          />
          {weigh.areas.length > 0 && <SeamLine weigh={weigh} seam={price.seam} />}
        </>
      )}
    </Group>
  );
}

type Weigh = Recipe["weigh"];
type Price = WeighPrice;

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex justify-between gap-3 py-0.5">
      <span className="text-quiet shrink-0">{name}</span>
      <span className="text-right">{children}</span>
    </div>
  );
}

/** A finding with its act: in the accent, but calm. */
function Finding({ children, act, onAct }: { children: ReactNode; act: string; onAct: () => void }) {
  return (
    <p className="border-accent bg-fill my-1.5 border-l-2 px-3 py-2">
      {children}{" "}
      <button className="text-accent cursor-pointer underline-offset-2 hover:underline" onClick={onAct}>
        {act}
      </button>
    </p>
  );
}

interface NoiseLineProps extends PriceProps {
  readonly weigh: Weigh;
  readonly onEase: (change: Partial<Weigh>) => void;
}

function NoiseLine({ negative, scene, exposureEv, weigh, onEase }: NoiseLineProps) {
  const { families, facts, noise, probe } = scene;
  let worst = families.length;
  noise.forEach((stops, i) => {
    if (facts[i].share >= SMALLEST_ASKED && (stops ?? 0) > (noise[worst] ?? 0)) worst = i;
  });
  const stops = noise[worst] ?? 0;
  if (stops < DEAR_STOPS)
    return (
      <Line name="Noise against neutral">
        {stops < 0.05 ? "nothing added" : `${formatSigned(stops, 1)} stops, in ${groupName(families, worst)}`}
      </Line>
    );
  const ease = () => {
    if (families.some((family) => family.stops !== 0)) {
      const eased = easeFamilies(probe, Math.max(FAIR_STOPS, loudestWithout(scene)));
      if (eased.families.some((family, i) => family.stops !== families[i].stops))
        return onEase({ families: eased.families });
    }
    if (weigh.by === "film") return onEase({ film: milder(weigh.film) });
    const light = MIDDLE_GREY * 2 ** -exposureEv;
    const mix: Vector3 = [weigh.red, weigh.green, weigh.blue];
    const [red, green, blue] = easeWeights(negative.capture, mix, 2 ** (FAIR_STOPS / 2), light).map(
      (weight) => Math.round(1e4 * weight) / 1e4,
    );
    return onEase({ red, green, blue });
  };
  return (
    <Finding act="Ease it" onAct={ease}>
      {capital(groupName(families, worst))} gets as noisy as at {stops.toFixed(1)} stops more ISO, with colour already
      smoothed.
    </Finding>
  );
}

/** What the weights alone cost, which easing families cannot go below. */
function loudestWithout({ probe, families }: WeighScene): number {
  const still = families.map((family) => ({ ...family, stops: 0 }));
  return Math.max(...probe.noiseStops({ ...probe.weigh, families: still }).map((stops) => stops ?? 0)) + 0.02;
}

interface RoughLineProps {
  readonly scene: WeighScene;
  readonly rough: Price["rough"];
  readonly onEase: (change: Partial<Weigh>) => void;
}

/** What moved families make of the inside of colours, measured on the print. */
function RoughLine({ scene: { families }, rough, onEase }: RoughLineProps) {
  if (!rough || rough.roughness < SEEN_ROUGHNESS) return <Line name="Inside of colours">clean</Line>;
  return (
    <Finding act="Move them less" onAct={() => onEase({ families: movedLess(families) })}>
      Inside {groupName(families, rough.group)} the moves roughen the print by {rough.roughness.toFixed(1)} L* from
      pixel to pixel: noise of the file, or fine texture of colour. <ShowIt at={rough} /> ·
    </Finding>
  );
}

/** Brings a place of the frame to 100 %. */
function ShowIt({ at: { x, y } }: { at: { readonly x: number; readonly y: number } }) {
  const show = () => benchView.setState({ zoom: { zoom: 1, centreX: x, centreY: y } });
  return (
    <button className="text-accent cursor-pointer underline-offset-2 hover:underline" onClick={show}>
      Show it
    </button>
  );
}

interface EdgeLineProps {
  readonly scene: WeighScene;
  readonly edge: Price["edge"];
  readonly weigh: Weigh;
  readonly onEase: (change: Partial<Weigh>) => void;
}

function EdgeLine({ scene, edge, weigh, onEase }: EdgeLineProps) {
  // Plain weights mix as light does: they cannot harm an edge.
  const bends = weigh.by === "film" || scene.families.some(({ stops }) => stops !== 0);
  const seen = bends && edge ? seenDamage(edge) : null;
  if (!edge || !seen) return <Line name="Edges">clean</Line>;
  const [one, other] = [edge.first, edge.second].map((group) => groupName(scene.families, group));
  const told = {
    mixing: `mixtures of the two print ${edge.mixing.toFixed(0)} L* beyond what their light makes`,
    contour: `a line stands out along the edge by ${edge.contour.toFixed(0)} L*`,
    stairs: `the edge is jagged by ${edge.stairPx.toFixed(1)} pixels`,
  };
  const { act, change } =
    seen === "mixing"
      ? {
          act: "Mix them by their light",
          change: { ...BY_LIGHT, softness: Math.max(BY_LIGHT.softness, weigh.softness) },
        }
      : easing(scene.families, weigh);
  return (
    <Finding act={act} onAct={() => onEase(change)}>
      Where {one} and {other} meet {told[seen]}. <ShowIt at={edge} /> ·
    </Finding>
  );
}

interface ClippingLineProps {
  readonly scene: WeighScene;
  readonly clipping: Price["clipping"];
  readonly weigh: Weigh;
  readonly onEase: (change: Partial<Weigh>) => void;
}

function ClippingLine({ scene, clipping: { black, white, family }, weigh, onEase }: ClippingLineProps) {
  if (black + white < CLEAN_CLIPPING) return <Line name="Clipping">none caused</Line>;
  const [side, share] = black > white ? ["black", black] : ["white", white];
  const percent = `${(100 * share).toFixed(1)} % of the picture goes ${side} by it`;
  if (family === null) {
    const { act, change } = easing(scene.families, weigh);
    return (
      <Finding act={act} onAct={() => onEase(change)}>
        {percent}, most of it neutral.
      </Finding>
    );
  }
  const { name, stops } = scene.families[family];
  const back = side === "white" ? -1 : 1;
  // What was moved there goes half of the way back; else the family is held a quarter of a stop.
  const next = stops * back < 0 ? stops / 2 : stops + back / 4;
  const ease = () =>
    onEase({
      families: scene.families.map((one, i) => (i === family ? { ...one, stops: clampStops(next) } : one)),
    });
  return (
    <Finding act={stops * back < 0 ? `Halve ${name}` : `${capital(name)} ${formatStops(back / 4)}`} onAct={ease}>
      {percent}, most of it {name}.
    </Finding>
  );
}

function SeamLine({ weigh, seam }: { weigh: Weigh; seam: Price["seam"] }) {
  if (!seam || seam.stopsPerPercent < VISIBLE_SEAM) return <Line name="Seams of areas">none seen</Line>;
  const area = weigh.areas.find(({ id }) => id === seam.areaId);
  const show = () => benchView.setState({ zoom: { zoom: 1, centreX: seam.x, centreY: seam.y }, areaId: seam.areaId });
  return (
    <Finding act="Show it" onAct={show}>
      The edge of {area?.name ?? "an area"} shows on something smooth: {seam.stopsPerPercent.toFixed(2)} stops in a
      hundredth of the picture. Make it softer.
    </Finding>
  );
}
