// Sparse pyramidal flow (Lucas & Kanade 1981; Bouguet 2000), and corner scores (Shi & Tomasi 1994).

/** Largest window, pixels; rows of gradients are kept this far apart. */
// @ts-ignore: decorator
@inline const span: i32 = 32;
const gradients: usize = memory.data(32 * 32 * 2 * 2, 16);
const plane: usize = 32 * 32 * 2;

// @ts-ignore: decorator
@inline
function sumOf(v: v128): i64 {
  const wide = i64x2.add(i64x2.extend_low_i32x4_s(v), i64x2.extend_high_i32x4_s(v));
  return i64x2.extract_lane(wide, 0) + i64x2.extract_lane(wide, 1);
}

let xx: f64 = 0;
let xy: f64 = 0;
let yy: f64 = 0;
/** Sums of template times gradient. */
let tx: f64 = 0;
let ty: f64 = 0;

/** Scharr gradients (×32) of the window whose first pixel is at `src`, rows padded with zeros; sums beside. */
function takeTemplate(src: usize, stride: i32, window: i32): void {
  const three = i16x8.splat(3);
  const ten = i16x8.splat(10);
  const ramp = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  let fxx = f32x4.splat(0);
  let fxy = f32x4.splat(0);
  let fyy = f32x4.splat(0);
  let sx = i32x4.splat(0);
  let sy = i32x4.splat(0);
  for (let j = 0; j < window; j++) {
    const row = src + j * stride;
    const out = gradients + j * span * 2;
    let rxx = i32x4.splat(0);
    let rxy = i32x4.splat(0);
    let ryy = i32x4.splat(0);
    for (let i = 0; i < window; i += 8) {
      const at = row + i;
      const keep = i16x8.lt_s(ramp, i16x8.splat(<i16>(window - i)));
      const a0 = v128.load8x8_u(at - stride - 1);
      const a1 = v128.load8x8_u(at - stride);
      const a2 = v128.load8x8_u(at - stride + 1);
      const b0 = v128.load8x8_u(at - 1);
      const b1 = v128.load8x8_u(at);
      const b2 = v128.load8x8_u(at + 1);
      const c0 = v128.load8x8_u(at + stride - 1);
      const c1 = v128.load8x8_u(at + stride);
      const c2 = v128.load8x8_u(at + stride + 1);
      const sideX = i16x8.add(i16x8.sub(a2, a0), i16x8.sub(c2, c0));
      const sideY = i16x8.add(i16x8.sub(c0, a0), i16x8.sub(c2, a2));
      const gx = v128.and(i16x8.add(i16x8.mul(sideX, three), i16x8.mul(i16x8.sub(b2, b0), ten)), keep);
      const gy = v128.and(i16x8.add(i16x8.mul(sideY, three), i16x8.mul(i16x8.sub(c1, a1), ten)), keep);
      v128.store(out + i * 2, gx);
      v128.store(out + plane + i * 2, gy);
      rxx = i32x4.add(rxx, i32x4.dot_i16x8_s(gx, gx));
      rxy = i32x4.add(rxy, i32x4.dot_i16x8_s(gx, gy));
      ryy = i32x4.add(ryy, i32x4.dot_i16x8_s(gy, gy));
      sx = i32x4.add(sx, i32x4.dot_i16x8_s(b1, gx));
      sy = i32x4.add(sy, i32x4.dot_i16x8_s(b1, gy));
    }
    fxx = f32x4.add(fxx, f32x4.convert_i32x4_s(rxx));
    fxy = f32x4.add(fxy, f32x4.convert_i32x4_s(rxy));
    fyy = f32x4.add(fyy, f32x4.convert_i32x4_s(ryy));
  }
  xx = total(fxx);
  xy = total(fxy);
  yy = total(fyy);
  tx = <f64>sumOf(sx);
  ty = <f64>sumOf(sy);
}

