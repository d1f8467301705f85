// Light as a local linear function of the picture's own colours: fitted to what they vote for.

import { channelOf } from "./full";
import { horizontalSum, sum3 } from "./math";

/** What a bright colour's plain light must be at least against its channels, where weights take some away. */
const LEAST_PLAIN: f32 = 0.05;

/** How readily a mixture is told as one with grey, against one with a family: few things are grey, many mixtures are. */
const NEUTRAL_COUNTS: f32 = 0.1;
/** Squared distance of colours (over their luminance) within which they count as one. */
const SAME_COLOUR: f32 = 0.001;

/**
 * Which of `count` colours the pixels of each cell are mixed with: a pixel's colour is told as a mixture of what is pure about it
 * and one colour of the palette, the better the nearer the line between the two. For each colour two planes `planeBytes` apart:
 * the share it has in pixels that are mixed, and in those that are pure.
 * @param pure - R, G and B of the votes of a target whose gain is 1, smoothed, which say what is pure about a cell: brought together
 * with other planes, `total` in all, as by `smoothVotes`.
 * @param palette - three values a colour, luminance 1.
 * @param room - 32 bytes a colour.
 */
export function gatherMixtures(
  pure: usize, total: i32, pureStride: i32, samples: usize, cellStride: i32, width: i32, height: i32,
  palette: usize, count: i32, out: usize, planeBytes: usize, outStride: i32, room: usize, r: f32, g: f32, b: f32,
): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const four = y * pureStride + (x & ~3);
      const at = pure + (<usize>(four * total + (x & 3)) << 2);
      const br = load<f32>(at), bg = load<f32>(at, 16), bb = load<f32>(at, 32);
      const scale: f32 = 1 / max<f32>(r * br + g * bg + b * bb, 1e-12);
      const pureR = f32x4.splat(br * scale), pureG = f32x4.splat(bg * scale), pureB = f32x4.splat(bb * scale);
      const sample = samples + (<usize>(y * cellStride + x) << 6);
      const dR = f32x4.sub(v128.load(sample), pureR);
      const dG = f32x4.sub(v128.load(sample, 16), pureG);
      const dB = f32x4.sub(v128.load(sample, 32), pureB);
      const told = v128.load(sample, 48), vote = f32x4.pmax(zero, told);
      let sum = f32x4.splat(1e-12);
      for (let k = 0; k < count; k++) {
        const colour = palette + <usize>(12 * k);
        const eR = f32x4.sub(f32x4.splat(load<f32>(colour)), pureR);
        const eG = f32x4.sub(f32x4.splat(load<f32>(colour, 4)), pureG);
        const eB = f32x4.sub(f32x4.splat(load<f32>(colour, 8)), pureB);
        const length = f32x4.add(f32x4.add(f32x4.mul(eR, eR), f32x4.mul(eG, eG)), f32x4.mul(eB, eB));
        const along = f32x4.add(f32x4.add(f32x4.mul(dR, eR), f32x4.mul(dG, eG)), f32x4.mul(dB, eB));
        let share = f32x4.div(along, f32x4.add(length, f32x4.splat(SAME_COLOUR)));
        share = f32x4.pmin(one, f32x4.pmax(zero, share));
        const mR = f32x4.sub(dR, f32x4.mul(share, eR));
        const mG = f32x4.sub(dG, f32x4.mul(share, eG));
        const mB = f32x4.sub(dB, f32x4.mul(share, eB));
        const miss = f32x4.add(f32x4.add(f32x4.mul(mR, mR), f32x4.mul(mG, mG)), f32x4.mul(mB, mB));
        const near = f32x4.div(f32x4.splat(SAME_COLOUR), f32x4.add(miss, f32x4.splat(SAME_COLOUR)));
        const weight = f32x4.mul(f32x4.mul(near, near), k == count - 1 ? f32x4.splat(NEUTRAL_COUNTS) : one);
        sum = f32x4.add(sum, weight);
        v128.store(room + <usize>(32 * k), f32x4.mul(weight, share));
      }
      const inverse = v128.and(f32x4.div(one, sum), f32x4.ge(told, zero));
      let to = out + (<usize>(y * outStride + x) << 2);
      for (let k = 0; k < count; k++) {
        const share = f32x4.mul(v128.load(room + <usize>(32 * k)), inverse);
        const told = f32x4.mul(share, f32x4.pmin(vote, one));
        store<f32>(to, horizontalSum(f32x4.sub(share, told)));
        store<f32>(to + planeBytes, horizontalSum(told));
        to += 2 * planeBytes;
      }
    }
  }
}

