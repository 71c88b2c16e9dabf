import { eightCubic, eightCubicAt, eightLinear, eightLinearAt } from './eight';
import { clampIndex, lies } from './levels';
import { warpTaps } from './taps';
import { cubicByte, cubicWord, linearBytes, linearWords, prepareGather } from './gather';

// Resampling of one plane, of 8 or of more bits. Pointers only: the caller owns the memory, which several threads share.
// The picture is made eight pixels at a time. Where a small turn lets sixteen bytes a row hold every tap of four
// they are made together (Catmull-Rom or linear weights in 2.14 fixed point, multiplied in pairs); elsewhere, and in
// perspective, the taps of each are gathered. Borders go pixel by pixel.

// @ts-ignore: decorator
@inline const pixelBits: i64 = 32;

/** The four taps' weights at fraction t between the middle two: Keys 1981, a = -1/2, or linear. */
// @ts-ignore: decorator
@inline
function tapWeights(t: f32, cubic: bool): v128 {
  if (!cubic) return f32x4(0, 1 - t, t, 0);
  const t2 = t * t;
  const t3 = t2 * t;
  return f32x4(
    t2 - 0.5 * (t3 + t),
    1.5 * t3 - 2.5 * t2 + 1,
    2 * t2 + 0.5 * (t - 3 * t3),
    0.5 * (t3 - t2),
  );
}

/** Four rows of four levels by their weights, rounded by the cast to come and kept within 0 to `most`. */
// @ts-ignore: decorator
@inline
function weighed(r0: v128, r1: v128, r2: v128, r3: v128, wx: v128, wy: v128, most: f32): f32 {
  let sum = f32x4.mul(r0, v128.shuffle<f32>(wy, wy, 0, 0, 0, 0));
  sum = f32x4.add(sum, f32x4.mul(r1, v128.shuffle<f32>(wy, wy, 1, 1, 1, 1)));
  sum = f32x4.add(sum, f32x4.mul(r2, v128.shuffle<f32>(wy, wy, 2, 2, 2, 2)));
  sum = f32x4.add(sum, f32x4.mul(r3, v128.shuffle<f32>(wy, wy, 3, 3, 3, 3)));
  sum = f32x4.mul(sum, wx);
  const level =
    f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3);
  return min<f32>(max<f32>(level + 0.5, 0), most);
}

/** Four bytes as four floats. */
// @ts-ignore: decorator
@inline
function fourLevels(bytes: v128): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(bytes)));
}

/** Four neighbours of a row from column `ix`, the border pixel repeated. */
function fourClamped(row: usize, ix: i32, width: i32): v128 {
  return f32x4(
    <f32>load<u8>(row + clampIndex(ix, width)),
    <f32>load<u8>(row + clampIndex(ix + 1, width)),
    <f32>load<u8>(row + clampIndex(ix + 2, width)),
    <f32>load<u8>(row + clampIndex(ix + 3, width)),
  );
}

/** The level at corner-origin (u, v), the border pixel repeated. */
function sampleAny(src: usize, width: i32, height: i32, stride: i32, u: f64, v: f64, cubic: bool): u8 {
  const ix = <i32>Math.floor(u - 0.5);
  const iy = <i32>Math.floor(v - 0.5);
  const wx = tapWeights(<f32>(u - 0.5 - <f64>ix), cubic);
  const wy = tapWeights(<f32>(v - 0.5 - <f64>iy), cubic);
  const x = ix - 1;
  let r0: v128, r1: v128, r2: v128, r3: v128;
  if (x >= 0 && x + 3 < width && iy >= 1 && iy + 2 < height) {
    const at = src + (iy - 1) * stride + x;
    r0 = fourLevels(v128.load32_zero(at));
    r1 = fourLevels(v128.load32_zero(at + stride));
    r2 = fourLevels(v128.load32_zero(at + 2 * stride));
    r3 = fourLevels(v128.load32_zero(at + 3 * stride));
  } else {
    r0 = fourClamped(src + clampIndex(iy - 1, height) * stride, x, width);
    r1 = fourClamped(src + clampIndex(iy, height) * stride, x, width);
    r2 = fourClamped(src + clampIndex(iy + 1, height) * stride, x, width);
    r3 = fourClamped(src + clampIndex(iy + 2, height) * stride, x, width);
  }
  return <u8>weighed(r0, r1, r2, r3, wx, wy, 255);
}

