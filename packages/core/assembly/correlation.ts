// Finding a template: pyramids, and zero-mean normalised correlation over every position. Products are summed
// as whole numbers, so that the figures are those of exact arithmetic.

/** Bytes before a packed template's levels: their sum and the root of their variance sum, as f64. */
// @ts-ignore: decorator
@inline const header: i32 = 16;

/** Half the size: rounded means of 2×2. The copy's rows follow each other without gaps. */
export function halvePlane(src: usize, stride: i32, width: i32, height: i32, dst: usize): void {
  const columns = width >> 1;
  const rows = height >> 1;
  const two = i16x8.splat(2);
  for (let y = 0; y < rows; y++) {
    const a = src + 2 * y * stride;
    const b = a + stride;
    const out = dst + y * columns;
    let x = 0;
    for (; x + 8 <= columns; x += 8) {
      const top = i16x8.extadd_pairwise_i8x16_u(v128.load(a + 2 * x));
      const low = i16x8.extadd_pairwise_i8x16_u(v128.load(b + 2 * x));
      const mean = i16x8.shr_u(i16x8.add(i16x8.add(top, low), two), 2);
      v128.store64_lane(out + x, i8x16.narrow_i16x8_u(mean, mean), 0);
    }
    for (; x < columns; x++) {
      const sum =
        <u32>load<u8>(a + 2 * x) + load<u8>(a + 2 * x + 1) + load<u8>(b + 2 * x) + load<u8>(b + 2 * x + 1);
      store<u8>(out + x, <u8>((sum + 2) >> 2));
    }
  }
}

/** Floats as bytes, rounded; what is not a number becomes `blank`. Rows of `columns` floats. */
export function quantise(src: usize, columns: i32, width: i32, height: i32, blank: f32, dst: usize): void {
  for (let y = 0; y < height; y++) {
    const row = src + ((y * columns) << 2);
    for (let x = 0; x < width; x++) {
      const found = load<f32>(row + (x << 2));
      const level = found == found ? found : blank;
      store<u8>(dst + y * width + x, <u8>min<f32>(max<f32>(level + 0.5, 0), 255));
    }
  }
}

/** Widens a template to 16 bits, rows padded with zeros to whole vectors, its sums before it. */
export function packTemplate(src: usize, stride: i32, width: i32, height: i32, dst: usize): void {
  const padded = (width + 7) & ~7;
  let sum: i64 = 0;
  let squares: i64 = 0;
  for (let y = 0; y < height; y++) {
    const row = src + y * stride;
    const out = dst + header + ((y * padded) << 1);
    for (let x = 0; x < padded; x++) {
      const level: i32 = x < width ? <i32>load<u8>(row + x) : 0;
      sum += level;
      squares += level * level;
      store<i16>(out + (x << 1), <i16>level);
    }
  }
  const total = <f64>sum;
  store<f64>(dst, total);
  store<f64>(dst + 8, Math.sqrt(max(<f64>squares - (total * total) / <f64>(width * height), 0)));
}

/** More pixels than this, and the sums of whole boxes leave 32 bits. */
// @ts-ignore: decorator
@inline const mostAtOnce: i32 = 33000;

/** Sums of what lies under eight boxes side by side: levels, then squares, each as two vectors. */
const running = memory.data(16 * 4);

/** Eight bytes and their right neighbours, from the first of sixteen on. */
// @ts-ignore: decorator
@inline
function pairs(bytes: v128): v128 {
  return v128.shuffle<i8>(bytes, bytes, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 8);
}

