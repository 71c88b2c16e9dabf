// Eight pixels side by side of a turned, grown or moved picture, in fixed point.

/** The fractions of eight 16.16 positions, with so many of their low bits dropped. */
// @ts-ignore: decorator
@inline
export function fractionsOf(low: v128, high: v128, drop: i32): v128 {
  const fraction = i32x4.splat(0xffff);
  return i16x8.narrow_i32x4_s(
    i32x4.shr_u(v128.and(low, fraction), drop),
    i32x4.shr_u(v128.and(high, fraction), drop),
  );
}

/** Which of the eight lie in a later row than `top`. */
// @ts-ignore: decorator
@inline
function below(low: v128, high: v128, top: i32): v128 {
  const row = i32x4.splat(top);
  return i16x8.narrow_i32x4_s(
    i32x4.gt_s(i32x4.shr_s(low, 16), row),
    i32x4.gt_s(i32x4.shr_s(high, 16), row),
  );
}

// Catmull-Rom weights (Keys 1981, a = -1/2) of the tap before a position and the two after it, in 2.14, from halves of
// the fraction's first three powers: 1.15 numbers read as 2.14. What is left of one is the tap's just before it.

// @ts-ignore: decorator
@inline
function weightBefore(h1: v128, h2: v128, h3: v128): v128 {
  return i16x8.sub(h2, i16x8.shr_s(i16x8.add(h3, h1), 1));
}

// @ts-ignore: decorator
@inline
function weightAfter(h1: v128, h2: v128, h3: v128): v128 {
  return i16x8.add(i16x8.shl(h2, 1), i16x8.shr_s(i16x8.sub(h1, i16x8.add(i16x8.add(h3, h3), h3)), 1));
}

// @ts-ignore: decorator
@inline
function weightLast(h2: v128, h3: v128): v128 {
  return i16x8.shr_s(i16x8.sub(h3, h2), 1);
}

/** Sums of two neighbouring taps for four pixels, 2.14 fixed point. */
// @ts-ignore: decorator
@inline
function pairSums(bytes: v128, at: v128, weights: v128): v128 {
  return i32x4.dot_i16x8_s(i8x16.swizzle(bytes, at), weights);
}

/** One source row resampled for eight pixels by four taps, the last four `far` bytes on; 10.6 fixed point. */
// @ts-ignore: decorator
@inline
function cubicRow(at: usize, far: usize, a: v128, b: v128, c: v128, d: v128, wa: v128, wb: v128, wc: v128, wd: v128): v128 {
  const near = v128.load(at);
  const next = v128.load(at + far);
  const half = i32x4.splat(128);
  const low = i32x4.add(i32x4.add(pairSums(near, a, wa), pairSums(near, b, wb)), half);
  const high = i32x4.add(i32x4.add(pairSums(next, c, wc), pairSums(next, d, wd)), half);
  return i16x8.narrow_i32x4_s(i32x4.shr_s(low, 8), i32x4.shr_s(high, 8));
}

/** The same by two taps. */
// @ts-ignore: decorator
@inline
function linearRow(at: usize, far: usize, a: v128, c: v128, wa: v128, wc: v128): v128 {
  const half = i32x4.splat(128);
  const low = i32x4.add(pairSums(v128.load(at), a, wa), half);
  const high = i32x4.add(pairSums(v128.load(at + far), c, wc), half);
  return i16x8.narrow_i32x4_s(i32x4.shr_s(low, 8), i32x4.shr_s(high, 8));
}

// @ts-ignore: decorator
@inline
function interleaveLow(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11);
}

// @ts-ignore: decorator
@inline
function interleaveHigh(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15);
}

/** Two rows times their weights, for the low and high four pixels: added to the sums so far. */
// @ts-ignore: decorator
@inline
function addLow(sum: v128, r: v128, s: v128, wr: v128, ws: v128): v128 {
  return i32x4.add(sum, i32x4.dot_i16x8_s(interleaveLow(r, s), interleaveLow(wr, ws)));
}

// @ts-ignore: decorator
@inline
function addHigh(sum: v128, r: v128, s: v128, wr: v128, ws: v128): v128 {
  return i32x4.add(sum, i32x4.dot_i16x8_s(interleaveHigh(r, s), interleaveHigh(wr, ws)));
}