/** One pixel of a plane of bytes, the careful way. */
// @ts-ignore: decorator
@inline
function storeByte(
  dst: usize, src: usize, width: i32, height: i32, stride: i32, cubic: bool, fill: i32,
  left: f64, top: f64, right: f64, bottom: f64, w: f64, px: f64, py: f64,
): void {
  if (lies(w, px, py, left, top, right, bottom))
    store<u8>(dst, sampleAny(src, width, height, stride, px, py, cubic));
  else if (fill >= 0) store<u8>(dst, <u8>fill);
}

/**
 * Makes rows `rowFrom` up to `rowTo` of a plane: each pixel's centre goes through m (source from
 * destination, corner origin), what lands outside left..bottom becomes `fill`, or is left as it is where that is below 0.
 * `taps`: 0 linear, 1 cubic, 2 the nearest, 3 Lanczos.
 */
export function warpPlane(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, taps: i32, fill: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  if (taps > 1) {
    warpTaps(
      src, width, height, stride, dst, dstWidth, dstStride, rowFrom, rowTo, left, top, right, bottom, taps == 2, fill,
      255, false, m0, m1, m2, m3, m4, m5, m6, m7, m8,
    );
    return;
  }
  const cubic = taps == 1;
  const affine = m6 == 0.0 && m7 == 0.0 && m8 == 1.0;
  const quick = affine && m0 > 0.0 && m0 < 3.9 && Math.abs(m3) < 0.14 && max(width, height) < 16384;
  if (!quick) {
    gatherPlane(
      src, width, height, stride, dst, dstWidth, dstStride, rowFrom, rowTo, left, top, right, bottom, cubic, fill,
      255, false, m0, m1, m2, m3, m4, m5, m6, m7, m8,
    );
    return;
  }
  const before = cubic ? 1 : 0;
  const after = cubic ? 2 : 1;
  const du = <i32>Math.round(m0 * 65536.0);
  const dv = <i32>Math.round(m3 * 65536.0);
  const unit: f64 = <f64>((<i64>1) << pixelBits);
  const groupU: i64 = <i64>Math.round(m0 * 8.0 * unit);
  const groupV: i64 = <i64>Math.round(m3 * 8.0 * unit);
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + y * dstStride;
    const cy = <f64>y + 0.5;
    let x = 0;
    // Far outside the picture the fixed point would overflow: such rows go pixel by pixel.
    const startU = m0 * 0.5 + m1 * cy + m2 - 0.5;
    const startV = m3 * 0.5 + m4 * cy + m5 - 0.5;
    if (Math.abs(startU) < 16384.0 && Math.abs(startV) < 16384.0) {
      let u: i64 = <i64>Math.round(startU * unit);
      let v: i64 = <i64>Math.round(startV * unit);
      for (; x + 8 <= dstWidth; x += 8) {
        const u0 = <i32>(u >> 16);
        const v0 = <i32>(v >> 16);
        const u7 = u0 + 7 * du;
        const v7 = v0 + 7 * dv;
        const firstRow = min(v0, v7) >> 16;
        const lastRow = max(v0, v7) >> 16;
        if (
          u0 >> 16 >= before && (u7 >> 16) + after < width &&
          firstRow >= before && lastRow + after < height
        ) {
          if (cubic) eightCubic(src, stride, row + x, u0, v0, du, dv, false);
          else eightLinear(src, stride, row + x, u0, v0, du, dv, false);
        } else {
          for (let i = x; i < x + 8; i++) {
            const cx = <f64>i + 0.5;
            storeByte(
              row + i, src, width, height, stride, cubic, fill, left, top, right, bottom,
              1.0, m0 * cx + m1 * cy + m2, m3 * cx + m4 * cy + m5,
            );
          }
        }
        u += groupU;
        v += groupV;
      }
    }
    for (; x < dstWidth; x++) {
      const cx = <f64>x + 0.5;
      storeByte(
        row + x, src, width, height, stride, cubic, fill, left, top, right, bottom,
        1.0, m0 * cx + m1 * cy + m2, m3 * cx + m4 * cy + m5,
      );
    }
  }
}

