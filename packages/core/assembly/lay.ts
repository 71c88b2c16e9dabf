import { levelPlace, loadLevel, storeLevel } from './levels';

// Lays a picture over a row of a plane: the picture is bytes of red, green, blue and alpha, multiplied by alpha, and is taken
// between its pixels wherever a perspective puts them.

// @ts-ignore: decorator
@inline const redWeight: f32 = 0.2126;
// @ts-ignore: decorator
@inline const greenWeight: f32 = 0.7152;
// @ts-ignore: decorator
@inline const blueWeight: f32 = 0.0722;

/** Four bytes as four floats. */
// @ts-ignore: decorator
@inline
function four(at: usize): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at))));
}

/** The colour at pixel indices (u, v), each kept within the picture: the outermost pixels go on. */
// @ts-ignore: decorator
@inline
function colourAt(picture: usize, width: i32, height: i32, u: f64, v: f64): v128 {
  u = min(max(u, 0.0), <f64>(width - 1));
  v = min(max(v, 0.0), <f64>(height - 1));
  const i = <i32>u;
  const j = <i32>v;
  const s = <f32>(u - <f64>i);
  const t = <f32>(v - <f64>j);
  const at = picture + 4 * <usize>(j * width + i);
  const right: usize = i < width - 1 ? 4 : 0;
  const down: usize = j < height - 1 ? 4 * <usize>width : 0;
  const d = s * t;
  let sum = f32x4.mul(four(at), f32x4.splat(1 - s - t + d));
  sum = f32x4.add(sum, f32x4.mul(four(at + right), f32x4.splat(s - d)));
  sum = f32x4.add(sum, f32x4.mul(four(at + down), f32x4.splat(t - d)));
  return f32x4.add(sum, f32x4.mul(four(at + right + down), f32x4.splat(d)));
}

// @ts-ignore: decorator
@inline
function lumaOf(colour: v128): f32 {
  const weighed = f32x4.mul(colour, f32x4(redWeight, greenWeight, blueWeight, 0));
  return f32x4.extract_lane(weighed, 0) + f32x4.extract_lane(weighed, 1) + f32x4.extract_lane(weighed, 2);
}

// @ts-ignore: decorator
@inline
function put(at: usize, level: f32, most: f32, deep: bool): void {
  storeLevel(at, <i32>(min(max(level, 0), most) + 0.5), deep);
}

/** Fixed-point places, 24.8, of four pixel indices that are two pairs of homogeneous ones, kept from 0 to `most`. */
// @ts-ignore: decorator
@inline
function fourPlaces(x: v128, xNext: v128, over: v128, overNext: v128, most: v128): v128 {
  const none = f64x2.splat(0.0);
  const unit = f64x2.splat(256.0);
  const low = f64x2.mul(f64x2.pmin(most, f64x2.pmax(none, f64x2.mul(x, over))), unit);
  const high = f64x2.mul(f64x2.pmin(most, f64x2.pmax(none, f64x2.mul(xNext, overNext))), unit);
  return v128.shuffle<i32>(
    i32x4.trunc_sat_f64x2_s_zero(low), i32x4.trunc_sat_f64x2_s_zero(high), 0, 1, 4, 5,
  );
}

/** Two neighbours of a row at `at`, mixed by a fraction of 256: 8.8 fixed point, four channels. */
// @ts-ignore: decorator
@inline
function across(at: usize, weights: v128): v128 {
  const bytes = v128.load64_zero(at);
  const none = i32x4.splat(0);
  // Each channel of both, side by side, as words.
  const pairs = i8x16.shuffle(bytes, none, 0, 16, 4, 16, 1, 16, 5, 16, 2, 16, 6, 16, 3, 16, 7, 16);
  return i32x4.dot_i16x8_s(pairs, weights);
}

/** The colour at a place, times 65536. */
// @ts-ignore: decorator
@inline
function fixedColour(picture: usize, width: i32, height: i32, u: i32, v: i32): v128 {
  const j = v >> 8;
  const s = u & 255;
  const t = <f32>(v & 255);
  const at = picture + 4 * <usize>(j * width + (u >> 8));
  const weights = i32x4.splat((256 - s) | (s << 16));
  const upper = f32x4.convert_i32x4_s(across(at, weights));
  const lower = f32x4.convert_i32x4_s(across(at + (j < height - 1 ? 4 * <usize>width : 0), weights));
  return f32x4.add(f32x4.mul(upper, f32x4.splat(256 - t)), f32x4.mul(lower, f32x4.splat(t)));
}

/** Four levels by a change of each, by bytes. */
// @ts-ignore: decorator
@inline
function putFour(at: usize, levels: v128): void {
  const rounded = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.pmax(f32x4.splat(0), levels), f32x4.splat(0.5)));
  const words = i16x8.narrow_i32x4_s(rounded, rounded);
  v128.store32_lane(at, i8x16.narrow_i16x8_u(words, words), 0);
}

/**
 * Lays `count` places of a row over luma from `dst` on, each by its share in `alpha`. Places are homogeneous pixel indices of the
 * picture: (x0, y0, w0) at the first, (dx, dy, dw) from one to the next. Black is `black`, white `span` above it.
 */
export function layLuma(
  dst: usize, alpha: usize, count: i32, picture: usize, width: i32, height: i32,
  x0: f64, dx: f64, y0: f64, dy: f64, w0: f64, dw: f64, black: f32, span: f32, most: f32, deep: bool,
): void {
  layRow(
    dst, 0, alpha, count, picture, width, height, x0, dx, y0, dy, w0, dw, black, span, 0, most, deep, false,
  );
}