/** How strongly the fit is held to the mean gain, against what the votes say. */
const RIDGE: f32 = 3e-4;
/** How freely the fit takes an offset, against slopes. */
const OFFSET: f32 = 0.3;
/** What a colour of the palette that pixels are mixed with counts against a pure pixel, for the four samples of a cell. */
const PALETTE_VOTE: f32 = 2;
/** How far pure pixels of a colour make its entry in the palette needless. */
const SUPPLY: f32 = 20;
/** Inverse of the share of votes, or of what pixels are mixed with, from which a family counts as being there. */
const PRESENT: f32 = 25;

/** Share of light that is clipped up to which what is bright says whose the clipped is, and from which it does not. */
const FEW_CLIPPED: f32 = 0.3, MUCH_CLIPPED: f32 = 0.6;

/** What {@link solveVotes} leaves of the votes of the last target and what follows them, for four cells: 21 vectors. */
const SOLVED = 21;

/**
 * What the fit of {@link fitVotes} has besides gains and weights, in place of the last target's votes and of what follows them: the sums
 * of a ridge regression (RR, RG, RB, GG, GB, BB, and R, G, B times the offset's unit), the votes' luminance, the unit, and L·D·Lᵀ of
 * the sums with their ridge (four inverses, six factors); then what each colour of the palette votes, and how far each target is there. A
 * ridge holds the fit to the weights times the mean gain. Colours of the palette that pixels here are mixed with, but of which no pure ones are
 * near, vote with the light that they are to have.
 * @param values - smoothed planes, interleaved, `planes` of them: ten of votes a target, the last target's gain being 1 everywhere, which gives
 * the plain sums; one of how firmly noise holds the fit, see `weigh/colour-noise.ts`; then two of mixtures for each colour of the palette. `stride` values a row.
 * @param palette - three values a colour, luminance 1.
 * @param count - colours of the palette: the first are those of the gains, where these are several.
 * @param room - 16 bytes for each colour of the palette and each target.
 */
