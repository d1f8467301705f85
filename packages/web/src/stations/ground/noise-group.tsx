import { luminanceNoise, noisePrice, type Negative, MIDDLE_GREY } from "@yelm/core";
import { useMutation } from "@tanstack/react-query";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { api } from "../../data/api.ts";
import { queryClient } from "../../data/queries.ts";
import { useEdit } from "../../data/use-session.ts";
import { notify } from "../../shell/shell-view.ts";
import { useAct } from "../../keys/acts.ts";
import { GROUND_ACTS } from "./acts.ts";
import { asPercent } from "../../controls/formats.ts";
import { GROUND } from "../../controls/lenses.ts";

/** Noise of middle grey below which nobody sees grain, share of its light. */
const UNSEEN = 0.012;
const STRONG = 0.06;

/** The capture's noise in plain words, what the present weights make of it, and calming it. */
export function NoiseGroup({ negative }: { negative: Negative }) {
  const { value: ground, amount } = useLens(GROUND);
  const { red, green, blue } = useEdit((state) => state.recipe.weigh);
  const { capture } = negative;
  const noise = luminanceNoise(capture);
  if (capture.demosaic !== "directional") return <FinishedColours negative={negative} />;
  if (!noise || !capture.noise)
    return (
      <Group title="Noise" folded="not known">
        <p className="text-quiet">
          This capture has too little that is flat to measure its noise by, and states none. It is left as it is.
        </p>
      </Group>
    );
  // Where middle grey of the print lies on the sensor.
  const light = MIDDLE_GREY * 2 ** -ground.exposureEv;
  const share = Math.sqrt(noise.slope * light + noise.offset) / light;
  const price = noisePrice(capture, [red, green, blue], light)!;
  const words = share < UNSEEN ? "hardly seen" : share < STRONG ? "fine, as of film" : "strong";
  const raised = 2 * Math.log2(price.after);
  return (
    <Group title="Noise" folded={`${words}, ${(100 * share).toFixed(1)} %`}>
      <p className="text-quiet">
        Middle grey varies by {(100 * share).toFixed(1)} % from pixel to pixel: {words}.{" "}
        {capture.noise.source === "file" ? "By the file's own statement." : "Measured from its flat places."}{" "}
        {price.before > 1.05
          ? `The weights would make it ${price.before.toFixed(1)} times as strong; with colour smoothed by as much as the noise asks for it is ${price.after.toFixed(2)} times${
              raised > 0.15 ? `, as if at ${raised.toFixed(1)} stops more ISO` : ""
            }.`
          : "The weights add nothing to it."}
      </p>
      <Amount {...amount("calm", "Calm it")} step={0.05} format={asPercent} typedScale={100} />
      <p className="text-quiet pt-1">
        {ground.calm === 0
          ? "It is left: an even grain suits a black-and-white picture more often than not."
          : "Textures that stand out of the noise stay; what is as weak as the noise goes with it."}
      </p>
    </Group>
  );
}

/** A file that is no mosaic: the noise of its colours, smoothed on their way in, or as it is in the file. All prints of it follow. */
function FinishedColours({ negative }: { negative: Negative }) {
  const { id, capture } = negative;
  const { smoothed = false, grey } = capture;
  const other = useMutation({
    mutationFn: () => api<Negative>(`/negatives/${id}/smoothed`, { method: "PUT", body: { smoothed: !smoothed } }),
    onSuccess: (made) => queryClient.setQueryData(["negatives", id], made),
    onError: (error) => notify(error.message),
  });
  useAct({ ...GROUND_ACTS["colour-noise"], enabled: !grey && !other.isPending, run: () => other.mutate() });
  if (grey)
    return (
      <Group title="Noise" folded="of light only">
        <p className="text-quiet">The file holds no colour that could be noisy. Its light is left as it is.</p>
      </Group>
    );
  return (
    <Group title="Noise" folded={smoothed ? "colour smoothed" : "as in the file"}>
      <p className="text-quiet">
        {smoothed
          ? "Noise and blocks of the file's colour were smoothed on its way in, by as much as it has of them; its light is as it was."
          : "Noise and blocks of colour are as in the file: strong weights and moved families make them seen."}{" "}
        {other.isPending ? (
          "The negative is made again…"
        ) : (
          <button
            className="text-accent cursor-pointer underline-offset-2 hover:underline"
            title="All prints of this negative follow. Go there and back to see the difference."
            onClick={() => other.mutate()}
          >
            {smoothed ? "Have it as in the file" : "Smooth it"}
          </button>
        )}
      </p>
    </Group>
  );
}