/** Whether all taps about a position lie in the plane: its pixel index is at least `least`, and at most these. */
// @ts-ignore: decorator
@inline
function holds(u: f64, v: f64, w: f64, least: f64, mostU: f64, mostV: f64): bool {
  return w > 0.0 && u >= least * w && u <= mostU * w && v >= least * w && v <= mostV * w;
}

/** Four 16.16 positions of pixel indices (corner origin less a half), from two pairs of such in corner-origin pixels. */
// @ts-ignore: decorator
@inline
function fourFixed(first: v128, second: v128): v128 {
  const fixed = v128.shuffle<i32>(
    i32x4.trunc_sat_f64x2_s_zero(first), i32x4.trunc_sat_f64x2_s_zero(second), 0, 1, 4, 5,
  );
  return i32x4.sub(fixed, i32x4.splat(32768));
}

/** Whether eight positions in a row can be taken together: rising, four within twelve pixels, all on two rows. */
// @ts-ignore: decorator
@inline
function lieTogether(uLow: v128, uHigh: v128, vLow: v128, vHigh: v128): bool {
  const first = i32x4.extract_lane(uLow, 0);
  const third = i32x4.extract_lane(uHigh, 0);
  const near = (i32x4.extract_lane(uLow, 3) >> 16) - (first >> 16);
  const far = (i32x4.extract_lane(uHigh, 3) >> 16) - (third >> 16);
  const rows = (i32x4.extract_lane(vHigh, 3) >> 16) - (i32x4.extract_lane(vLow, 0) >> 16);
  return third > first && near >= 0 && near < 12 && far >= 0 && far < 12 && rows >= -1 && rows <= 1;
}

/** Four neighbours of a row of 16-bit levels from column `ix`, the border pixel repeated. */
function fourDeepClamped(row: usize, ix: i32, width: i32): v128 {
  return f32x4(
    <f32>load<u16>(row + 2 * clampIndex(ix, width)),
    <f32>load<u16>(row + 2 * clampIndex(ix + 1, width)),
    <f32>load<u16>(row + 2 * clampIndex(ix + 2, width)),
    <f32>load<u16>(row + 2 * clampIndex(ix + 3, width)),
  );
}

/** One pixel of a plane of 16-bit levels, the careful way. */
// @ts-ignore: decorator
@inline
function storeWord(
  dst: usize, src: usize, width: i32, height: i32, stride: i32, cubic: bool, fill: i32, brightest: f32,
  left: f64, top: f64, right: f64, bottom: f64, w: f64, u: f64, v: f64,
): void {
  if (!lies(w, u, v, left, top, right, bottom)) {
    if (fill >= 0) store<u16>(dst, <u16>fill);
    return;
  }
  const ix = <i32>Math.floor(u - 0.5);
  const iy = <i32>Math.floor(v - 0.5);
  const wx = tapWeights(<f32>(u - 0.5 - <f64>ix), cubic);
  const wy = tapWeights(<f32>(v - 0.5 - <f64>iy), cubic);
  const x0 = ix - 1;
  const r0 = fourDeepClamped(src + clampIndex(iy - 1, height) * stride, x0, width);
  const r1 = fourDeepClamped(src + clampIndex(iy, height) * stride, x0, width);
  const r2 = fourDeepClamped(src + clampIndex(iy + 1, height) * stride, x0, width);
  const r3 = fourDeepClamped(src + clampIndex(iy + 2, height) * stride, x0, width);
  store<u16>(dst, <u16>weighed(r0, r1, r2, r3, wx, wy, brightest));
}

