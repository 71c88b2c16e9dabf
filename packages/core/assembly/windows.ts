// What a window of a picture shows: how much it slopes, and how far its levels lie apart.

const ramp = i16x8(0, 1, 2, 3, 4, 5, 6, 7);

// @ts-ignore: decorator
@inline
function sumOf(v: v128): i32 {
  return (
    i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3)
  );
}

/** Lanes of the first `left` of eight. */
// @ts-ignore: decorator
@inline
function first(left: i32): v128 {
  return i16x8.lt_s(ramp, i16x8.splat(<i16>left));
}

/** The mean squared slope along the direction that has least of it. The pixels must not lie at the plane's border. */
function slopeOf(src: usize, stride: i32, left: i32, top: i32, right: i32, bottom: i32): f64 {
  let sxx = i32x4.splat(0);
  let sxy = i32x4.splat(0);
  let syy = i32x4.splat(0);
  for (let y = top; y < bottom; y++) {
    const row = src + y * stride;
    for (let x = left; x < right; x += 8) {
      const at = row + x;
      const keep = first(right - x);
      // Twice the slopes.
      const gx = v128.and(i16x8.sub(v128.load8x8_u(at + 1), v128.load8x8_u(at - 1)), keep);
      const gy = v128.and(i16x8.sub(v128.load8x8_u(at + stride), v128.load8x8_u(at - stride)), keep);
      sxx = i32x4.add(sxx, i32x4.dot_i16x8_s(gx, gx));
      sxy = i32x4.add(sxy, i32x4.dot_i16x8_s(gx, gy));
      syy = i32x4.add(syy, i32x4.dot_i16x8_s(gy, gy));
    }
  }
  const xx = <f64>sumOf(sxx);
  const xy = <f64>sumOf(sxy);
  const yy = <f64>sumOf(syy);
  const half = (xx - yy) / 2;
  return ((xx + yy) / 2 - sqrt(half * half + xy * xy)) / <f64>(4 * (right - left) * (bottom - top));
}

/** The mean deviation of the levels: twice that of those above their mean. */
function deviationOf(src: usize, stride: i32, left: i32, top: i32, right: i32, bottom: i32): f64 {
  const ones = i16x8.splat(1);
  let all = i32x4.splat(0);
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x += 8) {
      const levels = v128.and(v128.load8x8_u(src + y * stride + x), first(right - x));
      all = i32x4.add(all, i32x4.dot_i16x8_s(levels, ones));
    }
  const count = <f64>((right - left) * (bottom - top));
  const mean = <f64>sumOf(all) / count;
  const whole = i16x8.splat(<i16>mean);
  let above = i32x4.splat(0);
  let many = i32x4.splat(0);
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x += 8) {
      const levels = v128.load8x8_u(src + y * stride + x);
      const higher = v128.and(i16x8.gt_s(levels, whole), first(right - x));
      above = i32x4.add(above, i32x4.dot_i16x8_s(v128.and(levels, higher), ones));
      many = i32x4.add(many, i32x4.dot_i16x8_s(v128.and(higher, ones), ones));
    }
  return (2 * (<f64>sumOf(above) - mean * <f64>sumOf(many))) / count;
}

/**
 * Of windows about points, (x, y) as f64, corner origin: the squared slope along the direction that has least of it, squared
 * grey levels a pixel, and the mean deviation of the levels, two f32 a window; of the part of each that lies in the
 * plane. `window` is odd, at most 31.
 */
export function windowTexture(
  src: usize,
  stride: i32,
  width: i32,
  height: i32,
  points: usize,
  count: i32,
  window: i32,
  out: usize,
): void {
  const half = window >> 1;
  for (let n = 0; n < count; n++, points += 16, out += 8) {
    const x = <i32>Math.floor(load<f64>(points)) - half;
    const y = <i32>Math.floor(load<f64>(points, 8)) - half;
    const left = max(x, 0);
    const top = max(y, 0);
    const right = min(x + window, width);
    const bottom = min(y + window, height);
    // A slope takes a pixel on either side.
    const inner = max(x, 1) < min(x + window, width - 1) && max(y, 1) < min(y + window, height - 1);
    const slope = inner
      ? slopeOf(src, stride, max(left, 1), max(top, 1), min(right, width - 1), min(bottom, height - 1))
      : 0;
    store<f32>(out, <f32>slope);
    const some = left < right && top < bottom;
    store<f32>(out, some ? <f32>deviationOf(src, stride, left, top, right, bottom) : 0, 4);
  }
}
