import { pointAtFirstSpeck, rangeOf, readKey, shapeSchema, type Histograms } from "@yelm/core";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { asPlain, asStops, zoneThirds } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { SHAPE } from "../../controls/lenses.ts";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useHistograms } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { SHAPE_STATION_ACTS } from "./acts.ts";
import { pointsFor } from "./points.ts";
import { useEnds } from "../../instruments/use-ends.ts";

/** A small step back from clipping, stops. */
const STEP_BACK = 1 / 6;

const ENDS = {
  black: { field: "blackPoint", label: "Black point", meant: "letBlack", let: "Let it go black", out: -1 },
  white: { field: "whitePoint", label: "White point", meant: "letWhite", let: "Let it go white", out: 1 },
} as const;

/** The ends of the scale, its middle and its contrast. While an end moves the picture shows what it clips. */
export function PointsGroup() {
  const { histograms, answer } = useHistograms();
  const { ends } = useEnds();
  const { amount, change } = useLens(SHAPE);
  const { laidOut } = useStore(benchView);
  const begin = () => benchView.setState({ laidOut: laidOut === "starts" ? null : "starts" });
  useAct({ ...SHAPE_STATION_ACTS.openings, run: begin });
  useAct({
    ...SHAPE_STATION_ACTS["show-ends"],
    run: () => benchView.setState({ ends: "both" }),
    release: () => benchView.setState({ ends: null }),
  });
  return (
    <Group
      title="Points and grade"
      aside={
        <button
          className="act"
          disabled={!ends}
          title="Puts the ends where the picture's tones end, leaving 0.15 % of it beyond each; what the plan lets go does not count"
          onClick={() => ends && change("Points set from the picture", pointsFor(ends))}
        >
          Set from picture
        </button>
      }
    >
      <NoAnswer answer={answer} what="The picture’s tones" />
      <div className="flex items-baseline justify-between pb-1">
        <KeyLine histograms={histograms} />
        <button className="act -mr-1.5" aria-pressed={laidOut === "starts"} onClick={begin}>
          Ways to begin <Keys of={SHAPE_STATION_ACTS.openings} />
        </button>
      </div>
      <End end="black" />
      <End end="white" />
      <p className="text-quiet pb-1.5">
        Show what clips <Keys of={SHAPE_STATION_ACTS["show-ends"]} hold />
      </p>
      <Amount {...amount("midPoint", "Mid point")} step={1 / 6} format={asStops} />
      <Amount {...amount("grade", "Grade")} step={0.25} format={asPlain(1)} />
    </Group>
  );
}

/** The key of the print as it is, and between which zones nine tenths of it lie. */
function KeyLine({ histograms }: { readonly histograms: Histograms | null }) {
  if (!histograms) return <span />;
  const { key, dark, middle, light } = readKey(histograms);
  return (
    <span
      className="text-quiet"
      data-testid="key"
      title={`Half of the print lies below Zone ${zoneThirds(middle)}; nine tenths between ${zoneThirds(dark)} and ${zoneThirds(light)}`}
    >
      {key} key, <span className="font-serif">{`${zoneThirds(dark)}–${zoneThirds(light)}`}</span>
    </span>
  );
}

function End({ end }: { readonly end: "black" | "white" }) {
  const { field, label, meant, let: words, out } = ENDS[end];
  const { value: shape, amount, change } = useLens(SHAPE);
  const { ends } = useEnds();
  const props = amount(field, label);
  const range = rangeOf(shapeSchema, field);
  const atSpeck = () => {
    const point = ends && pointAtFirstSpeck(ends, shape, end, range);
    if (point !== null) change(`${label} at the first speck`, { [field]: point });
  };
  const back = () => {
    const point = Math.min(range.maximum, Math.max(range.minimum, shape[field] + out * STEP_BACK));
    change(`${label} backed off`, { [field]: Math.round(100 * point) / 100 });
  };
  return (
    <>
      <Amount
        {...props}
        step={0.25}
        format={asPlain(1)}
        onChange={(next) => {
          benchView.setState({ ends: end });
          props.onChange(next);
        }}
        onEnd={() => {
          benchView.setState({ ends: null });
          props.onEnd();
        }}
      />
      <div className="-mx-1.5 flex pb-1">
        <button
          className="act"
          disabled={!ends}
          title="Goes to where the first speck clips: a ten-thousandth of the picture"
          onClick={atSpeck}
        >
          First speck
        </button>
        <button className="act" title="A sixth of a stop back from clipping" onClick={back}>
          Back off
        </button>
        <button
          className="act"
          aria-pressed={shape[meant]}
          title="What clips at this end is meant to, and is told as such"
          onClick={() =>
            change(shape[meant] ? `${label}: clipping is not wanted` : `${label}: clipping is wanted`, {
              [meant]: !shape[meant],
            })
          }
        >
          {words}
        </button>
      </div>
    </>
  );
}
