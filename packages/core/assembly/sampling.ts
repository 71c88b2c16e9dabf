import { eightCubic, eightLinear } from './eight';

// Levels of a picture under a box that is carried into it.

// @ts-ignore: decorator
@inline const nan: f32 = NaN;

// @ts-ignore: decorator
@inline
function byteOf(bytes: v128, tap: i32): v128 {
  return f32x4.convert_i32x4_s(v128.and(i32x4.shr_u(bytes, tap << 3), i32x4.splat(255)));
}

// @ts-ignore: decorator
@inline
function blend(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)));
}

/** Four taps of one row for four pixels, Catmull-Rom (Keys 1981, a = -1/2). */
// @ts-ignore: decorator
@inline
function cubicRow(p0: usize, p1: usize, p2: usize, p3: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  let bytes = v128.load32_zero(p0);
  bytes = v128.load32_lane(p1, bytes, 1);
  bytes = v128.load32_lane(p2, bytes, 2);
  bytes = v128.load32_lane(p3, bytes, 3);
  const near = f32x4.add(f32x4.mul(w0, byteOf(bytes, 0)), f32x4.mul(w1, byteOf(bytes, 1)));
  const far = f32x4.add(f32x4.mul(w2, byteOf(bytes, 2)), f32x4.mul(w3, byteOf(bytes, 3)));
  return f32x4.add(near, far);
}

/** The same for four pixels side by side, whose first tap is at p. */
// @ts-ignore: decorator
@inline
function cubicRun(p: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  const bytes = v128.load8x8_u(p);
  const a = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(bytes));
  const b = f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(bytes));
  const near = f32x4.add(f32x4.mul(w0, a), f32x4.mul(w1, v128.shuffle<i32>(a, b, 1, 2, 3, 4)));
  const far = f32x4.add(
    f32x4.mul(w2, v128.shuffle<i32>(a, b, 2, 3, 4, 5)),
    f32x4.mul(w3, v128.shuffle<i32>(a, b, 3, 4, 5, 6)),
  );
  return f32x4.add(near, far);
}

/** The same for four pixels within thirteen of a row, the first tap of each at p plus its lane of `taps`. */
// @ts-ignore: decorator
@inline
function cubicSpread(p: usize, taps: v128, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  const bytes = v128.load(p);
  const near = f32x4.add(f32x4.mul(w0, picked(bytes, taps, 0)), f32x4.mul(w1, picked(bytes, taps, 1)));
  const far = f32x4.add(f32x4.mul(w2, picked(bytes, taps, 2)), f32x4.mul(w3, picked(bytes, taps, 3)));
  return f32x4.add(near, far);
}

/** A byte for each lane, `tap` after the one that its lowest byte names; the others name none. */
// @ts-ignore: decorator
@inline
function picked(bytes: v128, taps: v128, tap: i32): v128 {
  return f32x4.convert_i32x4_s(i8x16.swizzle(bytes, i32x4.add(taps, i32x4.splat(tap))));
}

// @ts-ignore: decorator
@inline const noByte: i32 = 0x80808000;
// @ts-ignore: decorator
@inline const widestSpread: i32 = 12;

/** Two taps of one row for four pixels side by side. */
// @ts-ignore: decorator
@inline
function linearRun(p: usize, t: v128): v128 {
  const bytes = v128.load8x8_u(p);
  const a = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(bytes));
  const b = f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(bytes));
  return blend(a, v128.shuffle<i32>(a, b, 1, 2, 3, 4), t);
}

/** 32.32 fixed point. */
// @ts-ignore: decorator
@inline const unit: f64 = <f64>((<i64>1) << 32);

/** Whether four pixels in a row of the box lie within sixteen of the picture's, and eight of them on two rows at most. */
// @ts-ignore: decorator
@inline
function isUpright(m0: f32, m3: f32, m6: f32, m7: f32, m8: f32, right: f32, bottom: f32): bool {
  const even = m6 == 0 && m7 == 0 && m8 == 1;
  return even && m0 > 0 && m0 < 3.9 && abs(m3) < 0.14 && right < 16384 && bottom < 16384;
}

/** Whether row `v` of the box, so many columns to either side, lies in the bounds along one direction. */
// @ts-ignore: decorator
@inline
function isInside(alongU: f32, alongV: f32, start: f32, least: f32, most: f32, half: i32, v: i32): bool {
  const middle = alongV * <f32>v + start;
  const away = abs(alongU) * <f32>half;
  return middle - away >= least && middle + away <= most;
}