/** Takes the mean gradient out of every pixel's: what a change of brightness adds everywhere then moves nothing. */
function centreTemplate(src: usize, stride: i32, window: i32): void {
  let sumX = 0;
  let sumY = 0;
  for (let j = 0; j < window; j++)
    for (let i = 0; i < window; i++) {
      const at = gradients + (j * span + i) * 2;
      sumX += load<i16>(at);
      sumY += load<i16>(at + plane);
    }
  const pixels = <f64>(window * window);
  const meanX = i16x8.splat(<i16>Math.round(<f64>sumX / pixels));
  const meanY = i16x8.splat(<i16>Math.round(<f64>sumY / pixels));
  const ramp = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  let fxx = f32x4.splat(0);
  let fxy = f32x4.splat(0);
  let fyy = f32x4.splat(0);
  let sx = i32x4.splat(0);
  let sy = i32x4.splat(0);
  for (let j = 0; j < window; j++)
    for (let i = 0; i < window; i += 8) {
      const keep = i16x8.lt_s(ramp, i16x8.splat(<i16>(window - i)));
      const out = gradients + (j * span + i) * 2;
      const gx = v128.and(i16x8.sub(v128.load(out), meanX), keep);
      const gy = v128.and(i16x8.sub(v128.load(out + plane), meanY), keep);
      v128.store(out, gx);
      v128.store(out + plane, gy);
      fxx = f32x4.add(fxx, f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(gx, gx)));
      fxy = f32x4.add(fxy, f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(gx, gy)));
      fyy = f32x4.add(fyy, f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(gy, gy)));
      const level = v128.load8x8_u(src + j * stride + i);
      sx = i32x4.add(sx, i32x4.dot_i16x8_s(level, gx));
      sy = i32x4.add(sy, i32x4.dot_i16x8_s(level, gy));
    }
  xx = total(fxx);
  xy = total(fxy);
  yy = total(fyy);
  tx = <f64>sumOf(sx);
  ty = <f64>sumOf(sy);
}

// @ts-ignore: decorator
@inline
function total(v: v128): f64 {
  return (
    <f64>f32x4.extract_lane(v, 0) +
    <f64>f32x4.extract_lane(v, 1) +
    <f64>f32x4.extract_lane(v, 2) +
    <f64>f32x4.extract_lane(v, 3)
  );
}

let x00: f64 = 0;
let x01: f64 = 0;
let x10: f64 = 0;
let x11: f64 = 0;
let y00: f64 = 0;
let y01: f64 = 0;
let y10: f64 = 0;
let y11: f64 = 0;

/**
 * Correlations of the gradients with the picture at the four whole-pixel places about a position. The
 * right-hand side is bilinear between them, so that iterations within the cell cost nothing.
 */
function correlateCell(src: usize, stride: i32, window: i32): void {
  let ax = i32x4.splat(0);
  let bx = i32x4.splat(0);
  let cx = i32x4.splat(0);
  let dx = i32x4.splat(0);
  let ay = i32x4.splat(0);
  let by = i32x4.splat(0);
  let cy = i32x4.splat(0);
  let dy = i32x4.splat(0);
  for (let j = 0; j < window; j++) {
    const row = src + j * stride;
    const mine = gradients + j * span * 2;
    for (let i = 0; i < window; i += 8) {
      const gx = v128.load(mine + i * 2);
      const gy = v128.load(mine + plane + i * 2);
      const p = v128.load8x8_u(row + i);
      const q = v128.load8x8_u(row + i + 1);
      const r = v128.load8x8_u(row + stride + i);
      const s = v128.load8x8_u(row + stride + i + 1);
      ax = i32x4.add(ax, i32x4.dot_i16x8_s(p, gx));
      bx = i32x4.add(bx, i32x4.dot_i16x8_s(q, gx));
      cx = i32x4.add(cx, i32x4.dot_i16x8_s(r, gx));
      dx = i32x4.add(dx, i32x4.dot_i16x8_s(s, gx));
      ay = i32x4.add(ay, i32x4.dot_i16x8_s(p, gy));
      by = i32x4.add(by, i32x4.dot_i16x8_s(q, gy));
      cy = i32x4.add(cy, i32x4.dot_i16x8_s(r, gy));
      dy = i32x4.add(dy, i32x4.dot_i16x8_s(s, gy));
    }
  }
  x00 = <f64>sumOf(ax);
  x01 = <f64>sumOf(bx);
  x10 = <f64>sumOf(cx);
  x11 = <f64>sumOf(dx);
  y00 = <f64>sumOf(ay);
  y01 = <f64>sumOf(by);
  y10 = <f64>sumOf(cy);
  y11 = <f64>sumOf(dy);
}

/**
 * Mean size of the difference between the window at `a`, made brighter by `lift`, and the one at `b` moved by (s, t) of a
 * pixel; its mean itself where `signed`.
 */