export function solveVotes(
  values: usize, planes: i32, targets: i32, stride: i32, width: i32, height: i32, palette: usize, count: i32, room: usize, r: f32, g: f32, b: f32,
): void {
  const one = f32x4.splat(1), tiny = f32x4.splat(1e-30);
  const lr = f32x4.splat(r), lg = f32x4.splat(g), lb = f32x4.splat(b);
  const offset = f32x4.splat(OFFSET), squaredOffset = f32x4.splat(OFFSET * OFFSET);
  const before = <usize>(160 * (targets - 1));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const first = values + <usize>(y * stride + x) * <usize>planes * 4, at = first + before;
      let shares = tiny;
      for (let k = 0; k < targets - 1; k++) shares = f32x4.add(shares, v128.load(first + <usize>(160 * k), 144));
      let rr = v128.load(at), rg = v128.load(at, 16), rb = v128.load(at, 32);
      let gg = v128.load(at, 48), gb = v128.load(at, 64), bb = v128.load(at, 80);
      let sr = v128.load(at, 96), sg = v128.load(at, 112), sb = v128.load(at, 128);
      let s1 = v128.load(at, 144);
      const mean = f32x4.pmax(
        f32x4.splat(1e-6),
        f32x4.div(sum3(lr, sr, lg, sg, lb, sb), f32x4.pmax(s1, tiny)),
      );
      const plain = quadratic(lr, lg, lb, rr, rg, rb, gg, gb, bb);
      const unit = f32x4.mul(offset, mean);
      sr = f32x4.mul(sr, unit); sg = f32x4.mul(sg, unit); sb = f32x4.mul(sb, unit);
      s1 = f32x4.mul(s1, f32x4.mul(unit, unit));
      const oneOf = f32x4.div(f32x4.splat(PRESENT), shares);
      const held = heldBy(v128.load(at, 160), spread(rr, rg, rb, gg, gb, bb, sr, sg, sb, lr, lg, lb, plain));
      let mixed = at + 176, told = room;
      const there = room + <usize>(16 * count);
      for (let k = 0; k < count; k++) {
        const demand = v128.load(mixed), supply = v128.load(mixed, 16);
        mixed += 32;
        if (k < targets - 1) {
          // Four samples of a cell are told.
          const mixedIn = f32x4.mul(f32x4.splat(PRESENT / 4), f32x4.add(demand, supply));
          const share = f32x4.mul(oneOf, v128.load(first + <usize>(160 * k), 144));
          v128.store(there + <usize>(16 * k), f32x4.pmin(one, f32x4.add(mixedIn, share)));
        }
        const needed = f32x4.add(f32x4.add(demand, f32x4.mul(f32x4.splat(SUPPLY), supply)), f32x4.splat(1e-9));
        const v = f32x4.div(f32x4.mul(f32x4.splat(PALETTE_VOTE), f32x4.mul(demand, demand)), needed);
        const colour = palette + <usize>(12 * k);
        const R = v128.load32_splat(colour), G = v128.load32_splat(colour, 4), B = v128.load32_splat(colour, 8);
        const vR = f32x4.mul(v, R), vG = f32x4.mul(v, G), vB = f32x4.mul(v, B);
        rr = f32x4.add(rr, f32x4.mul(vR, R)); rg = f32x4.add(rg, f32x4.mul(vR, G)); rb = f32x4.add(rb, f32x4.mul(vR, B));
        gg = f32x4.add(gg, f32x4.mul(vG, G)); gb = f32x4.add(gb, f32x4.mul(vG, B)); bb = f32x4.add(bb, f32x4.mul(vB, B));
        sr = f32x4.add(sr, f32x4.mul(vR, offset)); sg = f32x4.add(sg, f32x4.mul(vG, offset));
        sb = f32x4.add(sb, f32x4.mul(vB, offset)); s1 = f32x4.add(s1, f32x4.mul(v, squaredOffset));
        v128.store(told, v);
        told += 16;
      }
      const trace = f32x4.add(f32x4.add(rr, gg), f32x4.add(bb, s1));
      const ridge = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(RIDGE), trace), held), f32x4.splat(1e-12));
      // Four cells at a time; no pivot of S + ridge is below the ridge.
      const d0 = f32x4.div(one, f32x4.add(rr, ridge));
      const l1 = f32x4.mul(rg, d0), l2 = f32x4.mul(rb, d0), l3 = f32x4.mul(sr, d0);
      const d1 = f32x4.div(one, f32x4.pmax(ridge, f32x4.sub(f32x4.add(gg, ridge), f32x4.mul(l1, rg))));
      const u2 = f32x4.sub(gb, f32x4.mul(l1, rb)), u3 = f32x4.sub(sg, f32x4.mul(l1, sr));
      const m2 = f32x4.mul(u2, d1), m3 = f32x4.mul(u3, d1);
      const e2 = f32x4.sub(f32x4.sub(f32x4.add(bb, ridge), f32x4.mul(l2, rb)), f32x4.mul(m2, u2));
      const d2 = f32x4.div(one, f32x4.pmax(ridge, e2));
      const v3 = f32x4.sub(f32x4.sub(sb, f32x4.mul(l2, sr)), f32x4.mul(m2, u3));
      const n3 = f32x4.mul(v3, d2);
      const e3 = f32x4.sub(f32x4.sub(f32x4.add(s1, ridge), f32x4.mul(l3, sr)), f32x4.add(f32x4.mul(m3, u3), f32x4.mul(n3, v3)));
      const d3 = f32x4.div(one, f32x4.pmax(ridge, e3));
      v128.store(at, rr); v128.store(at, rg, 16); v128.store(at, rb, 32);
      v128.store(at, gg, 48); v128.store(at, gb, 64); v128.store(at, bb, 80);
      v128.store(at, sr, 96); v128.store(at, sg, 112); v128.store(at, sb, 128);
      v128.store(at, f32x4.pmax(plain, tiny), 144); v128.store(at, unit, 160);
      v128.store(at, d0, 176); v128.store(at, d1, 192); v128.store(at, d2, 208); v128.store(at, d3, 224);
      v128.store(at, l1, 240); v128.store(at, l2, 256); v128.store(at, l3, 272);
      v128.store(at, m2, 288); v128.store(at, m3, 304); v128.store(at, n3, 320);
      memory.copy(at + 16 * SOLVED, room, <usize>(16 * (count + min(count, targets - 1))));
    }
  }
}

