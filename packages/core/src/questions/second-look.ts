import { luminanceToLightness } from "../colour/lab.ts";
import { shareAt, type Area } from "../judge/eye.ts";
import { FINDING_KINDS, MOST_FINDINGS, type Finding } from "../judge/finding.ts";
import { measureHalo } from "../judge/halo.ts";
import { measureLean } from "../judge/lean.ts";
import { pieceNoise } from "../judge/texture-noise.ts";
import { capital, ORDINALS, percent, where } from "../judge/words.ts";
import { boxMeans } from "../maths/box-means.ts";
import { histograms } from "../measure/histogram.ts";
import { readKey } from "../measure/key.ts";
import { BARE, DEEPEST, pointAtFirstSpeck, toneEnds } from "../measure/tone-ends.ts";
import type { MarkKind, Plan } from "../notes/schema.ts";
import { densityDeviation, emulsionOf } from "../parts/finish/emulsion.ts";
import { FORMAT_LONG_EDGE_MM } from "../parts/finish/grain.ts";
import { fitCrop } from "../parts/ground/crop.ts";
import { wholeCrop } from "../parts/ground/geometry.ts";
import { shapeSchema } from "../parts/shape/schema.ts";
import { findNeighbours } from "../parts/weigh/separation.ts";
import { solve } from "../parts/weigh/solve.ts";
import { familyPlace, placeToFamily } from "../parts/weigh/family.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { rangeOf } from "../schema/defaults.ts";
import { wholeView, type View } from "../tiles/view.ts";
import { mendEye, seenByEye, subjectOf, type AboutPlan } from "./eye-way.ts";
import { areaOf, markedAs, moveOf, withMoves } from "./plan-areas.ts";
import { regionQuestions } from "./regions.ts";
import { withoutGrain, type PictureReader } from "./reader.ts";
import { weighReading } from "./weigh.ts";

const JUDGE_EDGE = 700;
const ENDS_EDGE = 1600;
/** Pieces of the frame, across and down, in which noise is looked for at full size, and their edge in pixels. */
const PIECES = [6, 5] as const;
const PIECE_PX = 96;

/** Less than these is not told. */
const TOLD = {
  white: 0.0015,
  black: 0.01,
  keptEnds: 0.0003,
  halo: 3.2,
  noise: 2.2,
  brightEdge: 12,
  leanDegrees: 0.7,
  leanClearness: 1.1,
  skin: 1.7,
  skyLightness: 20,
  grain: 0.055,
} as const;

/** What a second look looks for, one after the other; the costly ones last. */
const LOOKS_FOR = {
  ends: (judge: Judge) => judge.ends(),
  edges: (judge: Judge) => judge.edges(),
  lean: (judge: Judge) => judge.lean(),
  grain: (judge: Judge) => judge.grain(),
  key: (judge: Judge) => judge.key(),
  halo: (judge: Judge) => judge.halo(),
  noise: (judge: Judge) => judge.noise(),
  subject: (judge: Judge) => judge.subject(),
  merged: (judge: Judge) => judge.merged(),
  skin: (judge: Judge) => judge.skin(),
  sky: (judge: Judge) => judge.sky(),
};
export type LookedFor = keyof typeof LOOKS_FOR;
export const LOOKS = Object.keys(LOOKS_FOR) as readonly LookedFor[];

/** What one look at a print finds. */
export async function lookFor(
  reader: PictureReader,
  { look, ...about }: AboutPlan & { readonly look: LookedFor },
): Promise<Finding[]> {
  return LOOKS_FOR[look](await judgeOf(reader, about));
}

/** What is to be said of a print before it is called done: at most seven findings, the worst first. */
export async function secondLook(reader: PictureReader, about: AboutPlan): Promise<Finding[]> {
  const found: Finding[] = [];
  for (const look of LOOKS) found.push(...(await lookFor(reader, { ...about, look })));
  return worstFirst(found);
}

