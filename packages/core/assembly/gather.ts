import { fractionsOf } from './eight';

// Pixels of a warped plane one by one, wherever they come from: their taps are gathered row by row and weighed in
// fixed point. Turns and perspective take this way, where eight pixels side by side do not lie on two rows.

/** Cubic weights are tabled for so many fractions of a pixel: what that rounds is an eight-thousandth of a pixel. */
// @ts-ignore: decorator
@inline const fractions: i32 = 4096;
// @ts-ignore: decorator
@inline const dropped: i32 = 4;
/** Four weights each in 2.14 (Keys 1981, a = -1/2). Made when first needed; every thread makes the same. */
const table: usize = memory.data(8 * 4096, 16);
let isTabled = false;

function makeTable(): void {
  for (let i = 0; i < fractions; i++) {
    const t = <f64>i / <f64>fractions;
    const w0 = <i32>nearest(16384.0 * (((2.0 - t) * t - 1.0) * t * 0.5));
    const w2 = <i32>nearest(16384.0 * (((4.0 - 3.0 * t) * t + 1.0) * t * 0.5));
    const w3 = <i32>nearest(16384.0 * ((t - 1.0) * t * t * 0.5));
    const at = table + 8 * <usize>i;
    store<i16>(at, <i16>w0);
    store<i16>(at, <i16>(16384 - w0 - w2 - w3), 2);
    store<i16>(at, <i16>w2, 4);
    store<i16>(at, <i16>w3, 6);
  }
  isTabled = true;
}

/** Before a plane is gathered. */
export function prepareGather(): void {
  if (!isTabled) makeTable();
}

/** Weights at a 16.16 position, twice over. */
// @ts-ignore: decorator
@inline
function weightsAt(position: i32): v128 {
  return v128.load64_splat(table + 8 * <usize>((position & 0xffff) >> dropped));
}

/** Pairs of four rows' products, summed to a row each. */
// @ts-ignore: decorator
@inline
function rowSums(first: v128, second: v128): v128 {
  return i32x4.add(v128.shuffle<i32>(first, second, 0, 2, 4, 6), v128.shuffle<i32>(first, second, 1, 3, 5, 7));
}

/** Four rows' sums by their weights; `shift` bits are dropped from the rows so that they fit sixteen bits. */
// @ts-ignore: decorator
@inline
function columnSum(rows: v128, weights: v128, shift: i32): i32 {
  const half = 1 << (shift - 1);
  const narrowed = i32x4.shr_s(i32x4.add(rows, i32x4.splat(half)), shift);
  const words = i16x8.narrow_i32x4_s(narrowed, narrowed);
  const pairs = i32x4.dot_i16x8_s(words, weights);
  const left = 28 - shift;
  return (i32x4.extract_lane(pairs, 0) + i32x4.extract_lane(pairs, 1) + (1 << (left - 1))) >> left;
}

/** The level at a 16.16 position, pixel index (corner origin less a half), by 4 × 4 taps that all lie in the plane. */
// @ts-ignore: decorator
@inline
export function cubicByte(src: usize, stride: i32, u: i32, v: i32): i32 {
  const at = src + ((v >> 16) - 1) * stride + (u >> 16) - 1;
  let bytes = v128.load32_zero(at);
  bytes = v128.load32_lane(at + stride, bytes, 1);
  bytes = v128.load32_lane(at + 2 * stride, bytes, 2);
  bytes = v128.load32_lane(at + 3 * stride, bytes, 3);
  const along = weightsAt(u);
  const rows = rowSums(
    i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(bytes), along),
    i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(bytes), along),
  );
  return min(max(columnSum(rows, weightsAt(v), 8), 0), 255);
}

/** The same for levels of sixteen bits, no more than `shift` of which are used; `most` is the brightest. */
// @ts-ignore: decorator
@inline
export function cubicWord(src: usize, stride: i32, u: i32, v: i32, shift: i32, most: i32): i32 {
  const at = src + ((v >> 16) - 1) * stride + 2 * ((u >> 16) - 1);
  const upper = v128.load64_lane(at + stride, v128.load64_zero(at), 1);
  const lower = v128.load64_lane(at + 3 * stride, v128.load64_zero(at + 2 * stride), 1);
  const along = weightsAt(u);
  const rows = rowSums(i32x4.dot_i16x8_s(upper, along), i32x4.dot_i16x8_s(lower, along));
  return min(max(columnSum(rows, weightsAt(v), shift), 0), most);
}

/** Where a position's taps begin. */
// @ts-ignore: decorator
@inline
function addressOf(src: usize, stride: i32, u: i32, v: i32, bytes: i32): usize {
  return src + (v >> 16) * stride + bytes * (u >> 16);
}

/** Between two words by a fraction in 1.15. */
// @ts-ignore: decorator
@inline
function mixed(from: v128, to: v128, t: v128): v128 {
  return i16x8.add(from, i16x8.q15mulr_sat_s(i16x8.sub(to, from), t));
}

/** Eight levels by 2 × 2 taps each, `room` bits of them fractions, rounded to whole ones. */
// @ts-ignore: decorator
@inline
function eightMixed(a: v128, b: v128, c: v128, d: v128, t: v128, s: v128, room: i32): v128 {
  const upper = mixed(i16x8.shl(a, room), i16x8.shl(b, room), t);
  const lower = mixed(i16x8.shl(c, room), i16x8.shl(d, room), t);
  return i16x8.shr_s(i16x8.add(mixed(upper, lower, s), i16x8.splat(<i16>1 << <i16>(room - 1))), room);
}

