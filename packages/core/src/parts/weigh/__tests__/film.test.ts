import { describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { luminanceOf } from "../../../colour/rgb-space.ts";
import { spectrumOf } from "../../../colour/spectrum.ts";
import { reflectanceToWorking } from "../../../colour/upsample.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { FILM_LIGHTS, FILM_NAMES, FILTER_NAMES, type FilmChoice } from "../schema.ts";
import { bakeFilm, beyondRed, filmExposure, filmStops, filterFactorStops, parseSpectralCsv } from "../film.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { PIGMENTS } from "./pigments.ts";

const PLAIN = defaultRecipe().weigh.film;
const choose = (change: Partial<FilmChoice>): FilmChoice => ({ ...PLAIN, ...change });

/** Every film, filter and light that leaves enough light to speak of. */
const CHOICES = FILM_NAMES.filter((film) => film !== "own")
  .flatMap((film) => FILTER_NAMES.filter((filter) => filter !== "own").map((filter) => ({ film, filter })))
  .flatMap((pair) => FILM_LIGHTS.map((light) => choose({ ...pair, light })))
  .filter((choice) => filterFactorStops(choice) < 3.2);

/** L* from the working colour alone, less L* by direct integration over the true spectrum. */
function errors(choice: FilmChoice): { name: string; error: number }[] {
  const response = bakeFilm(choice);
  return PIGMENTS.map(([name, reflectance]) => {
    const working = reflectanceToWorking(reflectance);
    const told = luminanceToLightness(luminanceOf(working) * 2 ** filmStops(response, working));
    return { name, error: told - luminanceToLightness(filmExposure(reflectance, choice)) };
  });
}

describe("what a film sees of a colour", () => {
  test("neutrals keep their grey on every film behind every filter", () => {
    for (const choice of CHOICES) {
      const response = bakeFilm(choice);
      for (const level of [0.01, 0.18, 0.9])
        expect(Math.abs(filmStops(response, [level, level, level]))).toBeLessThan(1e-3);
    }
  });

  test("24 pigments, three films, every filter and light: against direct integration of their spectra", () => {
    const usual = CHOICES.filter(({ film }) => film !== "near infrared" && film !== "extended red");
    const all = usual.flatMap((choice) => errors(choice).map(({ error }) => Math.abs(error))).sort((p, q) => p - q);
    const share = (p: number) => all[Math.floor(p * all.length)];
    expect(all.length).toBeGreaterThan(1000);
    expect(share(0.5)).toBeLessThan(0.5);
    expect(share(0.85)).toBeLessThan(1.5);
    // One colour has many spectra: a narrow band asks for what colour does not tell.
    expect(share(0.99)).toBeLessThan(6);
  });

  test("300 reflectances drawn at random, narrow and broad: on panchromatic and orthochromatic film most lie within 1.5 L*", () => {
    const random = seeded(2026);
    const between = (low: number, high: number) => low + (high - low) * random();
    const drawn = Array.from({ length: 300 }, () => {
      const [floor, at, width, height] = [between(0.03, 0.25), between(400, 680), between(15, 70), between(0.05, 0.6)];
      const [edge, soft, step] = [between(480, 700), between(8, 40), between(0, 0.5)];
      return spectrumOf(
        (nm) => floor + height * Math.exp(-0.5 * ((nm - at) / width) ** 2) + step / (1 + Math.exp(-(nm - edge) / soft)),
      );
    });
    for (const film of ["panchromatic", "orthochromatic"] as const) {
      const choice = choose({ film });
      const response = bakeFilm(choice);
      const off = drawn
        .map((reflectance) => {
          const working = reflectanceToWorking(reflectance);
          const told = luminanceToLightness(luminanceOf(working) * 2 ** filmStops(response, working));
          return Math.abs(told - luminanceToLightness(filmExposure(reflectance, choice)));
        })
        .sort((a, b) => a - b);
      const within = off.filter((v) => v < 1.5).length / off.length;
      if (process.env.YELM_SHOW) console.log(film, within, off[150], off.at(-1));
      expect([film, within > 0.8, off[150] < 0.7, off.at(-1)! < 8]).toEqual([film, true, true, true]);
    }
  });

  test("extended red takes no paint for a leaf, and changes over hue without a cliff", () => {
    const bump = (nm: number, at: number, width: number) => Math.exp(-0.5 * ((nm - at) / width) ** 2);
    for (const filter of ["none", "red"] as const) {
      const choice = choose({ film: "extended red", filter });
      const response = bakeFilm(choice);
      const lightness = (working: readonly [number, number, number]) =>
        luminanceToLightness(luminanceOf(working) * 2 ** filmStops(response, working));
      // Green paints: nothing rises beyond red.
      for (let at = 500; at <= 550; at += 10)
        for (const width of [25, 35, 50]) {
          const paint = spectrumOf((nm) => 0.05 + 0.35 * bump(nm, at, width));
          const told = lightness(reflectanceToWorking(paint));
          expect(Math.abs(told - luminanceToLightness(filmExposure(paint, choice)))).toBeLessThan(
            filter === "none" ? 4 : 10,
          );
        }
      // Round the hues at one luminance, in steps of a degree.
      const round = Array.from({ length: 361 }, (_, degree) => {
        const t = (degree * Math.PI) / 180;
        const colour = [2 ** (1.2 * Math.cos(t)), 1, 2 ** (1.2 * Math.sin(t))] as const;
        const y = luminanceOf(colour);
        return lightness([(0.18 * colour[0]) / y, (0.18 * colour[1]) / y, (0.18 * colour[2]) / y]);
      });
      for (let i = 0; i < 360; i++) expect(Math.abs(round[i + 1] - round[i])).toBeLessThan(1.2);
    }
    expect(beyondRed(choose({ film: "extended red" }))).toBe("a little");
    expect(beyondRed(choose({ film: "near infrared" }))).toBe("mainly");
    expect(beyondRed(choose({}))).toBe("none");
  });

  test("they differ as their kinds do: red dark on orthochromatic film, sky dark behind red, leaves bright beyond red", () => {
    const lightness = (name: string, choice: FilmChoice) =>
      luminanceToLightness(filmExposure(PIGMENTS.find(([pigment]) => pigment === name)![1], choice));
    const pan = choose({});
    expect(lightness("madder", choose({ film: "orthochromatic" }))).toBeLessThan(lightness("madder", pan) - 10);
    expect(lightness("woad", choose({ filter: "red" }))).toBeLessThan(lightness("woad", pan) - 10);
    expect(lightness("brick", choose({ filter: "red" }))).toBeGreaterThan(lightness("brick", pan) + 8);
    const leaf = PIGMENTS.find(([name]) => name === "leaf")![1];
    const seen = filmStops(bakeFilm(choose({ film: "near infrared", filter: "red" })), reflectanceToWorking(leaf));
    expect(seen).toBeGreaterThan(1);
    expect(lightness("weld", choose({ filter: "blue" }))).toBeLessThan(lightness("weld", pan) - 15);
  });
});

describe("filter factors", () => {
  test("follow from film, filter and light", () => {
    expect(filterFactorStops(choose({}))).toBeCloseTo(0, 9);
    const red = (change: Partial<FilmChoice>) => filterFactorStops(choose({ filter: "red", ...change }));
    expect(red({})).toBeGreaterThan(1.5);
    // Lamps are red already, and so are films that see more of it.
    expect(red({ light: "tungsten" })).toBeLessThan(red({}) - 0.4);
    expect(red({ film: "extended red" })).toBeLessThan(red({}));
    expect(red({ film: "orthochromatic" })).toBeGreaterThan(4);
  });
  test("of an own grey filter are its own density, whatever the film", () => {
    for (const film of ["panchromatic", "blue-sensitive"] as const) {
      const ownFilter = { name: "quarter", points: [[380, 0.25], [830, 0.25]] as [number, number][] }; // prettier-ignore
      expect(filterFactorStops(choose({ film, filter: "own", ownFilter }))).toBeCloseTo(2, 9);
    }
  });
});

describe("own curves from a table", () => {
  test("are read with commas, semicolons, tabs, decimal commas, headings, percent", () => {
    expect(parseSpectralCsv("wavelength,value\n400,0.2\n500,0.4\n", "film")).toEqual([[400, 0.5], [500, 1]]); // prettier-ignore
    expect(parseSpectralCsv("\uFEFF# mine\r\n500;0,4\r\n400;0,2", "filter")).toEqual([[400, 0.2], [500, 0.4]]); // prettier-ignore
    expect(parseSpectralCsv("400\t20\n500\t90", "filter")).toEqual([[400, 0.2], [500, 0.9]]); // prettier-ignore
    expect(parseSpectralCsv("400 1\n500 3", "film")).toEqual([[400, 0.333333], [500, 1]]); // prettier-ignore
    const fine = Array.from({ length: 451 }, (_, i) => `${380 + i},${1 + Math.sin(i / 40)}`).join("\n");
    expect(parseSpectralCsv(fine, "film")).toHaveLength(128);
  });
  test.each([
    ["", /at least two lines/],
    ["400,1", /at least two lines/],
    ["400,1\nabc,2", /line 2/],
    ["400,1\n400,2", /400 nm twice/],
    ["400,1\n500,-1", /0 or more/],
    ["400,0\n500,0", /above 0/],
    ["4,1\n5,2", /380 to 830/],
    ["400,1\n500,NaN", /line 2/],
    ["400,1\n500,300", /100 %/],
  ])("%j is refused with what was expected", (text, message) => {
    expect(() => parseSpectralCsv(text, "filter")).toThrow(message);
  });
  test("a film and a filter that have no light in common give black, never nothing", () => {
    const ownFilm = { name: "blue", points: [[380, 1], [450, 1], [460, 0], [830, 0]] as [number, number][] }; // prettier-ignore
    const ownFilter = { name: "red", points: [[380, 0], [600, 0], [610, 1], [830, 1]] as [number, number][] }; // prettier-ignore
    for (const stops of bakeFilm(choose({ film: "own", ownFilm, filter: "own", ownFilter })))
      expect(stops).toBeLessThan(-15);
  });
  test("an own film that is a built-in one gives its greys", () => {
    const points = Array.from(spectrumOf((nm) => (nm < 500 ? 1 : 0.001)), (v, i) => [380 + 10 * i, v] as [number, number]);
    const own = bakeFilm(choose({ film: "own", ownFilm: { name: "blue", points } }));
    const blue = bakeFilm(choose({ film: "blue-sensitive" }));
    for (const colour of [[0.4, 0.1, 0.05], [0.1, 0.2, 0.5], [0.2, 0.3, 0.1]] as const)
      expect(Math.abs(filmStops(own, colour) - filmStops(blue, colour))).toBeLessThan(0.35);
  }); // prettier-ignore
});