/** Findings as they are told. */
export function worstFirst(found: readonly Finding[]): Finding[] {
  const rank = (one: Finding) => FINDING_KINDS.indexOf(one.kind);
  return [...found].sort((p, q) => q.weight - p.weight || rank(p) - rank(q)).slice(0, MOST_FINDINGS);
}

/** The print that was last looked at by each reader: its looks follow each other. */
const judged = new WeakMap<PictureReader, { readonly key: string; readonly judge: Promise<Judge> }>();

function judgeOf(reader: PictureReader, { recipe, plan }: AboutPlan): Promise<Judge> {
  const key = JSON.stringify([recipe, plan]);
  const known = judged.get(reader);
  if (known?.key === key) return known.judge;
  const judge = Judge.open(reader, recipe, plan);
  judged.set(reader, { key, judge });
  judge.catch(() => judged.delete(reader));
  return judge;
}

/** One print being looked at a second time; what several findings need is rendered once. */
class Judge {
  readonly #reader: PictureReader;
  readonly #recipe: Recipe;
  readonly #plan: Plan;
  readonly #view: View;
  readonly #print: Float32Array;
  readonly #ends: { readonly view: View; readonly reflectance: Float32Array; readonly light: Float32Array };
  readonly #marks: ReadonlyMap<MarkKind, Area>;

  private constructor(
    reader: PictureReader,
    recipe: Recipe,
    plan: Plan,
    view: View,
    print: Float32Array,
    ends: { view: View; reflectance: Float32Array; light: Float32Array },
    marks: ReadonlyMap<MarkKind, Area>,
  ) {
    this.#reader = reader;
    this.#recipe = recipe;
    this.#plan = plan;
    this.#view = view;
    this.#print = print;
    this.#ends = ends;
    this.#marks = marks;
  }

  static async open(reader: PictureReader, recipe: Recipe, plan: Plan): Promise<Judge> {
    const { engine, size, fetch } = reader;
    const print = engine.prepare(withoutGrain(recipe));
    const view = wholeView(print.frame, size, JUDGE_EDGE);
    await fetch(engine.tilesFor(print, view));
    const lightness = lightnessOf(engine.renderReflectance(print, view));
    const large = wholeView(print.frame, size, ENDS_EDGE);
    await fetch(engine.tilesFor(print, large));
    const ends = {
      view: large,
      reflectance: engine.renderReflectance(print, large).slice(),
      light: engine.renderLight(print, large).slice(),
    };
    const marks = new Map<MarkKind, Area>();
    for (const kind of ["subject", "keep detail", "may go black", "may go white"] as const) {
      const area = await markedAs(reader, recipe, plan.marks, kind, JUDGE_EDGE);
      if (area) marks.set(kind, area);
    }
    return new Judge(reader, recipe, plan, view, lightness, ends, marks);
  }