function meanDifference(
  a: usize,
  strideA: i32,
  b: usize,
  strideB: i32,
  window: i32,
  s: f64,
  t: f64,
  lift: i32,
  signed: bool,
): f32 {
  const lifted = i16x8.splat(<i16>lift);
  const ramp = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  const w11 = <i32>(s * t * 128 + 0.5);
  const w01 = <i32>(s * 128 + 0.5) - w11;
  const w10 = <i32>(t * 128 + 0.5) - w11;
  const p00 = i16x8.splat(<i16>(128 - w01 - w10 - w11));
  const p01 = i16x8.splat(<i16>w01);
  const p10 = i16x8.splat(<i16>w10);
  const p11 = i16x8.splat(<i16>w11);
  const ones = i16x8.splat(1);
  let sum = i32x4.splat(0);
  for (let j = 0; j < window; j++) {
    for (let i = 0; i < window; i += 8) {
      const keep = i16x8.lt_s(ramp, i16x8.splat(<i16>(window - i)));
      const at = b + j * strideB + i;
      const top = i16x8.add(i16x8.mul(v128.load8x8_u(at), p00), i16x8.mul(v128.load8x8_u(at + 1), p01));
      const low = i16x8.add(
        i16x8.mul(v128.load8x8_u(at + strideB), p10),
        i16x8.mul(v128.load8x8_u(at + strideB + 1), p11),
      );
      const seen = i16x8.shr_u(i16x8.add(i16x8.add(top, low), i16x8.splat(64)), 7);
      const wanted = i16x8.add(v128.load8x8_u(a + j * strideA + i), lifted);
      const change = i16x8.sub(seen, wanted);
      const gap = signed ? change : i16x8.abs(change);
      sum = i32x4.add(sum, i32x4.dot_i16x8_s(v128.and(gap, keep), ones));
    }
  }
  return <f32>(<f64>sumOf(sum) / <f64>(window * window));
}

/**
 * Follows points from one picture to the next. Pictures are pyramids: tables of (address, width, height,
 * stride) as i32, finest level first, each half the size of the one before. `points` and `found` hold (x, y) as
 * f64, corner origin; `found` starts as the guess. `window` is odd, at most 31. Per point `residual` becomes
 * the mean difference in grey levels, or -1 where the window leaves the picture or has nothing to hold on to. Where
 * `centred`, a change of brightness neither moves a point nor counts as a difference.
 */
export function flow(
  before: usize,
  after: usize,
  levels: i32,
  points: usize,
  found: usize,
  count: i32,
  window: i32,
  iterations: i32,
  settled: f64,
  residual: usize,
  centred: bool,
): void {
  const half = window >> 1;
  for (let n = 0; n < count; n++) {
    const px = load<f64>(points + (n << 4));
    const py = load<f64>(points + (n << 4), 8);
    let dx = load<f64>(found + (n << 4)) - px;
    let dy = load<f64>(found + (n << 4), 8) - py;
    let difference: f32 = -1;
    for (let level = levels - 1; level >= 0; level--) {
      const scale = 1.0 / <f64>(1 << level);
      const a = before + (level << 4);
      const b = after + (level << 4);
      const width = load<i32>(a, 4);
      const height = load<i32>(a, 8);
      const strideA = load<i32>(a, 12);
      const strideB = load<i32>(b, 12);
      // The window's first pixel, about a whole pixel; the fraction is carried along.
      const left = <i32>Math.floor(px * scale) - half;
      const top = <i32>Math.floor(py * scale) - half;
      difference = -1;
      if (left < 1 || top < 1 || left + window > width - 1 || top + window > height - 1) continue;
      const template = <usize>load<i32>(a) + top * strideA + left;
      takeTemplate(template, strideA, window);
      if (centred) centreTemplate(template, strideA, window);
      const det = xx * yy - xy * xy;
      const least = (xx + yy - Math.sqrt((xx - yy) * (xx - yy) + 4 * xy * xy)) / 2;
      // Per pixel, in squared grey levels; gradients are 32-fold.
      if (least < 0.02 * 1024 * <f64>(window * window)) continue;
      let u = dx * scale;
      let v = dy * scale;
      let cellX = i32.MIN_VALUE;
      let cellY = i32.MIN_VALUE;
      let inside = true;
      for (let i = 0; i < iterations; i++) {
        const ix = <i32>Math.floor(u);
        const iy = <i32>Math.floor(v);
        if (ix != cellX || iy != cellY) {
          const x = left + ix;
          const y = top + iy;
          if (x < 0 || y < 0 || x + window > width - 1 || y + window > height - 1) {
            inside = false;
            break;
          }
          correlateCell(<usize>load<i32>(b) + y * strideB + x, strideB, window);
          cellX = ix;
          cellY = iy;
        }
        const s = u - <f64>ix;
        const t = v - <f64>iy;
        const w00 = (1 - s) * (1 - t);
        const w01 = s * (1 - t);
        const w10 = (1 - s) * t;
        const w11 = s * t;
        const ex = tx - (w00 * x00 + w01 * x01 + w10 * x10 + w11 * x11);
        const ey = ty - (w00 * y00 + w01 * y01 + w10 * y10 + w11 * y11);
        // Gradients are 32-fold: the normal matrix has that twice, the right-hand side once.
        const stepX = (32 * (yy * ex - xy * ey)) / det;
        const stepY = (32 * (xx * ey - xy * ex)) / det;
        u += stepX;
        v += stepY;
        if (stepX * stepX + stepY * stepY < settled * settled) break;
      }
      if (!inside) continue;
      dx = u / scale;
      dy = v / scale;
      if (level == 0) {
        const ix = <i32>Math.floor(u);
        const iy = <i32>Math.floor(v);
        const x = left + ix;
        const y = top + iy;
        if (x < 0 || y < 0 || x + window > width - 1 || y + window > height - 1) continue;
        const at = <usize>load<i32>(b) + y * strideB + x;
        const s = u - <f64>ix;
        const t = v - <f64>iy;
        const lift = centred
          ? <i32>Math.round(meanDifference(template, strideA, at, strideB, window, s, t, 0, true))
          : 0;
        difference = meanDifference(template, strideA, at, strideB, window, s, t, lift, false);
      }
    }
    store<f64>(found + (n << 4), px + dx);
    store<f64>(found + (n << 4), py + dy, 8);
    store<f32>(residual + (n << 2), difference);
  }
}