/** Eight pixels of one row of an upright box, from a 16.16 position on. */
// @ts-ignore: decorator
@inline
function eight(src: usize, stride: i32, out: usize, x: i32, y: i32, stepX: i32, stepY: i32, cubic: bool): void {
  if (cubic) eightCubic(src, stride, out, x, y, stepX, stepY, true);
  else eightLinear(src, stride, out, x, y, stepX, stepY, true);
}

/**
 * Four pixels of one row of a box, `u` their columns from its centre; those beyond `lastU` are none. Returns how many
 * lie inside the bounds.
 */
// @ts-ignore: decorator
@inline
function four(
  src: usize,
  stride: i32,
  left: f32,
  top: f32,
  right: f32,
  bottom: f32,
  m0: f32,
  m3: f32,
  m6: f32,
  rowX: f32,
  rowY: f32,
  rowW: f32,
  u: v128,
  lastU: i32,
  cubic: bool,
  perspective: bool,
  out: usize,
): i32 {
  const steps = i32x4(0, 1, 2, 3);
  const lowX = f32x4.splat(left);
  const lowY = f32x4.splat(top);
  const highX = f32x4.splat(right);
  const highY = f32x4.splat(bottom);
  const half = f32x4.splat(0.5);
  const one = f32x4.splat(1);
  const none = f32x4.splat(nan);
  let x = f32x4.add(f32x4.mul(f32x4.splat(m0), u), f32x4.splat(rowX));
  let y = f32x4.add(f32x4.mul(f32x4.splat(m3), u), f32x4.splat(rowY));
  let ok = f32x4.le(u, f32x4.splat(<f32>lastU));
  if (perspective) {
    const w = f32x4.add(f32x4.mul(f32x4.splat(m6), u), f32x4.splat(rowW));
    x = f32x4.div(x, w);
    y = f32x4.div(y, w);
    ok = v128.and(ok, f32x4.gt(w, f32x4.splat(0)));
  }
  ok = v128.and(ok, v128.and(f32x4.ge(x, lowX), f32x4.le(x, highX)));
  ok = v128.and(ok, v128.and(f32x4.ge(y, lowY), f32x4.le(y, highY)));
  const lanes = i32x4.bitmask(ok);
  if (lanes == 0) {
    v128.store(out, none);
    return 0;
  }
  const inside = <i32>popcnt(lanes);
  x = f32x4.sub(v128.bitselect(x, lowX, ok), half);
  y = f32x4.sub(v128.bitselect(y, lowY, ok), half);
  const ix = i32x4.trunc_sat_f32x4_s(x);
  const iy = i32x4.trunc_sat_f32x4_s(y);
  const t = f32x4.sub(x, f32x4.convert_i32x4_s(ix));
  const s = f32x4.sub(y, f32x4.convert_i32x4_s(iy));
  const at = i32x4.add(i32x4.splat(<i32>src), i32x4.add(i32x4.mul(iy, i32x4.splat(stride)), ix));
  // Mostly the four lie side by side: then a row of them is one load.
  const first = i32x4.extract_lane(at, 0);
  const offsets = i32x4.sub(at, i32x4.splat(first));
  const run = i32x4.all_true(i32x4.eq(offsets, steps));
  let level: v128;
  if (cubic) {
    const back = stride + 1;
    const p0 = <usize>(first - back);
    const p1 = <usize>(i32x4.extract_lane(at, 1) - back);
    const p2 = <usize>(i32x4.extract_lane(at, 2) - back);
    const p3 = <usize>(i32x4.extract_lane(at, 3) - back);
    const t2 = f32x4.mul(t, t);
    const t3 = f32x4.mul(t2, t);
    const s2 = f32x4.mul(s, s);
    const s3 = f32x4.mul(s2, s);
    const threeHalves = f32x4.splat(1.5);
    const w0 = f32x4.sub(t2, f32x4.mul(half, f32x4.add(t3, t)));
    const w3 = f32x4.mul(half, f32x4.sub(t3, t2));
    const w1 = f32x4.add(f32x4.sub(f32x4.mul(threeHalves, t3), f32x4.mul(f32x4.splat(2.5), t2)), one);
    const w2 = f32x4.sub(f32x4.sub(f32x4.sub(one, w0), w1), w3);
    const z0 = f32x4.sub(s2, f32x4.mul(half, f32x4.add(s3, s)));
    const z3 = f32x4.mul(half, f32x4.sub(s3, s2));
    const z1 = f32x4.add(f32x4.sub(f32x4.mul(threeHalves, s3), f32x4.mul(f32x4.splat(2.5), s2)), one);
    const z2 = f32x4.sub(f32x4.sub(f32x4.sub(one, z0), z1), z3);
    if (run) {
      level = f32x4.mul(z0, cubicRun(p0, w0, w1, w2, w3));
      level = f32x4.add(level, f32x4.mul(z1, cubicRun(p0 + stride, w0, w1, w2, w3)));
      level = f32x4.add(level, f32x4.mul(z2, cubicRun(p0 + 2 * stride, w0, w1, w2, w3)));
      level = f32x4.add(level, f32x4.mul(z3, cubicRun(p0 + 3 * stride, w0, w1, w2, w3)));
      v128.store(out, v128.bitselect(level, none, ok));
      return inside;
    }
    if (i32x4.all_true(i32x4.le_u(offsets, i32x4.splat(widestSpread)))) {
      const taps = v128.or(offsets, i32x4.splat(noByte));
      level = f32x4.mul(z0, cubicSpread(p0, taps, w0, w1, w2, w3));
      level = f32x4.add(level, f32x4.mul(z1, cubicSpread(p0 + stride, taps, w0, w1, w2, w3)));
      level = f32x4.add(level, f32x4.mul(z2, cubicSpread(p0 + 2 * stride, taps, w0, w1, w2, w3)));
      level = f32x4.add(level, f32x4.mul(z3, cubicSpread(p0 + 3 * stride, taps, w0, w1, w2, w3)));
      v128.store(out, v128.bitselect(level, none, ok));
      return inside;
    }
    level = f32x4.mul(z0, cubicRow(p0, p1, p2, p3, w0, w1, w2, w3));
    level = f32x4.add(
      level,
      f32x4.mul(z1, cubicRow(p0 + stride, p1 + stride, p2 + stride, p3 + stride, w0, w1, w2, w3)),
    );
    const two = 2 * stride;
    level = f32x4.add(level, f32x4.mul(z2, cubicRow(p0 + two, p1 + two, p2 + two, p3 + two, w0, w1, w2, w3)));
    const three = 3 * stride;
    level = f32x4.add(
      level,
      f32x4.mul(z3, cubicRow(p0 + three, p1 + three, p2 + three, p3 + three, w0, w1, w2, w3)),
    );
  } else if (run) {
    level = blend(linearRun(<usize>first, t), linearRun(<usize>first + stride, t), s);
  } else {
    const p0 = <usize>first;
    const p1 = <usize>i32x4.extract_lane(at, 1);
    const p2 = <usize>i32x4.extract_lane(at, 2);
    const p3 = <usize>i32x4.extract_lane(at, 3);
    let upper = i32x4.splat(0);
    upper = v128.load16_lane(p0, upper, 0);
    upper = v128.load16_lane(p1, upper, 2);
    upper = v128.load16_lane(p2, upper, 4);
    upper = v128.load16_lane(p3, upper, 6);
    let lower = i32x4.splat(0);
    lower = v128.load16_lane(p0 + stride, lower, 0);
    lower = v128.load16_lane(p1 + stride, lower, 2);
    lower = v128.load16_lane(p2 + stride, lower, 4);
    lower = v128.load16_lane(p3 + stride, lower, 6);
    level = blend(
      blend(byteOf(upper, 0), byteOf(upper, 1), t),
      blend(byteOf(lower, 0), byteOf(lower, 1), t),
      s,
    );
  }
  v128.store(out, v128.bitselect(level, none, ok));
  return inside;
}