  #mended(label: string, change: (recipe: Recipe) => Recipe): Finding["mend"] {
    return { label, recipe: change(this.#recipe) };
  }

  #markAt(kind: MarkKind, x: number, y: number): number {
    return shareAt(this.#marks.get(kind), x, y);
  }

  /** What prints as bare paper or as the deepest black and is not meant to. */
  ends(): Finding[] {
    const { view, reflectance, light } = this.#ends;
    const { shape } = this.#recipe;
    const found: Finding[] = [];
    for (const end of ["white", "black"] as const) {
      const isMeant = end === "white" ? shape.letWhite : shape.letBlack;
      const clips = new Float32Array(reflectance.length);
      let [all, kept, keptAll] = [0, 0, 0];
      for (let i = 0; i < reflectance.length; i++) {
        const [x, y] = [((i % view.width) + 0.5) / view.width, (Math.floor(i / view.width) + 0.5) / view.height];
        const keep = this.#markAt("keep detail", x, y) > 0.5;
        if (keep) keptAll++;
        if (end === "white" ? reflectance[i] <= BARE : reflectance[i] >= DEEPEST) continue;
        if (!keep && (isMeant || this.#markAt(end === "white" ? "may go white" : "may go black", x, y) > 0.5)) continue;
        clips[i] = 1;
        all++;
        if (keep) kept++;
      }
      const share = all / reflectance.length;
      const keptShare = keptAll > 0 ? kept / keptAll : 0;
      if (share < TOLD[end] && keptShare < TOLD.keptEnds) continue;
      const place = densest(clips, view.width, view.height);
      const ends = toneEnds(light, view.width, view.height);
      const field = end === "white" ? ("whitePoint" as const) : ("blackPoint" as const);
      const point = pointAtFirstSpeck(ends, shape, end, rangeOf(shapeSchema, field));
      const inKept = keptShare >= TOLD.keptEnds;
      const what = end === "white" ? "is bare paper" : "is the deepest black";
      found.push({
        id: `clipped ${end}`,
        kind: `clipped ${end}`,
        text: inKept
          ? `${percent(keptShare)} of what must keep detail ${what}, first at ${where(place)}.`
          : `${percent(share)} of the print ${what}, most at ${where(place)}.`,
        weight: Math.max(share / TOLD[end], (2 * keptShare) / TOLD.keptEnds) ** 0.5,
        place,
        mend:
          point === null
            ? null
            : this.#mended(`${end === "white" ? "White" : "Black"} point at the first speck`, (old) => ({
                ...old,
                shape: { ...old.shape, [field]: point },
              })),
      });
    }
    return found;
  }

