import type { Card, CardShot, Roll } from "@yelm/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Amount } from "../controls/amount.tsx";
import { Choice } from "../controls/choice.tsx";
import { Group } from "../controls/group.tsx";
import { api } from "../data/api.ts";
import { queryClient, useCard } from "../data/queries.ts";
import { Sheet } from "../shell/sheet.tsx";
import { asStops } from "../controls/formats.ts";

const ISOS = ["100", "400", "1600", "6400", "25600"] as const;
const FRAMES = [
  ["1", "one frame"],
  ["3", "three, a stop apart"],
  ["5", "five, a stop apart"],
] as const;
const EXPOSURE = { minimum: -5, maximum: 5, default: 0, description: "Stops from what suits the scene." };

/** The folder that stands in for a camera's card, and the simulated camera that shoots onto it. */
export function CardSheet({ roll, onClose }: { roll: Roll; onClose: () => void }) {
  const card = useCard();
  return (
    <Sheet title="The card" onClose={onClose}>
      {card.error && <p className="text-accent">{card.error.message}</p>}
      {card.isPending && <p className="text-quiet">Looking for the card…</p>}
      {card.data && <CardControls roll={roll} card={card.data} />}
    </Sheet>
  );
}

function CardControls({ roll, card }: { roll: Roll; card: Card }) {
  const here = card.rollId === roll.id;
  const [iso, setIso] = useState<(typeof ISOS)[number]>("100");
  const [frames, setFrames] = useState<(typeof FRAMES)[number][0]>("1");
  const [scene, setScene] = useState(card.scenes[0]?.name ?? "");
  const [exposureStops, setExposure] = useState(0);
  const assign = useMutation({
    mutationFn: (rollId: string | null) => api<Card>("/card", { method: "PUT", body: { rollId } }),
    onSuccess: (next) => queryClient.setQueryData(["card"], next),
  });
  const shoot = useMutation({
    mutationFn: (shot: CardShot) => api<{ files: string[] }>("/card/shots", { method: "POST", body: shot }),
  });
  const press = () => {
    shoot.mutate({ scene, iso: Number(iso), exposureStops, frames: Number(frames), stepStops: 1 });
  };
  const error = assign.error ?? shoot.error;
  return (
    <>
      <p className="text-quiet pb-3">
        Whatever comes to lie in this folder is copied into the roll that reads the card. What is on the card is never
        changed, and nothing is taken twice.
      </p>
      <p className="pb-3 break-all select-all">{card.folder}</p>
      <button
        className="chip"
        aria-pressed={here}
        disabled={assign.isPending}
        onClick={() => assign.mutate(here ? null : roll.id)}
      >
        {here ? "This roll reads the card. Stop reading" : "Read the card into this roll"}
      </button>
      <div className="pt-5">
        <Group title="Simulated camera">
          <Choice
            label="Scene"
            options={card.scenes.map(({ name, title }) => [name, title] as const)}
            value={scene}
            onChoose={setScene}
          />
          <div className="pt-3">
            <Choice label="ISO" options={ISOS.map((v) => [v, `ISO ${v}`] as const)} value={iso} onChoose={setIso} />
          </div>
          <div className="pt-2">
            <Amount
              label="Exposure"
              value={exposureStops}
              range={EXPOSURE}
              step={1 / 3}
              format={asStops}
              onChange={setExposure}
              onEnd={() => undefined}
            />
          </div>
          <div className="pt-1 pb-3">
            <Choice label="Bracket" options={FRAMES} value={frames} onChoose={setFrames} />
          </div>
          <button className="write-act" disabled={shoot.isPending || scene === ""} onClick={press}>
            {shoot.isPending ? "Exposing…" : "Shoot onto the card"}
          </button>
          <p className="text-quiet min-h-10" role="status">
            {error && <span className="text-accent">{error.message}</span>}
            {!error && shoot.data && `On the card: ${shoot.data.files.join(", ")}.`}
            {!error && shoot.data && !card.rollId && " No roll reads the card at present."}
          </p>
        </Group>
      </div>
    </>
  );
}