/**
 * Levels under a box of `width` x `height` (odd) pixels about its centre, carried into the picture by the
 * matrix m (to corner-origin pixels of the plane at `src`). What falls outside the bounds is not a number. The
 * bounds must keep two pixels from the plane's borders. Returns how many lie inside.
 */
export function samplePatch(
  src: usize,
  stride: i32,
  left: f32,
  top: f32,
  right: f32,
  bottom: f32,
  width: i32,
  height: i32,
  m0: f32,
  m1: f32,
  m2: f32,
  m3: f32,
  m4: f32,
  m5: f32,
  m6: f32,
  m7: f32,
  m8: f32,
  cubic: bool,
  seen: usize,
): i32 {
  const halfW = width >> 1;
  const halfH = height >> 1;
  const columns = (width + 3) & ~3;
  const ramp = f32x4(0, 1, 2, 3);
  const none = f32x4.splat(nan);
  const perspective = m6 != 0 || m7 != 0;
  const upright = width >= 8 && isUpright(m0, m3, m6, m7, m8, right, bottom);
  const stepX = <i32>Math.round(<f64>m0 * 65536.0);
  const stepY = <i32>Math.round(<f64>m3 * 65536.0);
  const pixelX: i64 = upright ? <i64>Math.round(<f64>m0 * unit) : 0;
  const pixelY: i64 = upright ? <i64>Math.round(<f64>m3 * unit) : 0;
  let inside = 0;
  let out = seen;
  for (let v = -halfH; v <= halfH; v++) {
    const rowX = m1 * <f32>v + m2;
    const rowY = m4 * <f32>v + m5;
    const rowW = m7 * <f32>v + m8;
    if (
      upright &&
      isInside(m0, m1, m2, left, right, halfW, v) &&
      isInside(m3, m4, m5, top, bottom, halfW, v)
    ) {
      const x0: i64 = <i64>Math.round((<f64>m1 * v + <f64>m2 - <f64>m0 * halfW - 0.5) * unit);
      const y0: i64 = <i64>Math.round((<f64>m4 * v + <f64>m5 - <f64>m3 * halfW - 0.5) * unit);
      v128.store(out + (<usize>(columns - 4) << 2), none);
      // The last eight reach back over some that are done: that costs less than those left over by themselves.
      for (let done = 0; done < width; done += 8) {
        const i = min(done, width - 8);
        const x = <i32>((x0 + pixelX * i) >> 16);
        const y = <i32>((y0 + pixelY * i) >> 16);
        const to = out + (<usize>i << 2);
        eight(src, stride, to, x, y, stepX, stepY, cubic);
      }
      inside += width;
      out += <usize>columns << 2;
      continue;
    }
    for (let i = 0; i < columns; i += 4, out += 16) {
      const u = f32x4.add(f32x4.splat(<f32>(i - halfW)), ramp);
      inside += four(src, stride, left, top, right, bottom, m0, m3, m6, rowX, rowY, rowW, u, halfW, cubic, perspective, out);
    }
  }
  return inside;
}

