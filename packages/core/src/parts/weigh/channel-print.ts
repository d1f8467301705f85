import type { WeighPrint } from "./print.ts";

const CHANNELS = new WeakMap<object, readonly WeighPrint[]>();

/**
 * The print in one colour as shot under its exposure, for what has to look at colours: 0 red, 1 green, 2 blue. It is not sharpened:
 * what looks at colours looks at places, not at their edges' acuteness, and is kept while sharpening moves.
 */
export function channelOf<P extends WeighPrint>(print: P, channel: number): P {
  let channels = CHANNELS.get(print);
  if (!channels) {
    const gain = 2 ** print.recipe.ground.exposureEv;
    const { shape } = print.recipe;
    const recipe = { ...print.recipe, shape: { ...shape, sharpening: { ...shape.sharpening, amount: 0 } } };
    channels = [0, 1, 2].map((c) => {
      const weights: [number, number, number] = [0, 0, 0];
      weights[c] = gain;
      return { ...print, recipe, grey: { ...print.grey, weights }, colourMoves: null, areas: [], overShare: 0 };
    });
    CHANNELS.set(print, channels);
  }
  return channels[channel] as P;
}
