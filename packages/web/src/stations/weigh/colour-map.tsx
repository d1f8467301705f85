import { familyToPlace, membershipOf, placeToFamily, type FamilyWeigh } from "@yelm/core";
import { useMemo } from "react";
import { useStore } from "zustand";
import type { WeighScene } from "./measured.ts";
import { benchView } from "../../picture/bench-view.ts";
import { workingToCss } from "../../instruments/colour-css.ts";

const WIDTH = 268;
const HEIGHT = 150;
const LIGHTEST = 1.15;
const COLUMNS = 45;
const ROWS = 21;

interface ColourMapProps extends Pick<FamilyWeigh, "softness" | "passage"> {
  readonly scene: WeighScene;
  readonly gain: number;
}

/** The picture's colours by hue and lightness, with the middles of its families and the reach of the one in hand. */
export function ColourMap({ scene, softness, passage, gain }: ColourMapProps) {
  const { familyId, pointed } = useStore(benchView);
  const { families, colours } = scene;
  const shown = families.findIndex(({ id }) => pointed.includes(id) || (pointed.length === 0 && id === familyId));
  const x = (hue: number) => (hue / 360) * WIDTH;
  const y = (lightness: number) => HEIGHT - 4 - (Math.min(LIGHTEST, lightness) / LIGHTEST) * (HEIGHT - 8);
  const reach = useMemo(
    () => (shown === -1 ? [] : reachOf({ families: [...families], softness, passage }, shown)),
    [families, softness, passage, shown],
  );
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 16}`}
      className="block w-full"
      role="img"
      aria-label="Hue and lightness of the picture"
      data-testid="colour-map"
    >
      <rect width={WIDTH} height={HEIGHT} fill="none" className="stroke-line" />
      {reach.map(([hue, lightness]) => (
        <circle key={`${hue} ${lightness}`} cx={x(hue)} cy={y(lightness)} r={1} className="fill-accent" />
      ))}
      {colours.cells.map(({ working, place, share }, i) => {
        const { hueDegrees, saturation, lightness } = placeToFamily(place);
        if (saturation < 0.02) return null;
        const radius = Math.min(7, 1 + 26 * Math.sqrt(share));
        return (
          <circle
            key={i}
            cx={x(hueDegrees)}
            cy={y(lightness)}
            r={radius}
            fill={workingToCss(working, gain)}
            fillOpacity={0.85}
          />
        );
      })}
      {families.map(({ id, name, hueDegrees, lightness }, i) => (
        <g
          key={id}
          className="cursor-pointer"
          onClick={() => benchView.setState({ familyId: id, besideId: null })}
          onPointerEnter={() => benchView.setState({ pointed: [id] })}
          onPointerLeave={() => benchView.setState({ pointed: [] })}
        >
          <circle
            cx={x(hueDegrees)}
            cy={y(lightness)}
            r={5}
            fill="none"
            stroke="#000"
            strokeWidth={3.5}
            strokeOpacity={0.6}
          />
          <circle
            cx={x(hueDegrees)}
            cy={y(lightness)}
            r={5}
            fill="none"
            className={i === shown ? "stroke-accent" : "stroke-white"}
            strokeWidth={1.5}
          />
          <title>{name}</title>
        </g>
      ))}
      <text x={0} y={HEIGHT + 13} fontSize={11} className="fill-quiet">
        hue
      </text>
      <text x={WIDTH} y={HEIGHT + 13} textAnchor="end" fontSize={11} className="fill-quiet">
        {shown === -1 ? "dots: its colours; rings: families" : `dotted: where ${families[shown].name} reaches`}
      </text>
    </svg>
  );
}

/** Places of a hue and lightness grid, at the family's own saturation, that are more the family's than anyone's. */
function reachOf(weigh: FamilyWeigh, index: number): [number, number][] {
  const { families } = weigh;
  const membership = membershipOf(weigh);
  const shares = new Float64Array(families.length + 1);
  const { saturation } = families[index];
  const out: [number, number][] = [];
  for (let i = 0; i < COLUMNS; i++)
    for (let j = 0; j < ROWS; j++) {
      const hueDegrees = ((i + 0.5) / COLUMNS) * 360;
      const lightness = ((j + 0.5) / ROWS) * LIGHTEST;
      membership.at(familyToPlace({ hueDegrees, saturation, lightness }), shares);
      if (shares[index] > 0.5) out.push([hueDegrees, lightness]);
    }
  return out;
}
