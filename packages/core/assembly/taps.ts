import { clampIndex, levelPlace, lies, loadLevel, storeLevel } from './levels';

// Resampling pixel by pixel with other taps than two or four: the nearest pixel, and six by six by a windowed sinc. And what
// goes with outputs of their own size: means of squares, and which pixels a frame reaches.

/** Six weights and two naughts for each fraction of a pixel (Lanczos-3), single floats; each set sums to one. */
// @ts-ignore: decorator
@inline const fractions: i32 = 256;
const table: usize = memory.data(32 * 257, 16);
let isTabled = false;

function sinc(x: f64): f64 {
  return x == 0.0 ? 1.0 : Math.sin(Math.PI * x) / (Math.PI * x);
}

function makeTable(): void {
  for (let i = 0; i <= fractions; i++) {
    const t = <f64>i / <f64>fractions;
    let sum: f64 = 0.0;
    for (let j = -2; j <= 3; j++) sum += sinc(t - <f64>j) * sinc((t - <f64>j) / 3.0);
    for (let j = -2; j <= 5; j++) {
      const weight = j > 3 ? 0.0 : (sinc(t - <f64>j) * sinc((t - <f64>j) / 3.0)) / sum;
      store<f32>(table + 32 * <usize>i + 4 * <usize>(j + 2), <f32>weight);
    }
  }
  isTabled = true;
}

// @ts-ignore: decorator
@inline
function level(row: usize, i: i32, width: i32, deep: bool): f32 {
  const x = clampIndex(i, width);
  return <f32>loadLevel(levelPlace(row, x, deep), deep);
}

/** Six levels of a row from column `x`, the border's repeated, weighed by eight weights. */
// @ts-ignore: decorator
@inline
function weighedRow(row: usize, x: i32, width: i32, low: v128, high: v128, deep: bool): f32 {
  let first: v128, second: v128;
  if (x >= 0 && x + 8 <= width) {
    const words = deep
      ? v128.load(row + 2 * <usize>x)
      : i16x8.extend_low_i8x16_u(v128.load64_zero(row + <usize>x));
    first = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(words));
    second = f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(words));
  } else {
    first = f32x4(level(row, x, width, deep), level(row, x + 1, width, deep), level(row, x + 2, width, deep), level(row, x + 3, width, deep));
    second = f32x4(level(row, x + 4, width, deep), level(row, x + 5, width, deep), 0, 0);
  }
  const sums = f32x4.add(f32x4.mul(first, low), f32x4.mul(second, high));
  return f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3);
}

// @ts-ignore: decorator
@inline
function between(a: v128, b: v128, share: v128): v128 {
  return f32x4.add(a, f32x4.mul(share, f32x4.sub(b, a)));
}

/** The level at corner-origin (u, v) by six by six taps. */
function lanczos(src: usize, width: i32, height: i32, stride: i32, u: f64, v: f64, deep: bool): f32 {
  const ix = <i32>Math.floor(u - 0.5);
  const iy = <i32>Math.floor(v - 0.5);
  const s = (u - 0.5 - <f64>ix) * <f64>fractions;
  const t = (v - 0.5 - <f64>iy) * <f64>fractions;
  const across = table + 32 * <usize>s;
  const down = table + 32 * <usize>t;
  // Between the table's entries weights are straight.
  const part = f32x4.splat(<f32>(s - Math.floor(s)));
  const low = between(v128.load(across), v128.load(across + 32), part);
  const high = between(v128.load(across + 16), v128.load(across + 48), part);
  const rest = <f32>(t - Math.floor(t));
  let sum: f32 = 0;
  for (let j = 0; j < 6; j++) {
    const at = down + 4 * <usize>j;
    const weight = load<f32>(at) + rest * (load<f32>(at + 32) - load<f32>(at));
    const row = src + <usize>(clampIndex(iy - 2 + j, height) * stride);
    sum += weight * weighedRow(row, ix - 2, width, low, high, deep);
  }
  return sum;
}