/** Sums run over 8×8 pixels: four pairs of rows. */
// @ts-ignore: decorator
@inline const block: i32 = 8;
// @ts-ignore: decorator
@inline const pairs: i32 = 4;

/**
 * The best corner of every cell of `cell` pixels (a multiple of four): the smaller eigenvalue of the gradients'
 * second moments over 8×8 pixels, in squared grey levels a pixel, looked for on every second row. Three f32 a
 * cell: score, x, y of the window's middle, row by row over floor(width/cell) × floor(height/cell) cells; -1 where
 * there is none. `scratch` has room for 76 · (width + 16) bytes.
 */
export function cornerCells(
  src: usize,
  stride: i32,
  width: i32,
  height: i32,
  cell: i32,
  scratch: usize,
  out: usize,
): void {
  const across = (width + 15) & ~7;
  const row = <usize>across << 2;
  // Sums of the rows in the window, then those of each pair of rows, a ring: xx, xy, yy each.
  const sums = scratch;
  const ring = sums + 3 * row;
  const best = ring + 3 * pairs * row;
  const bestRow = best + row;
  const slopes = bestRow + row;
  const columns = width / cell;
  const rows = height / cell;
  const norm = f32x4.splat(1 / 256.0);
  const half = f32x4.splat(0.5);
  const four = f32x4.splat(4);
  memory.fill(scratch, 0, 3 * (1 + pairs) * row);
  // Windows lie wholly inside the picture and clear of its border.
  const last = width - block - 1;
  let next = 2;
  for (let cellRow = 0; cellRow < rows; cellRow++) {
    for (let x = 0; x < across; x += 4) v128.store(best + (x << 2), f32x4.splat(-1));
    for (let inner = 0; inner < cell; inner += 2) {
      const middle = cellRow * cell + inner;
      if (middle < 6 || middle > height - 5) continue;
      for (; next < middle + 4; next += 2)
        takePair(src, stride, width, next, slopes, across, ring + <usize>((next >> 1) & (pairs - 1)) * 3 * row, sums, row);
      const here = f32x4.splat(<f32>middle);
      for (let x = 0; x < last; x += 4) {
        const at = sums + (x << 2);
        const a = eightOf(at);
        const b = eightOf(at + row);
        const c = eightOf(at + 2 * row);
        const gap = f32x4.sub(a, c);
        const root = f32x4.sqrt(f32x4.add(f32x4.mul(gap, gap), f32x4.mul(four, f32x4.mul(b, b))));
        const score = f32x4.mul(norm, f32x4.mul(half, f32x4.sub(f32x4.add(a, c), root)));
        const known = v128.load(best + (x << 2));
        const better = f32x4.gt(score, known);
        v128.store(best + (x << 2), v128.bitselect(score, known, better));
        v128.store(bestRow + (x << 2), v128.bitselect(here, v128.load(bestRow + (x << 2)), better));
      }
    }
    for (let column = 0; column < columns; column++) {
      let top: f32 = -1;
      let topX = 0;
      for (let i = 0; i < cell; i++) {
        // Sums that start at x have their middle half a window on.
        const x = column * cell + i - block / 2;
        if (x < 1 || x >= last) continue;
        const score = load<f32>(best + (x << 2));
        if (score > top) {
          top = score;
          topX = x;
        }
      }
      const at = out + (cellRow * columns + column) * 12;
      store<f32>(at, top);
      store<f32>(at, <f32>(topX + block / 2), 4);
      store<f32>(at, top < 0 ? 0 : load<f32>(bestRow + (topX << 2)), 8);
    }
  }
}

