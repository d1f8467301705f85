import { JOINS, shapeWords, type Join, type MaskShape, type SingleShape } from "@yelm/core";
import { Combine, Trash2 } from "lucide-react";
import { useStore } from "zustand";
import { IconAct } from "../controls/icon-act.tsx";
import { facts } from "../keys/act-facts.ts";
import { benchView } from "../picture/bench-view.ts";
import { partInHand, withoutPart } from "./joined-parts.ts";
import type { ControlProps, OutlineProps, ShapeTool } from "./shape-tool.ts";

type Joined = Extract<MaskShape, { kind: "joined" }>;
type ToolOf = (kind: SingleShape["kind"]) => ShapeTool<SingleShape>;

export const JOIN_WORDS: Readonly<Record<Join, string>> = {
  join: "join",
  subtract: "take off",
  intersect: "only within",
};

/** Several shapes that act as one: each is seen and pulled as it is by itself. It is not drawn, but comes of laying one onto another. */
export function joinedTool(toolOf: ToolOf): ShapeTool<Joined> {
  return {
    kind: "joined",
    act: facts({ "shape-joined": ["Light", "Shapes joined", ""] })["shape-joined"],
    icon: Combine,
    hint: "",
    firstStops: -0.5,
    pull: null,
    Outline: ({ shape, colour, mapping }: OutlineProps<Joined>) => (
      <>
        {shape.parts.map((part) => {
          const { Outline } = toolOf(part.shape.kind);
          return (
            <g key={part.id} opacity={part.how === "subtract" ? 0.55 : 1}>
              <Outline shape={part.shape} colour={colour} mapping={mapping} />
            </g>
          );
        })}
      </>
    ),
    Handles: null,
    Controls: (props: ControlProps<Joined>) => <Parts {...props} toolOf={toolOf} />,
    labelAt({ parts }, mapping) {
      const [first] = parts;
      return first ? toolOf(first.shape.kind).labelAt(first.shape, mapping) : [0, 0];
    },
    distance: ({ parts }, x, y) =>
      Math.min(Infinity, ...parts.map(({ shape }) => toolOf(shape.kind).distance(shape, x, y))),
  };
}

/** The parts in order: how each is laid on, which side of it counts, and what the one in hand can be set to. */
function Parts({ shape, preview, keep, toolOf }: ControlProps<Joined> & { toolOf: ToolOf }) {
  const { partId } = useStore(benchView);
  const inHand = partInHand(shape, partId);
  const put = (id: string, change: Partial<Joined["parts"][number]>, what: string) => {
    preview({ ...shape, parts: shape.parts.map((part) => (part.id === id ? { ...part, ...change } : part)) });
    keep(what);
  };
  const Controls = inHand && toolOf(inHand.shape.kind).Controls;
  return (
    <div className="pt-2">
      <ol aria-label="Shapes of it" className="-mx-2">
        {shape.parts.map((part, i) => (
          <li
            key={part.id}
            className={`flex items-center gap-1 rounded px-2 ${part.id === inHand?.id ? "bg-fill" : ""}`}
          >
            <button
              className="min-w-0 flex-1 cursor-pointer truncate py-1 text-left"
              aria-pressed={part.id === inHand?.id}
              onClick={() => benchView.setState({ partId: part.id })}
            >
              {shapeWords(part.shape)}
            </button>
            {i > 0 && (
              <button
                className="act px-1"
                title="How it is laid onto those before; click for the next way"
                onClick={() =>
                  put(part.id, { how: JOINS[(JOINS.indexOf(part.how) + 1) % JOINS.length] }, "How shapes are joined")
                }
              >
                {JOIN_WORDS[part.how]}
              </button>
            )}
            <button
              className="act px-1"
              title="Which side of it counts"
              onClick={() => put(part.id, { invert: !part.invert }, "Side of a shape")}
            >
              {part.invert ? "outside" : "inside"}
            </button>
            <IconAct
              label={`Take the ${shapeWords(part.shape)} away`}
              icon={<Trash2 size={13} />}
              onClick={() => {
                preview(withoutPart(shape, part.id) as Joined);
                keep("A shape taken away");
              }}
            />
          </li>
        ))}
      </ol>
      {inHand && Controls && (
        <Controls
          shape={inHand.shape}
          preview={(next) =>
            preview({
              ...shape,
              parts: shape.parts.map((part) => (part.id === inHand.id ? { ...part, shape: next } : part)),
            })
          }
          keep={keep}
        />
      )}
    </div>
  );
}