/**
 * Fits light x · (R, G, B) + offset to the votes of each cell by least squares: the light of a pixel is its light under the
 * weights (wr, wg, wb) times its gain, Σ gains[k] · target k. Four planes out, two of the
 * least and the greatest of those gains whose colours are there: beyond them a fit only goes on where nothing votes; then
 * what is bright on average, from the last six of `values`, in channels of the capture, its gain by the line, and how far that is known: not where most is
 * clipped.
 * @param values - what {@link solveVotes} made, interleaved, `planes` of them, `stride` values a row.
 * @param gains - one a target but for the last.
 * @param lights - light of each colour of the palette at luminance 1.
 * @param sensor - nine values, by rows: to the channels of the capture, each of which is full at 1.
 */
export function fitVotes(
  values: usize, planes: i32, gains: usize, targets: i32, stride: i32, width: i32, height: i32, palette: usize, lights: usize, count: i32,
  out0: usize, out1: usize, out2: usize, out3: usize, leasts: usize, mosts: usize, brightR: usize, brightG: usize, brightB: usize, brightGain: usize, known: usize,
  outStride: i32, sensor: usize, wr: f32, wg: f32, wb: f32, r: f32, g: f32, b: f32,
): void {
  const zero = f32x4.splat(0), tiny = f32x4.splat(1e-30);
  const ur = f32x4.splat(wr), ug = f32x4.splat(wg), ub = f32x4.splat(wb);
  const lr = f32x4.splat(r), lg = f32x4.splat(g), lb = f32x4.splat(b);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      // Sums of votes times gain.
      let prr = zero, prg = zero, prb = zero, pgg = zero, pgb = zero, pbb = zero, pr = zero, pg = zero, pb = zero;
      let at = values + <usize>(y * stride + x) * <usize>planes * 4, shares = tiny, gainedShares = zero;
      const bright = at + 16 * <usize>(planes - 6);
      for (let k = 0; k < targets - 1; k++) {
        const gain = v128.load32_splat(gains + (<usize>k << 2));
        shares = f32x4.add(shares, v128.load(at, 144));
        gainedShares = f32x4.add(gainedShares, f32x4.mul(gain, v128.load(at, 144)));
        prr = f32x4.add(prr, f32x4.mul(gain, v128.load(at)));
        prg = f32x4.add(prg, f32x4.mul(gain, v128.load(at, 16)));
        prb = f32x4.add(prb, f32x4.mul(gain, v128.load(at, 32)));
        pgg = f32x4.add(pgg, f32x4.mul(gain, v128.load(at, 48)));
        pgb = f32x4.add(pgb, f32x4.mul(gain, v128.load(at, 64)));
        pbb = f32x4.add(pbb, f32x4.mul(gain, v128.load(at, 80)));
        pr = f32x4.add(pr, f32x4.mul(gain, v128.load(at, 96)));
        pg = f32x4.add(pg, f32x4.mul(gain, v128.load(at, 112)));
        pb = f32x4.add(pb, f32x4.mul(gain, v128.load(at, 128)));
        at += 160;
      }
      const gained = quadratic(lr, lg, lb, prr, prg, prb, pgg, pgb, pbb);
      const gain = f32x4.div(gained, v128.load(at, 144));
      const unit = v128.load(at, 160);
      let tr = sum3(ur, prr, ug, prg, ub, prb);
      let tg = sum3(ur, prg, ug, pgg, ub, pgb);
      let tb = sum3(ur, prb, ug, pgb, ub, pbb);
      let st = f32x4.mul(unit, sum3(ur, pr, ug, pg, ub, pb));
      const usual = f32x4.div(gainedShares, shares);
      let least = usual, most = usual;
      let told = at + 16 * SOLVED;
      for (let k = 0; k < count; k++) {
        if (k < targets - 1) {
          const own = f32x4.sub(v128.load32_splat(gains + (<usize>k << 2)), usual);
          const reached = f32x4.add(usual, f32x4.mul(v128.load(told + <usize>(16 * count)), own));
          least = f32x4.pmin(least, reached);
          most = f32x4.pmax(most, reached);
        }
        const v = v128.load(told);
        told += 16;
        const colour = palette + <usize>(12 * k);
        const R = v128.load32_splat(colour), G = v128.load32_splat(colour, 4), B = v128.load32_splat(colour, 8);
        const t = v128.load32_splat(lights + (<usize>k << 2));
        tr = f32x4.add(tr, f32x4.mul(f32x4.mul(v, R), t)); tg = f32x4.add(tg, f32x4.mul(f32x4.mul(v, G), t));
        tb = f32x4.add(tb, f32x4.mul(f32x4.mul(v, B), t)); st = f32x4.add(st, f32x4.mul(f32x4.mul(v, f32x4.splat(OFFSET)), t));
      }
      // What the mean gain leaves over is fitted.
      const ar = f32x4.mul(gain, ur), ag = f32x4.mul(gain, ug), ab = f32x4.mul(gain, ub);
      const rg = v128.load(at, 16), rb = v128.load(at, 32), gb = v128.load(at, 64);
      tr = f32x4.sub(tr, sum3(v128.load(at), ar, rg, ag, rb, ab));
      tg = f32x4.sub(tg, sum3(rg, ar, v128.load(at, 48), ag, gb, ab));
      tb = f32x4.sub(tb, sum3(rb, ar, gb, ag, v128.load(at, 80), ab));
      st = f32x4.sub(st, sum3(v128.load(at, 96), ar, v128.load(at, 112), ag, v128.load(at, 128), ab));
      const l1 = v128.load(at, 240), l2 = v128.load(at, 256), l3 = v128.load(at, 272);
      const m2 = v128.load(at, 288), m3 = v128.load(at, 304), n3 = v128.load(at, 320);
      const y1 = f32x4.sub(tg, f32x4.mul(l1, tr));
      const y2 = f32x4.sub(f32x4.sub(tb, f32x4.mul(l2, tr)), f32x4.mul(m2, y1));
      const y3 = f32x4.sub(f32x4.sub(st, f32x4.mul(l3, tr)), f32x4.add(f32x4.mul(m3, y1), f32x4.mul(n3, y2)));
      const x3 = f32x4.mul(y3, v128.load(at, 224));
      const x2 = f32x4.sub(f32x4.mul(y2, v128.load(at, 208)), f32x4.mul(n3, x3));
      const x1 = f32x4.sub(f32x4.mul(y1, v128.load(at, 192)), f32x4.add(f32x4.mul(m2, x2), f32x4.mul(m3, x3)));
      const x0 = f32x4.sub(f32x4.mul(tr, v128.load(at, 176)), sum3(l1, x1, l2, x2, l3, x3));
      const to = <usize>(y * outStride + x) << 2;
      const line0 = f32x4.add(ar, x0), line1 = f32x4.add(ag, x1), line2 = f32x4.add(ab, x2), line3 = f32x4.mul(unit, x3);
      v128.store(out0 + to, line0);
      v128.store(out1 + to, line1);
      v128.store(out2 + to, line2);
      v128.store(out3 + to, line3);
      v128.store(leasts + to, least);
      v128.store(mosts + to, most);
      const clipped = f32x4.div(v128.load(bright, 80), f32x4.pmax(tiny, v128.load(bright, 64)));
      const few = f32x4.mul(f32x4.sub(f32x4.splat(MUCH_CLIPPED), clipped), f32x4.splat(1 / (MUCH_CLIPPED - FEW_CLIPPED)));
      v128.store(known + to, f32x4.pmin(f32x4.splat(1), f32x4.pmax(zero, few)));
      const inverse = f32x4.div(f32x4.splat(1), f32x4.pmax(tiny, v128.load(bright, 48)));
      const R = f32x4.mul(v128.load(bright), inverse), G = f32x4.mul(v128.load(bright, 16), inverse), B = f32x4.mul(v128.load(bright, 32), inverse);
      v128.store(brightR + to, f32x4.pmax(zero, channelOf(sensor, R, G, B)));
      v128.store(brightG + to, f32x4.pmax(zero, channelOf(sensor + 12, R, G, B)));
      v128.store(brightB + to, f32x4.pmax(zero, channelOf(sensor + 24, R, G, B)));
      const light = f32x4.add(sum3(line0, R, line1, G, line2, B), line3), plain = sum3(ur, R, ug, G, ub, B);
      const held = f32x4.mul(f32x4.splat(LEAST_PLAIN), f32x4.add(f32x4.add(R, G), B));
      const squares = f32x4.add(f32x4.add(f32x4.mul(plain, plain), f32x4.mul(held, held)), f32x4.splat(1e-20));
      v128.store(brightGain + to, f32x4.div(f32x4.mul(light, plain), squares));
    }
  }
}