/** The same over both planes of chroma, whose middle is `middle`; differences from luma are scaled by `blue` and `red`. */
export function layChroma(
  dstU: usize, dstV: usize, alpha: usize, count: i32, picture: usize, width: i32, height: i32,
  x0: f64, dx: f64, y0: f64, dy: f64, w0: f64, dw: f64, middle: f32, blue: f32, red: f32, most: f32, deep: bool,
): void {
  layRow(
    dstU, dstV, alpha, count, picture, width, height, x0, dx, y0, dy, w0, dw, middle, blue, red, most, deep, true,
  );
}

// @ts-ignore: decorator
@inline
function layRow(
  dst: usize, other: usize, alpha: usize, count: i32, picture: usize, width: i32, height: i32,
  x0: f64, dx: f64, y0: f64, dy: f64, w0: f64, dw: f64, base: f32, scale: f32, otherScale: f32, most: f32,
  deep: bool, isChroma: bool,
): void {
  const unit: f32 = 1.0 / 255.0;
  let n = 0;
  if (!deep) {
    const one = f64x2.splat(1.0);
    const none = f32x4.splat(0);
    const mostU = f64x2.splat(<f64>(width - 1));
    const mostV = f64x2.splat(<f64>(height - 1));
    const bases = f32x4.splat(base);
    const fixed: f32 = unit / 65536.0;
    for (; n + 4 <= count; n += 4) {
      const share = v128.load(alpha + 4 * <usize>n);
      if (!v128.any_true(share)) continue;
      const first = f64x2(<f64>n, <f64>n + 1.0);
      const second = f64x2(<f64>n + 2.0, <f64>n + 3.0);
      const over = f64x2.div(one, f64x2.add(f64x2.splat(w0), f64x2.mul(f64x2.splat(dw), first)));
      const overNext = f64x2.div(one, f64x2.add(f64x2.splat(w0), f64x2.mul(f64x2.splat(dw), second)));
      const u = fourPlaces(
        f64x2.add(f64x2.splat(x0), f64x2.mul(f64x2.splat(dx), first)),
        f64x2.add(f64x2.splat(x0), f64x2.mul(f64x2.splat(dx), second)), over, overNext, mostU,
      );
      const v = fourPlaces(
        f64x2.add(f64x2.splat(y0), f64x2.mul(f64x2.splat(dy), first)),
        f64x2.add(f64x2.splat(y0), f64x2.mul(f64x2.splat(dy), second)), over, overNext, mostV,
      );
      const a = fixedColour(picture, width, height, i32x4.extract_lane(u, 0), i32x4.extract_lane(v, 0));
      const b = fixedColour(picture, width, height, i32x4.extract_lane(u, 1), i32x4.extract_lane(v, 1));
      const c = fixedColour(picture, width, height, i32x4.extract_lane(u, 2), i32x4.extract_lane(v, 2));
      const d = fixedColour(picture, width, height, i32x4.extract_lane(u, 3), i32x4.extract_lane(v, 3));
      // From four colours to four reds, greens, blues and alphas.
      const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
      const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
      const abNext = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
      const cdNext = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
      const reds = v128.shuffle<f64>(ab, cd, 0, 2);
      const greens = v128.shuffle<f64>(ab, cd, 1, 3);
      const blues = v128.shuffle<f64>(abNext, cdNext, 0, 2);
      const alphas = v128.shuffle<f64>(abNext, cdNext, 1, 3);
      const luma = f32x4.add(
        f32x4.add(f32x4.mul(reds, f32x4.splat(redWeight)), f32x4.mul(greens, f32x4.splat(greenWeight))),
        f32x4.mul(blues, f32x4.splat(blueWeight)),
      );
      const by = f32x4.mul(share, f32x4.splat(fixed));
      const levels = four(dst + <usize>n);
      const laid = isChroma
        ? f32x4.mul(f32x4.sub(blues, luma), f32x4.splat(scale))
        : f32x4.mul(luma, f32x4.splat(scale));
      const change = f32x4.mul(by, f32x4.add(f32x4.mul(alphas, f32x4.sub(bases, levels)), laid));
      // Where nothing is laid nothing changes: a level and a naught are that level.
      putFour(dst + <usize>n, f32x4.add(levels, v128.bitselect(change, none, f32x4.gt(share, none))));
      if (isChroma) {
        const others = four(other + <usize>n);
        const red = f32x4.mul(f32x4.sub(reds, luma), f32x4.splat(otherScale));
        const next = f32x4.mul(by, f32x4.add(f32x4.mul(alphas, f32x4.sub(bases, others)), red));
        putFour(other + <usize>n, f32x4.add(others, v128.bitselect(next, none, f32x4.gt(share, none))));
      }
    }
  }
  for (; n < count; n++) {
    const share = load<f32>(alpha + 4 * <usize>n) * unit;
    if (share == 0) continue;
    const w = 1.0 / (w0 + <f64>n * dw);
    const colour = colourAt(picture, width, height, (x0 + <f64>n * dx) * w, (y0 + <f64>n * dy) * w);
    const a = f32x4.extract_lane(colour, 3);
    if (a == 0) continue;
    const t = lumaOf(colour);
    const at = levelPlace(dst, n, deep);
    const level = <f32>loadLevel(at, deep);
    const laid = isChroma ? f32x4.extract_lane(colour, 2) - t : t;
    put(at, level + share * (a * (base - level) + scale * laid), most, deep);
    if (!isChroma) continue;
    const atOther = levelPlace(other, n, deep);
    const second = <f32>loadLevel(atOther, deep);
    put(atOther, second + share * (a * (base - second) + otherScale * (f32x4.extract_lane(colour, 0) - t)), most, deep);
  }
}