/** Adds what a row of eight boxes side by side, the first at `at`, sums up to, or with `sign` -1 takes it off. */
// @ts-ignore: decorator
@inline
function addRow(at: usize, width: i32, sign: i32): void {
  const ones = i16x8.splat(<i16>sign);
  const minus = i32x4.splat(sign >> 1);
  const first = i32x4.splat(0xffff);
  let s0 = v128.load(running);
  let s1 = v128.load(running, 16);
  let q0 = v128.load(running, 32);
  let q1 = v128.load(running, 48);
  for (let i = 0; i < width; i += 2) {
    const bytes = pairs(v128.load(at + i));
    let low = i16x8.extend_low_i8x16_u(bytes);
    let high = i16x8.extend_high_i8x16_u(bytes);
    if (i + 1 == width) {
      low = v128.and(low, first);
      high = v128.and(high, first);
    }
    s0 = i32x4.add(s0, i32x4.dot_i16x8_s(low, ones));
    s1 = i32x4.add(s1, i32x4.dot_i16x8_s(high, ones));
    // Two's complement: all bits turned and one less is the same as the negative.
    q0 = i32x4.add(q0, i32x4.sub(v128.xor(i32x4.dot_i16x8_s(low, low), minus), minus));
    q1 = i32x4.add(q1, i32x4.sub(v128.xor(i32x4.dot_i16x8_s(high, high), minus), minus));
  }
  v128.store(running, s0);
  v128.store(running, s1, 16);
  v128.store(running, q0, 32);
  v128.store(running, q1, 48);
}

/** Two scores from two lanes of whole sums. */
// @ts-ignore: decorator
@inline
function twoScores(s: v128, q: v128, p: v128, share: f64, templateSum: f64, norm: f64): v128 {
  const sum = f64x2.convert_low_i32x4_s(s);
  const mean = f64x2.mul(sum, f64x2.splat(share));
  const variance = f64x2.sub(f64x2.convert_low_i32x4_s(q), f64x2.mul(sum, mean));
  const product = f64x2.sub(f64x2.convert_low_i32x4_s(p), f64x2.mul(f64x2.splat(templateSum), mean));
  const spread = f64x2.mul(f64x2.splat(norm), f64x2.sqrt(f64x2.max(variance, f64x2.splat(0))));
  const known = f64x2.gt(spread, f64x2.splat(1e-3));
  return f32x4.demote_f64x2_zero(v128.and(f64x2.div(product, spread), known));
}

/** Four scores from whole sums. */
// @ts-ignore: decorator
@inline
function fourScores(s: v128, q: v128, p: v128, share: f64, templateSum: f64, norm: f64): v128 {
  const low = twoScores(s, q, p, share, templateSum, norm);
  const high = twoScores(upper(s), upper(q), upper(p), share, templateSum, norm);
  return v128.shuffle<i64>(low, high, 0, 2);
}

// @ts-ignore: decorator
@inline
function upper(v: v128): v128 {
  return v128.shuffle<i64>(v, v, 1, 1);
}

/** Correlation at eight positions side by side, the first at `src`, in each of so many rows. */
function correlateEight(
  template: usize,
  width: i32,
  height: i32,
  src: usize,
  stride: i32,
  columns: i32,
  rows: i32,
  scores: usize,
): void {
  const padded = (width + 7) & ~7;
  const levels = template + header;
  const templateSum = load<f64>(template);
  const norm = load<f64>(template + 8);
  const share = 1.0 / <f64>(width * height);
  memory.fill(running, 0, 64);
  for (let j = 0; j < height; j++) addRow(src + j * stride, width, 1);
  for (let y = 0; y < rows; y++) {
    const top = src + y * stride;
    let p0 = i32x4.splat(0);
    let p1 = i32x4.splat(0);
    for (let j = 0; j < height; j++) {
      const at = top + j * stride;
      const mine = levels + ((j * padded) << 1);
      for (let i = 0; i < width; i += 2) {
        const bytes = pairs(v128.load(at + i));
        const two = v128.load32_splat(mine + (i << 1));
        p0 = i32x4.add(p0, i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(bytes), two));
        p1 = i32x4.add(p1, i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(bytes), two));
      }
    }
    const out = scores + ((y * columns) << 2);
    const s0 = v128.load(running);
    const s1 = v128.load(running, 16);
    const q0 = v128.load(running, 32);
    const q1 = v128.load(running, 48);
    v128.store(out, fourScores(s0, q0, p0, share, templateSum, norm));
    v128.store(out, fourScores(s1, q1, p1, share, templateSum, norm), 16);
    if (y + 1 == rows) break;
    addRow(top, width, -1);
    addRow(top + height * stride, width, 1);
  }
}