/** Eight levels in 10.20 fixed point, a half added: stored as floats or rounded to bytes. */
// @ts-ignore: decorator
@inline
function storeEight(dst: usize, low: v128, high: v128, floats: bool): void {
  if (floats) {
    const half = i32x4.splat(1 << 19);
    const unit = f32x4.splat(1.0 / 1048576.0);
    v128.store(dst, f32x4.mul(f32x4.convert_i32x4_s(i32x4.sub(low, half)), unit));
    v128.store(dst, f32x4.mul(f32x4.convert_i32x4_s(i32x4.sub(high, half)), unit), 16);
    return;
  }
  const words = i16x8.narrow_i32x4_s(i32x4.shr_s(low, 20), i32x4.shr_s(high, 20));
  v128.store64_lane(dst, i8x16.narrow_i16x8_u(words, words), 0);
}

/**
 * Eight pixels in a row of the result, as bytes or as floats. Positions are 16.16; `u` and `v` point at the pixel
 * index (corner origin less a half). Four of them lie within twelve pixels, all eight on two rows at most.
 */
// @ts-ignore: decorator
@inline
export function eightCubic(src: usize, stride: i32, dst: usize, u: i32, v: i32, du: i32, dv: i32, floats: bool): void {
  const lanes = i32x4(0, 1, 2, 3);
  const uLow = i32x4.add(i32x4.splat(u), i32x4.mul(i32x4.splat(du), lanes));
  const vLow = i32x4.add(i32x4.splat(v), i32x4.mul(i32x4.splat(dv), lanes));
  const uHigh = i32x4.add(uLow, i32x4.splat(du << 2));
  const vHigh = i32x4.add(vLow, i32x4.splat(dv << 2));
  eightCubicAt(src, stride, dst, uLow, uHigh, vLow, vHigh, floats);
}

/** The same at positions given one by one, which rise along u. */
// @ts-ignore: decorator
@inline
export function eightCubicAt(
  src: usize, stride: i32, dst: usize, uLow: v128, uHigh: v128, vLow: v128, vHigh: v128, floats: bool,
): void {
  const one = i16x8.splat(16384);
  const none = i16x8.splat(0);
  const v = i32x4.extract_lane(vLow, 0);
  const last = i32x4.extract_lane(vHigh, 3);

  const base = i32x4.extract_lane(uLow, 0) >> 16;
  const middle = i32x4.extract_lane(uHigh, 0) >> 16;
  const far = <usize>(middle - base);
  const spread = i32x4.splat(0x00010001);
  const first = i32x4.splat(<i32>0x80018000);
  const second = i32x4.splat(<i32>0x80038002);
  const iLow = i32x4.mul(i32x4.sub(i32x4.shr_s(uLow, 16), i32x4.splat(base)), spread);
  const iHigh = i32x4.mul(i32x4.sub(i32x4.shr_s(uHigh, 16), i32x4.splat(middle)), spread);
  const a = i32x4.add(iLow, first);
  const b = i32x4.add(iLow, second);
  const c = i32x4.add(iHigh, first);
  const d = i32x4.add(iHigh, second);

  const t = fractionsOf(uLow, uHigh, 1);
  const t2 = i16x8.q15mulr_sat_s(t, t);
  const t3 = i16x8.q15mulr_sat_s(t2, t);
  // In 2.14: the halves of the 1.15 numbers, rounded rather than cut.
  const h1 = i16x8.avgr_u(t, none);
  const h2 = i16x8.avgr_u(t2, none);
  const h3 = i16x8.avgr_u(t3, none);
  const w0 = weightBefore(h1, h2, h3);
  const w2 = weightAfter(h1, h2, h3);
  const w3 = weightLast(h2, h3);
  const w1 = i16x8.sub(i16x8.sub(i16x8.sub(one, w0), w2), w3);
  const wa = interleaveLow(w0, w1);
  const wb = interleaveLow(w2, w3);
  const wc = interleaveHigh(w0, w1);
  const wd = interleaveHigh(w2, w3);

  const top = min(v, last) >> 16;
  const at = src + (top - 1) * stride + (base - 1);
  const r0 = cubicRow(at, far, a, b, c, d, wa, wb, wc, wd);
  const r1 = cubicRow(at + stride, far, a, b, c, d, wa, wb, wc, wd);
  const r2 = cubicRow(at + 2 * stride, far, a, b, c, d, wa, wb, wc, wd);
  const r3 = cubicRow(at + 3 * stride, far, a, b, c, d, wa, wb, wc, wd);

  const s = fractionsOf(vLow, vHigh, 1);
  const s2 = i16x8.q15mulr_sat_s(s, s);
  const s3 = i16x8.q15mulr_sat_s(s2, s);
  const g1 = i16x8.avgr_u(s, none);
  const g2 = i16x8.avgr_u(s2, none);
  const g3 = i16x8.avgr_u(s3, none);
  let v0 = weightBefore(g1, g2, g3);
  let v2 = weightAfter(g1, g2, g3);
  let v3 = weightLast(g2, g3);
  let v1 = i16x8.sub(i16x8.sub(i16x8.sub(one, v0), v2), v3);

  const half = i32x4.splat(1 << 19);
  let low = half;
  let high = half;
  if (v >> 16 != last >> 16) {
    // Some of the eight lie in the next row: they take each weight one row further down.
    const down = below(vLow, vHigh, top);
    const r4 = cubicRow(at + 4 * stride, far, a, b, c, d, wa, wb, wc, wd);
    const v4 = v128.and(v3, down);
    v3 = v128.bitselect(v2, v3, down);
    v2 = v128.bitselect(v1, v2, down);
    v1 = v128.bitselect(v0, v1, down);
    v0 = v128.andnot(v0, down);
    low = addLow(low, r4, none, v4, none);
    high = addHigh(high, r4, none, v4, none);
  }
  low = addLow(addLow(low, r0, r1, v0, v1), r2, r3, v2, v3);
  high = addHigh(addHigh(high, r0, r1, v0, v1), r2, r3, v2, v3);
  storeEight(dst, low, high, floats);
}

