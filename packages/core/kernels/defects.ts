/**
 * Mends single sites that are stuck bright or dark in a scaled, padded mosaic, in place. A site is stuck when it stands
 * out from all eight neighbours of its colour by more than `reach` deviations of their noise and a quarter of their level,
 * and the sites beside it, which the lens lights too, do not follow a third of the way. It takes the middle of its four
 * nearest neighbours of the same colour. Two sites at every border are left alone. The plane has 16 bytes to spare.
 * @param noise - slope and offset of the variance of red, green and blue, f32 × 6.
 */
export function mendDefects(
  mosaic: usize, stride: i32, height: i32, redX: i32, redY: i32, noise: usize, reach: f32,
): i32 {
  let mended = 0;
  for (let y = 2; y < height - 2; y++) {
    const redRow = ((y ^ redY) & 1) == 0;
    const row = mosaic + (<usize>(y * stride) << 2);
    for (let first = 2; first < stride - 2; first += 4) {
      const q = row + (<usize>first << 2);
      if (!standsOut(q, stride)) continue;
      for (let x = first; x < min(first + 4, stride - 2); x++) {
        const p = row + (<usize>x << 2);
        const v = load<f32>(p);
        const w = px(p, -2), e = px(p, 2), n = px(p, -2 * stride), s = px(p, 2 * stride);
        const above = v > max(max(w, e), max(n, s));
        if (!above && !(v < min(min(w, e), min(n, s)))) continue;
        const nw = px(p, -2 * stride - 2), ne = px(p, -2 * stride + 2);
        const sw = px(p, 2 * stride - 2), se = px(p, 2 * stride + 2);
        const most = max(max(max(n, s), max(w, e)), max(max(nw, ne), max(sw, se)));
        const least = min(min(min(n, s), min(w, e)), min(min(nw, ne), min(sw, se)));
        const level = above ? most : least;
        const redColumn = ((x ^ redX) & 1) == 0;
        const channel = redRow == redColumn ? (redRow ? 0 : 2) : 1;
        const variance = load<f32>(noise + (channel << 3)) * max<f32>(0, level) + load<f32>(noise + (channel << 3) + 4);
        const rise = above ? v - level : level - v;
        if (rise <= reach * sqrt<f32>(variance) + <f32>0.25 * (most - least) + <f32>0.25 * abs(level)) continue;
        const up = px(p, -stride), down = px(p, stride), left = px(p, -1), right = px(p, 1);
        const beside = above
          ? max(max(up, down), max(left, right)) - min(min(px(p, -stride - 2), px(p, stride + 2)), min(px(p, -stride + 2), px(p, stride - 2)))
          : max(max(px(p, -stride - 2), px(p, stride + 2)), max(px(p, -stride + 2), px(p, stride - 2))) - min(min(up, down), min(left, right));
        if (<f32>3 * beside > rise) continue;
        store<f32>(p, <f32>0.5 * (max(min(n, s), min(w, e)) + min(max(n, s), max(w, e))));
        mended++;
      }
    }
  }
  return mended;
}

/** Whether any of four sites is a quarter above or below its four nearest neighbours of the same colour. */
// @ts-ignore: decorator
@inline
function standsOut(p: usize, stride: i32): bool {
  const v = v128.load(p), w = v128.load(p - 8), e = v128.load(p + 8);
  const n = v128.load(p - (<usize>stride << 3)), s = v128.load(p + (<usize>stride << 3));
  const most = f32x4.pmax(f32x4.pmax(w, e), f32x4.pmax(n, s));
  const least = f32x4.pmin(f32x4.pmin(w, e), f32x4.pmin(n, s));
  const high = f32x4.gt(v, f32x4.mul(most, f32x4.splat(1.25)));
  const low = f32x4.lt(v, f32x4.mul(least, f32x4.splat(0.75)));
  return v128.any_true(v128.or(high, low));
}

// @ts-ignore: decorator
@inline
function px(p: usize, offset: i32): f32 {
  return load<f32>(p + <usize>(offset << 2));
}

/**
 * Balanced camera colours where a channel is saturated: what it lost is taken from the channels that still measure, so
 * that a highlight stays neutral instead of taking the colour of whichever channel is left. A channel that is lighter than
 * the others as it is keeps its value. In place; n is a multiple of 4.
 * @param red, green, blue - planes; saturation of each at `redTop`, `greenTop`, `blueTop`.
 */
export function reconstructHighlights(
  red: usize, green: usize, blue: usize, n: i32, redTop: f32, greenTop: f32, blueTop: f32,
): void {
  const start: f32 = 0.9, span: f32 = 1 / 0.085;
  const one = f32x4.splat(1), zero = f32x4.splat(0), tiny = f32x4.splat(1e-3);
  const least = f32x4.splat(start * min(redTop, min(greenTop, blueTop)));
  for (let i = 0; i < n; i += 4) {
    const at = <usize>i << 2;
    const r = v128.load(red + at), g = v128.load(green + at), b = v128.load(blue + at);
    const top = f32x4.pmax(r, f32x4.pmax(g, b));
    if (!v128.any_true(f32x4.gt(top, least))) continue;
    const tr = share(r, start, span / redTop, redTop), tg = share(g, start, span / greenTop, greenTop);
    const tb = share(b, start, span / blueTop, blueTop);
    const wr = f32x4.sub(one, tr), wg = f32x4.sub(one, tg), wb = f32x4.sub(one, tb);
    const sum = f32x4.add(f32x4.add(wr, wg), f32x4.add(wb, tiny));
    const known = f32x4.add(f32x4.add(f32x4.mul(wr, r), f32x4.mul(wg, g)), f32x4.add(f32x4.mul(wb, b), f32x4.mul(tiny, top)));
    const guess = f32x4.div(known, sum);
    v128.store(red + at, f32x4.add(r, f32x4.mul(tr, f32x4.pmax(zero, f32x4.sub(guess, r)))));
    v128.store(green + at, f32x4.add(g, f32x4.mul(tg, f32x4.pmax(zero, f32x4.sub(guess, g)))));
    v128.store(blue + at, f32x4.add(b, f32x4.mul(tb, f32x4.pmax(zero, f32x4.sub(guess, b)))));
  }
}

/** How far a channel is saturated, 0–1, smoothly. */
// @ts-ignore: decorator
@inline
function share(v: v128, start: f32, slope: f32, top: f32): v128 {
  const t = f32x4.mul(f32x4.sub(v, f32x4.splat(start * top)), f32x4.splat(slope));
  const c = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), t));
  return f32x4.mul(f32x4.mul(c, c), f32x4.sub(f32x4.splat(3), f32x4.add(c, c)));
}