  /** Neighbours of different colour that print as one grey; of the subject when one is marked. */
  async merged(): Promise<Finding[]> {
    const { probe, map, recipe } = await weighReading(this.#reader, this.#recipe);
    const subject = this.#marks.get("subject");
    const names = [...recipe.weigh.families.map(({ name }) => name), "neutrals"];
    const touches = (first: number, second: number) => {
      if (!subject) return true;
      // Either colour has to make up a good part of the subject.
      const counts = new Map<number, number>();
      let all = 0;
      for (let y = 0; y < map.height; y += 2)
        for (let x = 0; x < map.width; x += 2) {
          if (this.#markAt("subject", (x + 0.5) / map.width, (y + 0.5) / map.height) < 0.5) continue;
          const label = Math.min(map.labels[y * map.width + x], recipe.weigh.families.length);
          counts.set(label, (counts.get(label) ?? 0) + 1);
          all++;
        }
      return [first, second].some((k) => (counts.get(k) ?? 0) > 0.1 * all);
    };
    const worst = findNeighbours(probe, map.boundaries).find((pair) => pair.merged && touches(pair.first, pair.second));
    if (!worst) return [];
    const { first, second, colourDifference, greyDifference } = worst;
    const solution = solve(probe, map.boundaries, { kind: "part", first, second });
    const place = meeting(map.labels, map.width, map.height, first, second, recipe.weigh.families.length);
    return [
      {
        id: `merged ${names[first]} ${names[second]}`.slice(0, 80),
        kind: "merged",
        text: `${capital(names[first])} and ${names[second]} differ by ${colourDifference.toFixed(0)} in colour and by ${Math.abs(greyDifference).toFixed(1)} L* in grey: they print as one.`,
        weight: 1 + (colourDifference / 60) * Math.min(1, worst.length) * 3,
        place,
        mend: this.#mended("Part them", (old) => ({ ...old, weigh: solution.weigh })),
      },
    ];
  }

  /** Light and dark bands about edges that spatial work has made. */
  async halo(): Promise<Finding[]> {
    const plain = await this.#lightness(withoutSpatial(this.#recipe));
    const halo = measureHalo(this.#print, plain, this.#view.width, this.#view.height);
    if (!halo || halo.lightness < TOLD.halo) return [];
    return [
      {
        id: "halo",
        kind: "halo",
        text: `Edges have a halo of ${halo.lightness.toFixed(1)} L*, such as at ${where(halo)}.`,
        weight: halo.lightness / TOLD.halo,
        place: { x: halo.x, y: halo.y },
        mend: this.#mended("Halve what makes it", softened),
      },
    ];
  }

  /** Noise at full size, where the print is most even. */
  async noise(): Promise<Finding[]> {
    const { engine, fetch } = this.#reader;
    const print = engine.prepare(withoutGrain(this.#recipe));
    const { width, height } = print.frame;
    const [w, h] = [Math.min(PIECE_PX, width), Math.min(PIECE_PX, height)];
    const found: { noise: number; x: number; y: number }[] = [];
    for (let j = 0; j < PIECES[1]; j++)
      for (let i = 0; i < PIECES[0]; i++) {
        const x = Math.round(((width - w) * (i + 0.5)) / PIECES[0]);
        const y = Math.round(((height - h) * (j + 0.5)) / PIECES[1]);
        const view = { x, y, width: w, height: h, scale: 1, level: 0 };
        await fetch(engine.tilesFor(print, view));
        const lightness = lightnessOf(engine.renderReflectance(print, view));
        found.push({ noise: pieceNoise(lightness, w, h), x: (x + w / 2) / width, y: (y + h / 2) / height });
      }
    // Texture is in most pieces; the quarter that is most even shows noise alone.
    found.sort((p, q) => p.noise - q.noise);
    const even = found.slice(0, Math.ceil(found.length / 4));
    const worst = even.at(-1)!;
    if (worst.noise < TOLD.noise) return [];
    return [
      {
        id: "noise",
        kind: "noise",
        text: `Even areas are noisy: ${worst.noise.toFixed(1)} L* from pixel to pixel, at ${where(worst)}.`,
        weight: worst.noise / TOLD.noise,
        place: { x: worst.x, y: worst.y },
        mend: this.#mended("Calm the noise", (old) => ({
          ...old,
          ground: { ...old.ground, calm: Math.min(1, old.ground.calm + 0.35) },
        })),
      },
    ];
  }

  /** Edges and corners that are lighter than what the picture is about. */
  edges(): Finding[] {
    const { width, height } = this.#view;
    const soft = boxMeans(this.#print, width, height, Math.round(0.02 * Math.max(width, height)));
    const subject = this.#marks.get("subject");
    let [sum, weight] = [0, 0];
    let brightest = { lightness: -1, x: 0, y: 0 };
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [u, v] = [(x + 0.5) / width, (y + 0.5) / height];
        const central = Math.hypot(u - 0.5, v - 0.5) < 0.25 ? 1 : 0;
        const share = subject ? this.#markAt("subject", u, v) : central;
        sum += share * this.#print[y * width + x];
        weight += share;
        const atEdge = Math.min(u, v, 1 - u, 1 - v) < 0.05;
        if (!atEdge || this.#markAt("may go white", u, v) > 0.5 || this.#markAt("subject", u, v) > 0.5) continue;
        const lightness = soft[y * width + x];
        if (lightness > brightest.lightness) brightest = { lightness, x: u, y: v };
      }
    const middle = weight > 0 ? sum / weight : 50;
    const beyond = brightest.lightness - Math.max(55, middle);
    // A sky or a white ground reaches the edge all along; a spot there is what pulls the eye out.
    const isSpot = spotContrast(soft, width, height, brightest) > 18;
    if (beyond < TOLD.brightEdge || !isSpot) return [];
    const stops = -Math.min(1, Math.max(1 / 3, beyond / 30));
    const { centreX, centreY } = this.#centre();
    return [
      {
        id: "bright edge",
        kind: "bright edge",
        text: `The edge at ${where(brightest)} is ${beyond.toFixed(0)} L* lighter than ${subject ? "the subject" : "the middle"}: it leads out.`,
        weight: beyond / TOLD.brightEdge,
        place: brightest,
        mend: this.#mended(`Burn the edges by ${Math.abs(stops).toFixed(2)} stop`, (old) => ({
          ...old,
          finish: {
            ...old.finish,
            edgeBurn: {
              ...old.finish.edgeBurn,
              stops: Math.max(-2, old.finish.edgeBurn.stops + stops),
              centreX,
              centreY,
            },
          },
        })),
      },
    ];
  }

