import type { Negative, Print } from "@yelm/core";
import { useQueries } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useSize } from "../controls/use-size.ts";
import { api } from "../data/api.ts";
import { negativeQuery, negativeThumbnail, printThumbnail } from "../data/queries.ts";
import { useAct } from "../keys/acts.ts";
import { Keys } from "../keys/keys.tsx";
import { Mark } from "../shell/mark.tsx";
import { Waiting } from "../shell/waiting.tsx";
import { surroundColour, useLook } from "../theme/theme.ts";
import { SCREEN_ACTS } from "./acts.ts";
import { layOut } from "./lay-out.ts";

const CAPTION_PX = 26;
const GAP_PX = 16;

/** Prints of any negatives on one page, as large as they go; one after the other is taken out until one is left. */
export function SpreadScreen() {
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const surround = surroundColour(useLook());
  const ids = (params.get("prints") ?? "").split(",").filter((id) => id !== "");
  const [current, setCurrent] = useState(0);
  const [colour, setColour] = useState(false);
  const [out, setOut] = useState<readonly { readonly id: string; readonly at: number }[]>([]);
  const found = useQueries({
    queries: ids.map((id) => ({ queryKey: ["print", id], queryFn: () => api<Print>(`/prints/${id}`) })),
  });
  const negatives = useQueries({
    queries: found.map(({ data }) => ({ ...negativeQuery(data?.negativeId ?? ""), enabled: data !== undefined })),
  });
  const area = useRef<HTMLDivElement>(null);
  const shown = found.flatMap(({ data: print }, i) => {
    const negative = negatives[i]?.data;
    return print && negative ? [{ print, negative }] : [];
  });
  const isThere = shown.length > 0;
  const size = useSize(area, isThere);
  const put = (next: readonly string[]) => setParams({ prints: next.join(",") }, { replace: true });
  const here = Math.min(current, shown.length - 1);
  const takeOut = () => {
    if (shown.length < 2) return;
    const { id } = shown[here].print;
    setOut([...out, { id, at: ids.indexOf(id) }]);
    put(ids.filter((one) => one !== id));
  };
  const putBack = () => {
    const last = out.at(-1);
    if (!last) return;
    setOut(out.slice(0, -1));
    put([...ids.slice(0, last.at), last.id, ...ids.slice(last.at)]);
    setCurrent(last.at);
  };
  const open = () => shown[here] && void navigate(`/prints/${shown[here].print.id}`);
  useAct({ ...SCREEN_ACTS["spread-left"], run: () => setCurrent(Math.max(0, here - 1)) });
  useAct({ ...SCREEN_ACTS["spread-right"], run: () => setCurrent(Math.min(shown.length - 1, here + 1)) });
  useAct({ ...SCREEN_ACTS["spread-out"], enabled: shown.length > 1, run: takeOut });
  useAct({ ...SCREEN_ACTS["spread-back"], enabled: out.length > 0, run: putBack });
  useAct({ ...SCREEN_ACTS["spread-open"], run: open });
  useAct({ ...SCREEN_ACTS["spread-leave"], run: () => void navigate(-1) });
  useAct({ ...SCREEN_ACTS["spread-colour"], run: () => setColour(true), release: () => setColour(false) });
  const failed = found.find(({ error }) => error)?.error;
  if (failed) return <Waiting text={failed.message} home />;
  if (ids.length === 0)
    return <Waiting text="No prints are chosen. Choose frames on a contact sheet and spread them." home />;
  if (!isThere) return <Waiting text="Laying out the spread…" />;
  const ratios = shown.map(({ print, negative }) => ratioOf(print, negative));
  const cells = layOut(ratios, size.width, size.height, CAPTION_PX, GAP_PX);
  return (
    <div className="flex h-full flex-col" style={{ background: surround }}>
      <header className="border-line bg-base-200 flex h-11 shrink-0 items-center gap-2 border-b px-3">
        <Mark />
        <h1 className="font-serif text-[17px]">{shown.length === 1 ? "One is left" : `A spread of ${shown.length}`}</h1>
        <span className="ml-auto flex items-center">
          <button className="act" disabled={shown.length < 2} onClick={takeOut}>
            Take it out <Keys of={SCREEN_ACTS["spread-out"]} />
          </button>
          <button className="act" disabled={out.length === 0} onClick={putBack}>
            Put back <Keys of={SCREEN_ACTS["spread-back"]} />
          </button>
          <button
            className="act"
            aria-pressed={colour}
            onPointerDown={() => setColour(true)}
            onPointerUp={() => setColour(false)}
            onPointerLeave={() => setColour(false)}
          >
            Colour <Keys of={SCREEN_ACTS["spread-colour"]} hold />
          </button>
          <button className="act" onClick={open}>
            Open <Keys of={SCREEN_ACTS["spread-open"]} />
          </button>
          <button className="act" onClick={() => void navigate(-1)}>
            Back <Keys of={SCREEN_ACTS["spread-leave"]} />
          </button>
        </span>
      </header>
      <div ref={area} className="relative m-4 min-h-0 flex-1" aria-label="Spread">
        {cells.map(({ x, y, width, height }, i) => {
          const { print, negative } = shown[i];
          return (
            <button
              key={print.id}
              aria-current={i === here ? "true" : undefined}
              className="absolute cursor-pointer text-left"
              style={{ left: x, top: y, width, height: height + CAPTION_PX }}
              onClick={() => setCurrent(i)}
              onDoubleClick={open}
            >
              <img
                src={colour ? negativeThumbnail(negative.id, 1280) : printThumbnail(print, 1280)}
                alt={`${negative.title}, ${print.name}`}
                className={`block w-full bg-contain bg-center bg-no-repeat object-contain ${i === here ? "outline-accent outline-2 outline-offset-2" : ""}`}
                // The small one is mostly made already, and stands in for the large one.
                style={{ height, backgroundImage: colour ? undefined : `url("${printThumbnail(print, 320)}")` }}
              />
              <span className="block truncate pt-1 text-[12px] text-white mix-blend-difference">
                {negative.title} · {print.name}
              </span>
            </button>
          );
        })}
      </div>
    </div>
  );
}

function ratioOf({ recipe }: Print, { width, height }: Negative): number {
  const { crop, quarterTurns } = recipe.ground;
  if (crop) return crop.width / crop.height;
  return quarterTurns % 2 === 1 ? height / width : width / height;
}