/** `warpPlane` with the nearest pixel, or by Lanczos. A `fill` below 0 leaves what lies outside as it is. */
export function warpTaps(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, isNearest: bool, fill: i32, most: i32, deep: bool,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  if (!isTabled) makeTable();
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + <usize>(y * dstStride);
    const cy = <f64>y + 0.5;
    for (let x = 0; x < dstWidth; x++) {
      const cx = <f64>x + 0.5;
      const w = m6 * cx + m7 * cy + m8;
      const u = (m0 * cx + m1 * cy + m2) / w;
      const v = (m3 * cx + m4 * cy + m5) / w;
      let value = fill;
      if (lies(w, u, v, left, top, right, bottom)) {
        if (isNearest) {
          const from = src + <usize>(clampIndex(<i32>Math.floor(v), height) * stride);
          value = <i32>level(from, <i32>Math.floor(u), width, deep);
        } else {
          value = <i32>(min(max(lanczos(src, width, height, stride, u, v, deep) + 0.5, 0), <f32>most));
        }
      } else if (fill < 0) continue;
      storeLevel(levelPlace(row, x, deep), value, deep);
    }
  }
}

/** Each pixel the mean of a square of `times` by `times`, rounded. */
export function shrinkPlane(
  src: usize, stride: i32, dst: usize, width: i32, height: i32, dstStride: i32, times: i32, deep: bool,
): void {
  const count = times * times;
  const half = count >> 1;
  for (let y = 0; y < height; y++) {
    const from = src + <usize>(y * times * stride);
    const row = dst + <usize>(y * dstStride);
    for (let x = 0; x < width; x++) {
      let sum = half;
      for (let j = 0; j < times; j++) {
        let at = from + <usize>(j * stride) + <usize>(x * times * (deep ? 2 : 1));
        for (let i = 0; i < times; i++) {
          sum += loadLevel(at, deep);
          at += deep ? 2 : 1;
        }
      }
      storeLevel(levelPlace(row, x, deep), sum / count, deep);
    }
  }
}

/** Marks with `most` the pixels whose centre lies in the frame, by the matrix as in `warpPlane`, and with 0 those beyond. */
export function coverPlane(
  dst: usize, width: i32, stride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, most: i32, deep: bool,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + <usize>(y * stride);
    const cy = <f64>y + 0.5;
    for (let x = 0; x < width; x++) {
      const cx = <f64>x + 0.5;
      const w = m6 * cx + m7 * cy + m8;
      const u = (m0 * cx + m1 * cy + m2) / w;
      const v = (m3 * cx + m4 * cy + m5) / w;
      const value = lies(w, u, v, left, top, right, bottom) ? most : 0;
      storeLevel(levelPlace(row, x, deep), value, deep);
    }
  }
}

/**
 * Lets what was drawn over a plane fade into what lay below: at the drawn frame's edges, by the matrix as in `warpPlane`, it
 * counts nothing, `feather` source pixels within them all. What lies outside is that which lay below.
 */
export function seamPlane(
  below: usize, drawn: usize, width: i32, stride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, feather: f64, deep: bool,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  for (let y = rowFrom; y < rowTo; y++) {
    const row = <usize>(y * stride);
    const cy = <f64>y + 0.5;
    for (let x = 0; x < width; x++) {
      const cx = <f64>x + 0.5;
      const w = m6 * cx + m7 * cy + m8;
      const u = (m0 * cx + m1 * cy + m2) / w;
      const v = (m3 * cx + m4 * cy + m5) / w;
      const within = w > 0.0 ? min(min(u - left, right - u), min(v - top, bottom - v)) : -1.0;
      if (within >= feather) continue;
      const share = <f32>(max(within, 0.0) / feather);
      const at = levelPlace(row, x, deep);
      const a = <f32>loadLevel(below + at, deep);
      storeLevel(drawn + at, <i32>(a + share * (<f32>loadLevel(drawn + at, deep) - a) + 0.5), deep);
    }
  }
}

/** Scales the levels above `black` of the pixels whose centre lies in the frame, by the matrix as in `warpPlane`. */
export function scalePlane(
  dst: usize, width: i32, stride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, gain: f32, black: i32, most: i32, deep: bool,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + <usize>(y * stride);
    const cy = <f64>y + 0.5;
    for (let x = 0; x < width; x++) {
      const cx = <f64>x + 0.5;
      const w = m6 * cx + m7 * cy + m8;
      const u = (m0 * cx + m1 * cy + m2) / w;
      const v = (m3 * cx + m4 * cy + m5) / w;
      if (!lies(w, u, v, left, top, right, bottom)) continue;
      const at = levelPlace(row, x, deep);
      const level = <f32>(loadLevel(at, deep) - black);
      storeLevel(at, <i32>min(max(level * gain + <f32>black + 0.5, 0), <f32>most), deep);
    }
  }
}