/** The same by two taps each way. */
// @ts-ignore: decorator
@inline
export function eightLinear(src: usize, stride: i32, dst: usize, u: i32, v: i32, du: i32, dv: i32, floats: bool): void {
  const lanes = i32x4(0, 1, 2, 3);
  const uLow = i32x4.add(i32x4.splat(u), i32x4.mul(i32x4.splat(du), lanes));
  const vLow = i32x4.add(i32x4.splat(v), i32x4.mul(i32x4.splat(dv), lanes));
  const uHigh = i32x4.add(uLow, i32x4.splat(du << 2));
  const vHigh = i32x4.add(vLow, i32x4.splat(dv << 2));
  eightLinearAt(src, stride, dst, uLow, uHigh, vLow, vHigh, floats);
}

/** The same at positions given one by one, which rise along u. */
// @ts-ignore: decorator
@inline
export function eightLinearAt(
  src: usize, stride: i32, dst: usize, uLow: v128, uHigh: v128, vLow: v128, vHigh: v128, floats: bool,
): void {
  const one = i16x8.splat(16384);
  const v = i32x4.extract_lane(vLow, 0);
  const last = i32x4.extract_lane(vHigh, 3);

  const base = i32x4.extract_lane(uLow, 0) >> 16;
  const middle = i32x4.extract_lane(uHigh, 0) >> 16;
  const far = <usize>(middle - base);
  const spread = i32x4.splat(0x00010001);
  const first = i32x4.splat(<i32>0x80018000);
  const a = i32x4.add(i32x4.mul(i32x4.sub(i32x4.shr_s(uLow, 16), i32x4.splat(base)), spread), first);
  const c = i32x4.add(i32x4.mul(i32x4.sub(i32x4.shr_s(uHigh, 16), i32x4.splat(middle)), spread), first);
  const t = fractionsOf(uLow, uHigh, 2);
  const rest = i16x8.sub(one, t);
  const wa = interleaveLow(rest, t);
  const wc = interleaveHigh(rest, t);

  const top = min(v, last) >> 16;
  const at = src + top * stride + base;
  const r0 = linearRow(at, far, a, c, wa, wc);
  const r1 = linearRow(at + stride, far, a, c, wa, wc);
  let v1 = fractionsOf(vLow, vHigh, 2);
  let v0 = i16x8.sub(one, v1);
  const half = i32x4.splat(1 << 19);
  let low = half;
  let high = half;
  if (v >> 16 != last >> 16) {
    const down = below(vLow, vHigh, top);
    const r2 = linearRow(at + 2 * stride, far, a, c, wa, wc);
    const none = i16x8.splat(0);
    const v2 = v128.and(v1, down);
    v1 = v128.bitselect(v0, v1, down);
    v0 = v128.andnot(v0, down);
    low = addLow(low, r2, none, v2, none);
    high = addHigh(high, r2, none, v2, none);
  }
  storeEight(dst, addLow(low, r0, r1, v0, v1), addHigh(high, r0, r1, v0, v1), floats);
}