/** One of eight pixels by 4 × 4 taps. */
// @ts-ignore: decorator
@inline
function gatherOne(src: usize, stride: i32, dst: usize, u: i32, v: i32, deep: bool, shift: i32, most: i32): void {
  if (deep) store<u16>(dst, <u16>cubicWord(src, stride, u, v, shift, most));
  else store<u8>(dst, <u8>cubicByte(src, stride, u, v));
}

/** Eight pixels by 4 × 4 taps, wherever they lie. */
function eightGathered(
  src: usize, stride: i32, dst: usize, uLow: v128, uHigh: v128, vLow: v128, vHigh: v128, deep: bool, shift: i32, most: i32,
): void {
  const each = deep ? 2 : 1;
  gatherOne(src, stride, dst, i32x4.extract_lane(uLow, 0), i32x4.extract_lane(vLow, 0), deep, shift, most);
  gatherOne(src, stride, dst + each, i32x4.extract_lane(uLow, 1), i32x4.extract_lane(vLow, 1), deep, shift, most);
  gatherOne(src, stride, dst + 2 * each, i32x4.extract_lane(uLow, 2), i32x4.extract_lane(vLow, 2), deep, shift, most);
  gatherOne(src, stride, dst + 3 * each, i32x4.extract_lane(uLow, 3), i32x4.extract_lane(vLow, 3), deep, shift, most);
  gatherOne(src, stride, dst + 4 * each, i32x4.extract_lane(uHigh, 0), i32x4.extract_lane(vHigh, 0), deep, shift, most);
  gatherOne(src, stride, dst + 5 * each, i32x4.extract_lane(uHigh, 1), i32x4.extract_lane(vHigh, 1), deep, shift, most);
  gatherOne(src, stride, dst + 6 * each, i32x4.extract_lane(uHigh, 2), i32x4.extract_lane(vHigh, 2), deep, shift, most);
  gatherOne(src, stride, dst + 7 * each, i32x4.extract_lane(uHigh, 3), i32x4.extract_lane(vHigh, 3), deep, shift, most);
}

/** One pixel, the careful way. */
// @ts-ignore: decorator
@inline
function storeAny(
  dst: usize, src: usize, width: i32, height: i32, stride: i32, cubic: bool, fill: i32, most: i32, deep: bool,
  left: f64, top: f64, right: f64, bottom: f64, w: f64, u: f64, v: f64,
): void {
  if (deep) storeWord(dst, src, width, height, stride, cubic, fill, <f32>most, left, top, right, bottom, w, u, v);
  else storeByte(dst, src, width, height, stride, cubic, fill, left, top, right, bottom, w, u, v);
}

/**
 * Makes a plane wherever its pixels come from, of bytes, or `deep`, of 16-bit levels up to `most`: eight pixels in a row
 * are a line in the source, so that its ends tell of all.
 */