/** Sums of eight neighbours, for four starts. */
// @ts-ignore: decorator
@inline
function eightOf(at: usize): v128 {
  const a = i32x4.add(i32x4.add(v128.load(at), v128.load(at, 4)), i32x4.add(v128.load(at, 8), v128.load(at, 12)));
  const b = i32x4.add(
    i32x4.add(v128.load(at, 16), v128.load(at, 20)),
    i32x4.add(v128.load(at, 24), v128.load(at, 28)),
  );
  return f32x4.convert_i32x4_s(i32x4.add(a, b));
}

/** Takes rows y and y + 1 into the sums, and the pair that leaves the window out of them. */
function takePair(
  src: usize,
  stride: i32,
  width: i32,
  y: i32,
  slopes: usize,
  across: i32,
  pair: usize,
  sums: usize,
  row: usize,
): void {
  const wide = <usize>across << 1;
  slopeRow(src + y * stride, stride, width, slopes, slopes + wide, across);
  slopeRow(src + (y + 1) * stride, stride, width, slopes + 2 * wide, slopes + 3 * wide, across);
  for (let x = 0; x < width; x += 8) {
    const at = slopes + (x << 1);
    const gx0 = v128.load(at);
    const gy0 = v128.load(at + wide);
    const gx1 = v128.load(at + 2 * wide);
    const gy1 = v128.load(at + 3 * wide);
    const lowX = v128.shuffle<i16>(gx0, gx1, 0, 8, 1, 9, 2, 10, 3, 11);
    const lowY = v128.shuffle<i16>(gy0, gy1, 0, 8, 1, 9, 2, 10, 3, 11);
    const highX = v128.shuffle<i16>(gx0, gx1, 4, 12, 5, 13, 6, 14, 7, 15);
    const highY = v128.shuffle<i16>(gy0, gy1, 4, 12, 5, 13, 6, 14, 7, 15);
    const into = x << 2;
    replace(pair + into, sums + into, i32x4.dot_i16x8_s(lowX, lowX));
    replace(pair + into + 16, sums + into + 16, i32x4.dot_i16x8_s(highX, highX));
    replace(pair + row + into, sums + row + into, i32x4.dot_i16x8_s(lowX, lowY));
    replace(pair + row + into + 16, sums + row + into + 16, i32x4.dot_i16x8_s(highX, highY));
    replace(pair + 2 * row + into, sums + 2 * row + into, i32x4.dot_i16x8_s(lowY, lowY));
    replace(pair + 2 * row + into + 16, sums + 2 * row + into + 16, i32x4.dot_i16x8_s(highY, highY));
  }
}

// @ts-ignore: decorator
@inline
function replace(part: usize, sum: usize, fresh: v128): void {
  v128.store(sum, i32x4.add(i32x4.sub(v128.load(sum), v128.load(part)), fresh));
  v128.store(part, fresh);
}

/** Central differences (twice the gradient) of one row; its first and last pixel have none. */
// @ts-ignore: decorator
@inline
function slopeRow(at: usize, stride: i32, width: i32, outX: usize, outY: usize, across: i32): void {
  for (let x = 0; x < width; x += 8) {
    v128.store(outX + (x << 1), i16x8.sub(v128.load8x8_u(at + x + 1), v128.load8x8_u(at + x - 1)));
    v128.store(outY + (x << 1), i16x8.sub(v128.load8x8_u(at + x + stride), v128.load8x8_u(at + x - stride)));
  }
  store<i16>(outX, 0);
  for (let x = width - 1; x < across; x++) {
    store<i16>(outX + (x << 1), 0);
    store<i16>(outY + (x << 1), 0);
  }
}