  /** Middle of the subject, within what an edge burn's centre may be. */
  #centre(): { centreX: number; centreY: number } {
    const subject = this.#marks.get("subject");
    if (!subject) return { centreX: 0.5, centreY: 0.5 };
    let [x, y, weight] = [0, 0, 0];
    subject.mask.forEach((share, i) => {
      x += share * (i % subject.width);
      y += share * Math.floor(i / subject.width);
      weight += share;
    });
    const within = (v: number) => Math.min(0.9, Math.max(0.1, Math.round(100 * v) / 100));
    if (weight === 0) return { centreX: 0.5, centreY: 0.5 };
    return { centreX: within(x / weight / subject.width), centreY: within(y / weight / subject.height) };
  }

  /** A level that leans. */
  async lean(): Promise<Finding[]> {
    // By the light of the capture: how it is printed moves no line.
    const plain = await this.#lightness({ ...defaultRecipe(), ground: this.#recipe.ground });
    const lean = measureLean(plain, this.#view.width, this.#view.height);
    if (!lean || Math.abs(lean.degrees) < TOLD.leanDegrees || lean.clearness < TOLD.leanClearness) return [];
    const turn = Math.round(10 * lean.degrees) / 10;
    return [
      {
        id: "lean",
        kind: "lean",
        text: `Its long lines lean by ${Math.abs(lean.degrees).toFixed(1)}°.`,
        weight: Math.abs(lean.degrees) / TOLD.leanDegrees,
        place: null,
        mend: this.#mended(`Straighten by ${turn}°`, (old) => {
          const ground = { ...old.ground, angleDegrees: Math.max(-45, Math.min(45, old.ground.angleDegrees + turn)) };
          const { crop } = ground;
          return { ...old, ground: { ...ground, crop: crop && fitCrop(crop, wholeCrop(this.#reader.size, ground)) } };
        }),
      },
    ];
  }

  /** Skin-like colours whose fine texture was made much harder than it came. */
  async skin(): Promise<Finding[]> {
    const { map, recipe } = await weighReading(this.#reader, this.#recipe);
    const plain = await this.#lightness(withoutSpatial(this.#recipe));
    const skinLike = recipe.weigh.families.map((_, k) => {
      const { hueDegrees, saturation } = placeToFamily(familyPlace(map.facts[k].working));
      return hueDegrees > 25 && hueDegrees < 75 && saturation > 0.05 && saturation < 0.32;
    });
    const { width, height } = this.#view;
    const fine = (values: Float32Array) => {
      const soft = boxMeans(values, width, height, 2);
      return values.map((v, i) => (v - soft[i]) ** 2);
    };
    const [mine, plainly] = [fine(this.#print), fine(plain)];
    let [a, b, count, sx, sy] = [0, 0, 0, 0, 0];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const u = Math.floor(((x + 0.5) / width) * map.width);
        const v = Math.floor(((y + 0.5) / height) * map.height);
        const label = map.labels[v * map.width + u];
        const i = y * width + x;
        if (!skinLike[label] || this.#print[i] < 30) continue;
        a += mine[i];
        b += plainly[i];
        sx += x;
        sy += y;
        count++;
      }
    if (count < 0.02 * width * height || b === 0) return [];
    const ratio = Math.sqrt(a / b);
    // Light smoothness is seen as harsh only where there is texture to see at all.
    if (ratio < TOLD.skin || Math.sqrt(a / count) < 1.2) return [];
    const place = { x: sx / count / width, y: sy / count / height };
    return [
      {
        id: "harsh skin",
        kind: "harsh skin",
        text: `Skin-like colours have ${ratio.toFixed(1)} times the fine contrast they came with.`,
        weight: ratio / TOLD.skin,
        place,
        mend: this.#mended("Halve the detail", softened),
      },
    ];
  }

  /** A sky gone to ink. */
  async sky(): Promise<Finding[]> {
    const ready = await regionQuestions.readyRegions(this.#reader, { recipe: this.#recipe });
    const sky = ready.find(({ shape }) => shape.of === "sky");
    if (!sky) return [];
    const area = await areaOf(this.#reader, this.#recipe, sky.shape, JUDGE_EDGE);
    let [sum, weight, sx, sy] = [0, 0, 0, 0];
    area.mask.forEach((share, i) => {
      sum += share * this.#print[i];
      sx += share * (i % area.width);
      sy += share * Math.floor(i / area.width);
      weight += share;
    });
    if (weight < 0.02 * area.mask.length) return [];
    const lightness = sum / weight;
    const plain = await this.#lightness({ ...defaultRecipe(), ground: this.#recipe.ground });
    let natural = 0;
    area.mask.forEach((share, i) => (natural += (share * plain[i]) / weight));
    // A night's sky is dark by itself.
    if (lightness > TOLD.skyLightness || natural < 40) return [];
    const stops = Math.min(
      2,
      Math.round(6 * (2.5 * Math.log2(116 / (lightness + 16)) - 2.5 * Math.log2(116 / (TOLD.skyLightness + 24)))) / 6,
    );
    return [
      {
        id: "ink sky",
        kind: "ink sky",
        text: `The sky has gone to ink: L* ${lightness.toFixed(0)}, where the capture has ${natural.toFixed(0)}.`,
        weight: (TOLD.skyLightness + 10) / (lightness + 10),
        place: { x: sx / weight / area.width, y: sy / weight / area.height },
        mend:
          stops > 0
            ? this.#mended(`Lift the sky by ${stops.toFixed(2)} stops`, (old) =>
                withMoves(old, [moveOf("Sky", sky.shape, stops)]),
              )
            : null,
      },
    ];
  }

  /** Grain that is coarse on a print of 40 cm seen from half a metre: what the eye resolves there, a minute of arc. */
  grain(): Finding[] {
    const { grain } = this.#recipe.finish;
    if (grain.granularity === 0) return [];
    const enlarged = 400 / FORMAT_LONG_EDGE_MM[grain.format];
    const apertureUm = 145 / enlarged;
    const seen = densityDeviation(emulsionOf(grain), 0.7, apertureUm);
    if (seen < TOLD.grain) return [];
    return [
      {
        id: "coarse grain",
        kind: "coarse grain",
        text: `Grain on a print of 40 cm is coarse: densities waver by ${seen.toFixed(3)} to the eye.`,
        weight: seen / TOLD.grain,
        place: null,
        mend: this.#mended("Grain by a third less", (old) => ({
          ...old,
          finish: { ...old.finish, grain: { ...grain, granularity: Math.round(grain.granularity * 0.67) } },
        })),
      },
    ];
  }

  /** A key other than the one the plan asks for. */
  key(): Finding[] {
    const wanted = this.#plan.key;
    if (wanted === "") return [];
    const { light, reflectance } = this.#ends;
    const { key, middle } = readKey(histograms(light, reflectance));
    if (key === wanted) return [];
    return [
      {
        id: "key",
        kind: "key",
        text: `The plan asks for a ${wanted} key; half of the print lies above zone ${middle.toFixed(1)}, which is ${key}.`,
        weight: 1.5,
        place: null,
        mend: null,
      },
    ];
  }

  /** A subject that does not pull first. */
  async subject(): Promise<Finding[]> {
    const area = await subjectOf(this.#reader, this.#recipe, this.#plan);
    if (!area) return [];
    const seen = await seenByEye(this.#reader, this.#recipe, area);
    if (seen.subject === 1 || seen.pulls.length === 0) return [];
    const [first] = seen.pulls;
    const mend = await mendEye(this.#reader, { recipe: this.#recipe, plan: this.#plan });
    const place = ORDINALS[(seen.subject ?? 0) - 1];
    return [
      {
        id: "subject",
        kind: "subject",
        text: `${place ? `The subject is ${place}` : "The subject hardly pulls"}; ${where(first)} is first.`,
        weight: seen.subject === null ? 2.5 : 1.5,
        place: { x: first.x, y: first.y },
        mend: mend && { label: `With ${mend.label}`, recipe: mend.recipe },
      },
    ];
  }

  async #lightness(recipe: Recipe): Promise<Float32Array> {
    const { engine, fetch } = this.#reader;
    const print = engine.prepare(withoutGrain(recipe));
    await fetch(engine.tilesFor(print, this.#view));
    return lightnessOf(engine.renderReflectance(print, this.#view));
  }
}

/** A recipe without what works by neighbourhood. */
function withoutSpatial(recipe: Recipe): Recipe {
  const { localContrast, detail, scatter, haze, openShadows, holdHighlights, sharpening } = defaultRecipe().shape;
  const moves = recipe.light.moves.map((move) => ({
    ...move,
    effects: { ...move.effects, local: 0, fine: 0, softness: 0, haze: 0 },
  }));
  return {
    ...recipe,
    shape: {
      ...recipe.shape,
      localContrast,
      detail,
      scatter,
      haze,
      openShadows,
      holdHighlights,
      sharpening: { ...sharpening, amount: 0 },
    },
    light: { ...recipe.light, moves },
  };
}

/** Half of every gain of detail that raises it. */
function softened(recipe: Recipe): Recipe {
  const half = <T extends Record<string, number>>(gains: T) =>
    Object.fromEntries(
      Object.entries(gains).map(([name, gain]) => [name, gain > 0 ? Math.round(50 * gain) / 100 : gain]),
    ) as T;
  const { shape } = recipe;
  return {
    ...recipe,
    shape: {
      ...shape,
      localContrast: half(shape.localContrast),
      detail: half(shape.detail),
      haze: shape.haze > 0 ? shape.haze / 2 : shape.haze,
    },
  };
}

/** Where most of a mark lies within a tenth of the picture. */
function densest(marks: Float32Array, width: number, height: number): { x: number; y: number } {
  const dense = boxMeans(marks, width, height, Math.max(1, Math.round(0.03 * Math.max(width, height))));
  let at = 0;
  for (let i = 1; i < dense.length; i++) if (dense[i] > dense[at]) at = i;
  return { x: ((at % width) + 0.5) / width, y: (Math.floor(at / width) + 0.5) / height };
}

/** Somewhere in the middle of where two labels meet. */
function meeting(labels: Uint8Array, width: number, height: number, first: number, second: number, neutral: number) {
  const found: number[] = [];
  const at = (i: number) => Math.min(labels[i], neutral);
  for (let y = 0; y < height; y++)
    for (let x = 0; x + 3 < width; x++) {
      const [a, b] = [at(y * width + x), at(y * width + x + 3)];
      if ((a === first && b === second) || (a === second && b === first)) found.push(y * width + x);
    }
  if (found.length === 0) return null;
  const i = found[found.length >> 1];
  return { x: ((i % width) + 0.5) / width, y: (Math.floor(i / width) + 0.5) / height };
}

/** How much a spot at the edge stands out of the whole edge, L*. */
function spotContrast(soft: Float32Array, width: number, height: number, { lightness }: { lightness: number }): number {
  const along: number[] = [];
  for (let x = 0; x < width; x++) along.push(soft[x + 2 * width], soft[(height - 3) * width + x]);
  for (let y = 0; y < height; y++) along.push(soft[y * width + 2], soft[y * width + width - 3]);
  along.sort((p, q) => p - q);
  return lightness - along[Math.floor(0.6 * along.length)];
}

const lightnessOf = (reflectance: ArrayLike<number>) =>
  Float32Array.from(reflectance, (r) => luminanceToLightness(Math.min(1, Math.max(0, r))));