/** Sum of votes times how far their colours over luminance lie from the mean of a window: squared, of one channel. */
// @ts-ignore: decorator
@inline
function spread(
  rr: v128, rg: v128, rb: v128, gg: v128, gb: v128, bb: v128, sr: v128, sg: v128, sb: v128, lr: v128, lg: v128, lb: v128, votes: v128,
): v128 {
  const inverse = f32x4.div(f32x4.splat(1), f32x4.pmax(f32x4.splat(1e-30), sum3(lr, sr, lg, sg, lb, sb)));
  const r = f32x4.mul(sr, inverse), g = f32x4.mul(sg, inverse), b = f32x4.mul(sb, inverse);
  const along = sum3(r, sum3(lr, rr, lg, rg, lb, rb), g, sum3(lr, rg, lg, gg, lb, gb), b, sum3(lr, rb, lg, gb, lb, bb));
  const apart = f32x4.sub(f32x4.add(f32x4.add(rr, gg), bb), f32x4.add(along, along));
  const all = f32x4.add(apart, f32x4.mul(votes, sum3(r, r, g, g, b, b)));
  return f32x4.mul(f32x4.splat(1 / 3.0), f32x4.pmax(f32x4.splat(0), all));
}

/** Noise as far as it explains how far colours are apart in a window: where they are apart by far more, two things meet. */
// @ts-ignore: decorator
@inline
function heldBy(noise: v128, apart: v128): v128 {
  const share = f32x4.div(noise, f32x4.add(f32x4.add(noise, apart), f32x4.splat(1e-30)));
  return f32x4.mul(noise, share);
}

/** (r, g, b) · M · (r, g, b)ᵀ of a symmetric M. */
// @ts-ignore: decorator
@inline
function quadratic(r: v128, g: v128, b: v128, rr: v128, rg: v128, rb: v128, gg: v128, gb: v128, bb: v128): v128 {
  return sum3(r, sum3(r, rr, g, rg, b, rb), g, sum3(r, rg, g, gg, b, gb), b, sum3(r, rb, g, gb, b, bb));
}
