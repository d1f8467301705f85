import { useEffect, useState } from "react";
import type { Neighbours } from "@yelm/core";
import { groupId, groupName } from "./group-name.ts";
import type { WeighScene } from "./measured.ts";
import { Group } from "../../controls/group.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { capital } from "../../controls/formats.ts";
import { usePartByWeights, useSolve, useTried } from "./use-solve.ts";

const SHOWN = 3;

/** Which neighbours have become one grey, and parting them. */
export function NeighboursGroup({ scene }: { scene: WeighScene }) {
  const [all, setAll] = useState(false);
  const solve = useSolve(scene);
  const tried = useTried(scene);
  const { families, neighbours } = scene;
  const merged = neighbours.filter((pair) => pair.merged);
  const point = (pair: Neighbours | null) => pointAt(families, pair);
  return (
    <Group
      title="Neighbours"
      aside={
        neighbours.length > 0 && (
          <button className="act text-quiet" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Hide the pairs" : "All pairs"}
          </button>
        )
      }
    >
      {merged.length === 0 && (
        <p className="text-quiet">
          {families.length === 1
            ? "One colour only. Split it, or pick a second, to set them apart."
            : "Whatever touches and differs in colour differs in grey."}
        </p>
      )}
      <ul aria-label="Merged neighbours" className="space-y-2">
        {merged.slice(0, SHOWN).map((pair) => (
          <MergedPair key={`${pair.first} ${pair.second}`} scene={scene} pair={pair} />
        ))}
      </ul>
      {merged.length > 1 && (
        <button
          className="act -mx-2 mt-1"
          title="While the pointer rests here the picture shows it"
          {...tried({ kind: "part all" })}
          onClick={() => void solve({ kind: "part all" }, "Neighbours parted")}
        >
          Part all {merged.length}
        </button>
      )}
      {all && <Pairs scene={scene} onPoint={point} />}
    </Group>
  );
}

/** Lights up where two groups touch, or nothing. */
function pointAt(families: WeighScene["families"], pair: Neighbours | null): void {
  benchView.setState({ pointed: pair ? [groupId(families, pair.first), groupId(families, pair.second)] : [] });
}

function MergedPair({ scene, pair }: { scene: WeighScene; pair: Neighbours }) {
  const solve = useSolve(scene);
  const tried = useTried(scene);
  const byWeights = usePartByWeights(scene);
  const { families } = scene;
  const [one, other] = [pair.first, pair.second].map((group) => groupName(families, group));
  const point = () => pointAt(families, pair);
  const leave = () => pointAt(families, null);
  // Once parted it is gone from under the pointer, which then never leaves it.
  useEffect(() => () => benchView.setState({ pointed: [] }), []);
  const act = "text-accent cursor-pointer underline-offset-2 hover:underline";
  return (
    <li
      className="border-accent bg-fill border-l-2 px-3 py-2"
      onPointerEnter={point}
      onPointerLeave={leave}
      onFocus={point}
      onBlur={leave}
    >
      {capital(one)} and {other} touch and have become one grey (ΔL* {Math.abs(pair.greyDifference).toFixed(0)}).{" "}
      <button
        className={act}
        title="While the pointer rests here the picture shows it"
        {...tried({ kind: "part", first: pair.first, second: pair.second })}
        onClick={() =>
          void solve({ kind: "part", first: pair.first, second: pair.second }, `${one} and ${other} parted`)
        }
      >
        Part them
      </button>
      {scene.probe.weigh.by === "weights" && (
        <>
          {" "}
          or{" "}
          <button
            className={act}
            title="The nearest three weights that part them, sum kept"
            onClick={() => void byWeights(pair.first, pair.second)}
          >
            by weights
          </button>
        </>
      )}
    </li>
  );
}

/** Every pair that touches, in a matrix: ΔL* of the two, in the accent where they are one grey. */
function Pairs({ scene, onPoint }: { scene: WeighScene; onPoint: (pair: Neighbours | null) => void }) {
  const { families, neighbours } = scene;
  const groups = [...new Set(neighbours.flatMap(({ first, second }) => [first, second]))].sort((p, q) => p - q);
  const pairOf = (p: number, q: number) =>
    neighbours.find(({ first, second }) => (first === p && second === q) || (first === q && second === p));
  return (
    <table
      className="mt-2 w-full table-fixed text-center text-[11px]"
      aria-label="Differences of grey between neighbours"
    >
      <thead>
        <tr>
          <th className="w-[84px]" aria-label="Family" />
          {groups.slice(0, -1).map((column) => (
            <th key={column} className="text-quiet font-normal" title={groupName(families, column)} scope="col">
              {column + 1}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {groups.map((row, r) => (
          <tr key={row}>
            <th className="text-quiet truncate text-left font-normal" scope="row">
              {row + 1} {groupName(families, row)}
            </th>
            {groups.slice(0, -1).map((column, c) => {
              const pair = c < r ? pairOf(row, column) : undefined;
              return (
                <td
                  key={column}
                  className={pair?.merged ? "text-accent" : "text-base-content"}
                  title={
                    pair &&
                    `${groupName(families, column)} and ${groupName(families, row)}: ΔE ${pair.colourDifference.toFixed(0)}`
                  }
                  onPointerEnter={() => pair && onPoint(pair)}
                  onPointerLeave={() => onPoint(null)}
                >
                  {pair ? Math.abs(pair.greyDifference).toFixed(0) : ""}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