// @ts-ignore: decorator
@inline
function total(v: v128): i64 {
  const wide = i64x2.add(i64x2.extend_low_i32x4_s(v), i64x2.extend_high_i32x4_s(v));
  return i64x2.extract_lane(wide, 0) + i64x2.extract_lane(wide, 1);
}

/**
 * Correlation of a packed template with the picture for every position of a grid, its first at `src`: rows of
 * floats, -1 to 1; a flat place scores 0. The last vector of a row may read up to 14 bytes beyond the box.
 */
export function correlate(
  template: usize,
  width: i32,
  height: i32,
  src: usize,
  stride: i32,
  columns: i32,
  rows: i32,
  scores: usize,
): void {
  if (columns >= 8 && width * height <= mostAtOnce) {
    // The last eight reach back over some that are done.
    for (let done = 0; done < columns; done += 8) {
      const x = min(done, columns - 8);
      correlateEight(template, width, height, src + x, stride, columns, rows, scores + (x << 2));
    }
    return;
  }
  const padded = (width + 7) & ~7;
  const whole = width & ~7;
  const tail = v128.load(tails + ((width & 7) << 4));
  const levels = template + header;
  const templateSum = load<f64>(template);
  const norm = load<f64>(template + 8);
  const share = 1.0 / <f64>(width * height);
  const ones = i16x8.splat(1);
  // Squares of this many rows stay within 32 bits.
  const stretch = max(1, 128000 / padded);
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) {
      let sum: i64 = 0;
      let squares: i64 = 0;
      let products: i64 = 0;
      for (let from = 0; from < height; from += stretch) {
        const to = min(from + stretch, height);
        let s = i32x4.splat(0);
        let q = i32x4.splat(0);
        let p = i32x4.splat(0);
        for (let j = from; j < to; j++) {
          const at = src + (y + j) * stride + x;
          const mine = levels + ((j * padded) << 1);
          for (let i = 0; i < whole; i += 8) {
            const seen = v128.load8x8_u(at + i);
            s = i32x4.add(s, i32x4.dot_i16x8_s(seen, ones));
            q = i32x4.add(q, i32x4.dot_i16x8_s(seen, seen));
            p = i32x4.add(p, i32x4.dot_i16x8_s(seen, v128.load(mine + (i << 1))));
          }
          if (whole < padded) {
            const seen = v128.and(v128.load8x8_u(at + whole), tail);
            s = i32x4.add(s, i32x4.dot_i16x8_s(seen, ones));
            q = i32x4.add(q, i32x4.dot_i16x8_s(seen, seen));
            p = i32x4.add(p, i32x4.dot_i16x8_s(seen, v128.load(mine + (whole << 1))));
          }
        }
        sum += total(s);
        squares += total(q);
        products += total(p);
      }
      const mean = <f64>sum * share;
      const variance = <f64>squares - <f64>sum * mean;
      const product = <f64>products - templateSum * mean;
      const spread = norm * Math.sqrt(max(variance, 0));
      store<f32>(scores + ((y * columns + x) << 2), spread > 1e-3 ? <f32>(product / spread) : 0);
    }
  }
}

/** Sixteen-bit masks that keep the first 0 to 7 of eight. */
const tails: usize = memory.data<i16>([
  -1, -1, -1, -1, -1, -1, -1, -1,
  -1, 0, 0, 0, 0, 0, 0, 0,
  -1, -1, 0, 0, 0, 0, 0, 0,
  -1, -1, -1, 0, 0, 0, 0, 0,
  -1, -1, -1, -1, 0, 0, 0, 0,
  -1, -1, -1, -1, -1, 0, 0, 0,
  -1, -1, -1, -1, -1, -1, 0, 0,
  -1, -1, -1, -1, -1, -1, -1, 0,
], 16);