/**
 * The same for some of the box's pixels: runs of eight side by side, `count` pixels in all. `runs` holds two i32 a
 * run, its first pixel's column and its row from the centre.
 */
export function sampleRuns(
  src: usize,
  stride: i32,
  left: f32,
  top: f32,
  right: f32,
  bottom: f32,
  runs: usize,
  count: i32,
  m0: f32,
  m1: f32,
  m2: f32,
  m3: f32,
  m4: f32,
  m5: f32,
  m6: f32,
  m7: f32,
  m8: f32,
  cubic: bool,
  seen: usize,
): i32 {
  const ramp = f32x4(0, 1, 2, 3);
  const perspective = m6 != 0 || m7 != 0;
  const upright = isUpright(m0, m3, m6, m7, m8, right, bottom);
  const stepX = <i32>Math.round(<f64>m0 * 65536.0);
  const stepY = <i32>Math.round(<f64>m3 * 65536.0);
  let inside = 0;
  for (let i = 0; i < count; i += 8, runs += 8) {
    const out = seen + (<usize>i << 2);
    const u = <f32>load<i32>(runs);
    const v = <f32>load<i32>(runs, 4);
    const rowX = m1 * v + m2;
    const rowY = m4 * v + m5;
    const x = m0 * u + rowX;
    const y = m3 * u + rowY;
    const endX = x + 7 * m0;
    const endY = y + 7 * m3;
    if (upright && x >= left && endX <= right && min(y, endY) >= top && max(y, endY) <= bottom) {
      const x16 = <i32>Math.round(<f64>(x - 0.5) * 65536.0);
      const y16 = <i32>Math.round(<f64>(y - 0.5) * 65536.0);
      eight(src, stride, out, x16, y16, stepX, stepY, cubic);
      inside += 8;
      continue;
    }
    const rowW = m7 * v + m8;
    for (let k = 0; k < 8; k += 4) {
      const us = f32x4.add(f32x4.splat(u + <f32>k), ramp);
      const to = out + (<usize>k << 2);
      inside += four(src, stride, left, top, right, bottom, m0, m3, m6, rowX, rowY, rowW, us, i32.MAX_VALUE, cubic, perspective, to);
    }
  }
  return inside;
}