/** Eight bytes at 16.16 positions, by 2 × 2 taps that all lie in the plane. */
// @ts-ignore: decorator
@inline
export function linearBytes(src: usize, stride: i32, dst: usize, uLow: v128, uHigh: v128, vLow: v128, vHigh: v128): void {
  const a0 = addressOf(src, stride, i32x4.extract_lane(uLow, 0), i32x4.extract_lane(vLow, 0), 1);
  const a1 = addressOf(src, stride, i32x4.extract_lane(uLow, 1), i32x4.extract_lane(vLow, 1), 1);
  const a2 = addressOf(src, stride, i32x4.extract_lane(uLow, 2), i32x4.extract_lane(vLow, 2), 1);
  const a3 = addressOf(src, stride, i32x4.extract_lane(uLow, 3), i32x4.extract_lane(vLow, 3), 1);
  const a4 = addressOf(src, stride, i32x4.extract_lane(uHigh, 0), i32x4.extract_lane(vHigh, 0), 1);
  const a5 = addressOf(src, stride, i32x4.extract_lane(uHigh, 1), i32x4.extract_lane(vHigh, 1), 1);
  const a6 = addressOf(src, stride, i32x4.extract_lane(uHigh, 2), i32x4.extract_lane(vHigh, 2), 1);
  const a7 = addressOf(src, stride, i32x4.extract_lane(uHigh, 3), i32x4.extract_lane(vHigh, 3), 1);
  let upper = i16x8.splat(0);
  upper = v128.load16_lane(a0, upper, 0);
  upper = v128.load16_lane(a1, upper, 1);
  upper = v128.load16_lane(a2, upper, 2);
  upper = v128.load16_lane(a3, upper, 3);
  upper = v128.load16_lane(a4, upper, 4);
  upper = v128.load16_lane(a5, upper, 5);
  upper = v128.load16_lane(a6, upper, 6);
  upper = v128.load16_lane(a7, upper, 7);
  let lower = i16x8.splat(0);
  lower = v128.load16_lane(a0 + stride, lower, 0);
  lower = v128.load16_lane(a1 + stride, lower, 1);
  lower = v128.load16_lane(a2 + stride, lower, 2);
  lower = v128.load16_lane(a3 + stride, lower, 3);
  lower = v128.load16_lane(a4 + stride, lower, 4);
  lower = v128.load16_lane(a5 + stride, lower, 5);
  lower = v128.load16_lane(a6 + stride, lower, 6);
  lower = v128.load16_lane(a7 + stride, lower, 7);
  const byte = i16x8.splat(0xff);
  const levels = eightMixed(
    v128.and(upper, byte), i16x8.shr_u(upper, 8), v128.and(lower, byte), i16x8.shr_u(lower, 8),
    fractionsOf(uLow, uHigh, 1), fractionsOf(vLow, vHigh, 1), 6,
  );
  v128.store64_lane(dst, i8x16.narrow_i16x8_u(levels, levels), 0);
}

/** Four pairs of 16-bit levels. */
// @ts-ignore: decorator
@inline
function fourPairs(a: usize, b: usize, c: usize, d: usize): v128 {
  return v128.load32_lane(d, v128.load32_lane(c, v128.load32_lane(b, v128.load32_zero(a), 1), 2), 3);
}

/** The same for levels of sixteen bits, `room` bits less than fourteen of which are used. */
// @ts-ignore: decorator
@inline
export function linearWords(
  src: usize, stride: i32, dst: usize, uLow: v128, uHigh: v128, vLow: v128, vHigh: v128, room: i32,
): void {
  const a0 = addressOf(src, stride, i32x4.extract_lane(uLow, 0), i32x4.extract_lane(vLow, 0), 2);
  const a1 = addressOf(src, stride, i32x4.extract_lane(uLow, 1), i32x4.extract_lane(vLow, 1), 2);
  const a2 = addressOf(src, stride, i32x4.extract_lane(uLow, 2), i32x4.extract_lane(vLow, 2), 2);
  const a3 = addressOf(src, stride, i32x4.extract_lane(uLow, 3), i32x4.extract_lane(vLow, 3), 2);
  const a4 = addressOf(src, stride, i32x4.extract_lane(uHigh, 0), i32x4.extract_lane(vHigh, 0), 2);
  const a5 = addressOf(src, stride, i32x4.extract_lane(uHigh, 1), i32x4.extract_lane(vHigh, 1), 2);
  const a6 = addressOf(src, stride, i32x4.extract_lane(uHigh, 2), i32x4.extract_lane(vHigh, 2), 2);
  const a7 = addressOf(src, stride, i32x4.extract_lane(uHigh, 3), i32x4.extract_lane(vHigh, 3), 2);
  const p = fourPairs(a0, a1, a2, a3);
  const q = fourPairs(a4, a5, a6, a7);
  const r = fourPairs(a0 + stride, a1 + stride, a2 + stride, a3 + stride);
  const s = fourPairs(a4 + stride, a5 + stride, a6 + stride, a7 + stride);
  const levels = eightMixed(
    v128.shuffle<i16>(p, q, 0, 2, 4, 6, 8, 10, 12, 14), v128.shuffle<i16>(p, q, 1, 3, 5, 7, 9, 11, 13, 15),
    v128.shuffle<i16>(r, s, 0, 2, 4, 6, 8, 10, 12, 14), v128.shuffle<i16>(r, s, 1, 3, 5, 7, 9, 11, 13, 15),
    fractionsOf(uLow, uHigh, 1), fractionsOf(vLow, vHigh, 1), room,
  );
  v128.store(dst, levels);
}
