import { eightCubic, eightLinear } from './eight';

// Resampling of one plane, of 8 or of more bits. Pointers only: the caller owns the memory, which several threads share.
// The picture is made eight pixels at a time where a small turn lets sixteen bytes a row hold every tap of four
// (Catmull-Rom or linear weights in 2.14 fixed point, multiplied in pairs); borders, large turns and
// perspective go the general way, pixel by pixel.

// @ts-ignore: decorator
@inline const pixelBits: i64 = 32;

// @ts-ignore: decorator
@inline
function clampIndex(i: i32, size: i32): i32 {
  return min(max(i, 0), size - 1);
}

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
  // Positions inside the picture are above -1: cutting off after adding one is the same as rounding down.
  const ix = <i32>(u + 0.5) - 1;
  const iy = <i32>(v + 0.5) - 1;
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

/**
 * Makes rows `rowFrom` up to `rowTo` of a plane: each pixel's centre goes through m (source from
 * destination, corner origin), what lands outside left..bottom becomes `fill`.
 */
export function warpPlane(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, cubic: bool, fill: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  const affine = m6 == 0.0 && m7 == 0.0 && m8 == 1.0;
  const quick = affine && m0 > 0.0 && m0 < 3.9 && Math.abs(m3) < 0.14 && max(width, height) < 16384;
  const before = cubic ? 1 : 0;
  const after = cubic ? 2 : 1;
  const du = <i32>Math.round(m0 * 65536.0);
  const dv = <i32>Math.round(m3 * 65536.0);
  const unit: f64 = <f64>((<i64>1) << pixelBits);
  const groupU: i64 = quick ? <i64>Math.round(m0 * 8.0 * unit) : 0;
  const groupV: i64 = quick ? <i64>Math.round(m3 * 8.0 * unit) : 0;
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + y * dstStride;
    const cy = <f64>y + 0.5;
    let x = 0;
    // Far outside the picture the fixed point would overflow: such rows go the general way.
    const startU = m0 * 0.5 + m1 * cy + m2 - 0.5;
    const startV = m3 * 0.5 + m4 * cy + m5 - 0.5;
    if (quick && Math.abs(startU) < 16384.0 && Math.abs(startV) < 16384.0) {
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
            const px = m0 * cx + m1 * cy + m2;
            const py = m3 * cx + m4 * cy + m5;
            const inside = px >= left && px <= right && py >= top && py <= bottom;
            store<u8>(row + i, inside ? sampleAny(src, width, height, stride, px, py, cubic) : <u8>fill);
          }
        }
        u += groupU;
        v += groupV;
      }
    }
    for (; x < dstWidth; x++) {
      const cx = <f64>x + 0.5;
      const w = affine ? 1.0 : m6 * cx + m7 * cy + m8;
      const px = (m0 * cx + m1 * cy + m2) / w;
      const py = (m3 * cx + m4 * cy + m5) / w;
      const inside = w > 0.0 && px >= left && px <= right && py >= top && py <= bottom;
      store<u8>(row + x, inside ? sampleAny(src, width, height, stride, px, py, cubic) : <u8>fill);
    }
  }
}

/** Four 16-bit levels as floats. */
// @ts-ignore: decorator
@inline
function fourDeep(levels: v128): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(levels));
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

/**
 * `warpPlane` for planes of 16-bit levels up to `most`. Strides are bytes. Four taps a row are weighed at once, all
 * pixels the general way.
 */
export function warpDeepPlane(
  src: usize, width: i32, height: i32, stride: i32,
  dst: usize, dstWidth: i32, dstStride: i32, rowFrom: i32, rowTo: i32,
  left: f64, top: f64, right: f64, bottom: f64, cubic: bool, fill: i32, most: i32,
  m0: f64, m1: f64, m2: f64, m3: f64, m4: f64, m5: f64, m6: f64, m7: f64, m8: f64,
): void {
  const affine = m6 == 0.0 && m7 == 0.0 && m8 == 1.0;
  const brightest = <f32>most;
  for (let y = rowFrom; y < rowTo; y++) {
    const row = dst + y * dstStride;
    const cy = <f64>y + 0.5;
    for (let x = 0; x < dstWidth; x++) {
      const cx = <f64>x + 0.5;
      const w = affine ? 1.0 : m6 * cx + m7 * cy + m8;
      const u = (m0 * cx + m1 * cy + m2) / w;
      const v = (m3 * cx + m4 * cy + m5) / w;
      if (!(w > 0.0 && u >= left && u <= right && v >= top && v <= bottom)) {
        store<u16>(row + 2 * x, <u16>fill);
        continue;
      }
      const ix = <i32>(u + 0.5) - 1;
      const iy = <i32>(v + 0.5) - 1;
      const wx = tapWeights(<f32>(u - 0.5 - <f64>ix), cubic);
      const wy = tapWeights(<f32>(v - 0.5 - <f64>iy), cubic);
      const x0 = ix - 1;
      let r0: v128, r1: v128, r2: v128, r3: v128;
      if (x0 >= 0 && x0 + 3 < width && iy >= 1 && iy + 2 < height) {
        const at = src + (iy - 1) * stride + 2 * x0;
        r0 = fourDeep(v128.load64_zero(at));
        r1 = fourDeep(v128.load64_zero(at + stride));
        r2 = fourDeep(v128.load64_zero(at + 2 * stride));
        r3 = fourDeep(v128.load64_zero(at + 3 * stride));
      } else {
        r0 = fourDeepClamped(src + clampIndex(iy - 1, height) * stride, x0, width);
        r1 = fourDeepClamped(src + clampIndex(iy, height) * stride, x0, width);
        r2 = fourDeepClamped(src + clampIndex(iy + 1, height) * stride, x0, width);
        r3 = fourDeepClamped(src + clampIndex(iy + 2, height) * stride, x0, width);
      }
      store<u16>(row + 2 * x, <u16>weighed(r0, r1, r2, r3, wx, wy, brightest));
    }
  }
}