function gatherPlane(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, cubic: bool, fill: i32, most: i32, deep: bool,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  prepareGather();
  // Deeper levels would have no room for fractions.
  const fits = max(width, height) < 16384 && most < 8192;
  const shift = max(32 - clz(most), 8);
  // In corner-origin pixels: half of one more than indices.
  const least = cubic ? 1.5 : 0.5;
  const mostU = <f64>width - (cubic ? 2.5 : 1.5) - 1e-4;
  const mostV = <f64>height - (cubic ? 2.5 : 1.5) - 1e-4;
  // Words have room for fourteen bits when they are mixed.
  const room = 14 - shift;
  const each = deep ? 2 : 1;
  const unit = 65536.0;
  const stepU = f64x2.splat(2.0 * unit * m0);
  const stepV = f64x2.splat(2.0 * unit * m3);
  const stepW = f64x2.splat(2.0 * m6);
  const one = f64x2.splat(1.0);
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + y * dstStride;
    const cy = <f64>y + 0.5;
    const lineU = m1 * cy + m2;
    const lineV = m4 * cy + m5;
    const lineW = m7 * cy + m8;
    for (let x = 0; x < dstWidth; x += 8) {
      const first = <f64>x + 0.5;
      const last = first + 7.0;
      const isInside =
        fits && x + 8 <= dstWidth &&
        holds(m0 * first + lineU, m3 * first + lineV, m6 * first + lineW, least, mostU, mostV) &&
        holds(m0 * last + lineU, m3 * last + lineV, m6 * last + lineW, least, mostU, mostV);
      if (!isInside) {
        for (let i = x; i < min(x + 8, dstWidth); i++) {
          const cx = <f64>i + 0.5;
          const w = m6 * cx + lineW;
          storeAny(
            row + each * i, src, width, height, stride, cubic, fill, most, deep, left, top, right, bottom,
            w, (m0 * cx + lineU) / w, (m3 * cx + lineV) / w,
          );
        }
        continue;
      }
      let u = f64x2(unit * (m0 * first + lineU), unit * (m0 * (first + 1.0) + lineU));
      let v = f64x2(unit * (m3 * first + lineV), unit * (m3 * (first + 1.0) + lineV));
      let w = f64x2(m6 * first + lineW, m6 * (first + 1.0) + lineW);
      let over = f64x2.div(one, w);
      const u0 = f64x2.mul(u, over);
      const v0 = f64x2.mul(v, over);
      u = f64x2.add(u, stepU);
      v = f64x2.add(v, stepV);
      w = f64x2.add(w, stepW);
      over = f64x2.div(one, w);
      const uLow = fourFixed(u0, f64x2.mul(u, over));
      const vLow = fourFixed(v0, f64x2.mul(v, over));
      u = f64x2.add(u, stepU);
      v = f64x2.add(v, stepV);
      w = f64x2.add(w, stepW);
      over = f64x2.div(one, w);
      const u4 = f64x2.mul(u, over);
      const v4 = f64x2.mul(v, over);
      u = f64x2.add(u, stepU);
      v = f64x2.add(v, stepV);
      w = f64x2.add(w, stepW);
      over = f64x2.div(one, w);
      const uHigh = fourFixed(u4, f64x2.mul(u, over));
      const vHigh = fourFixed(v4, f64x2.mul(v, over));
      const at = row + each * x;
      if (!deep && lieTogether(uLow, uHigh, vLow, vHigh)) {
        if (cubic) eightCubicAt(src, stride, at, uLow, uHigh, vLow, vHigh, false);
        else eightLinearAt(src, stride, at, uLow, uHigh, vLow, vHigh, false);
      } else if (cubic) {
        eightGathered(src, stride, at, uLow, uHigh, vLow, vHigh, deep, shift, most);
      } else if (deep) linearWords(src, stride, at, uLow, uHigh, vLow, vHigh, room);
      else linearBytes(src, stride, at, uLow, uHigh, vLow, vHigh);
    }
  }
}

/** `warpPlane` for planes of 16-bit levels up to `most`. Strides are bytes. */
export function warpDeepPlane(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, taps: i32, fill: i32, most: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  if (taps > 1) {
    warpTaps(
      src, width, height, stride, dst, dstWidth, dstStride, rowFrom, rowTo, left, top, right, bottom, taps == 2, fill,
      most, true, m0, m1, m2, m3, m4, m5, m6, m7, m8,
    );
    return;
  }
  gatherPlane(
    src, width, height, stride, dst, dstWidth, dstStride, rowFrom, rowTo, left, top, right, bottom, taps == 1, fill,
    most, true, m0, m1, m2, m3, m4, m5, m6, m7, m8,
  );
}
