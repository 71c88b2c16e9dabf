// The demo's film: layers seen through a moving lens. Every layer is a bitmap of premultiplied RGBA; a pixel
// with colour but no alpha adds light. Rows are gathered front to back, several moments a frame, so that
// movement blurs as behind a shutter.

// A layer's record: bitmap, width, height, row spans (two i32 a row: first and last column with anything
// in it), then for each moment nine f64 that lead from screen to layer.
const headBytes: usize = 16;
const momentBytes: usize = 72;

// Two pixels of the upper row and two of the lower, mixed; the fractions run from 0 to 32767.
// @ts-ignore: decorator
@inline
function mix(upper: u64, lower: u64, fu: i32, fv: i32): v128 {
  const top = i16x8.extend_low_i8x16_u(i64x2.splat(upper));
  const bottom = i16x8.extend_low_i8x16_u(i64x2.splat(lower));
  const rise = i16x8.shl(i16x8.sub(bottom, top), 7);
  const column = i16x8.add(i16x8.shl(top, 7), i16x8.q15mulr_sat_s(rise, i16x8.splat(<i16>fv)));
  const right = v128.shuffle<i64>(column, column, 1, 0);
  const mixed = i16x8.add(column, i16x8.q15mulr_sat_s(i16x8.sub(right, column), i16x8.splat(<i16>fu)));
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(mixed));
}

/** Narrows [from, to) to where start + step·x stays within 0 … limit. */
function clip(start: f64, step: f64, limit: f64, from: i32, to: i32): i64 {
  if (Math.abs(step) < 1e-12) {
    if (start < 0.0 || start >= limit) to = from;
  } else {
    let a = (0.0 - start) / step;
    let b = (limit - start) / step;
    if (a > b) {
      const c = a;
      a = b;
      b = c;
    }
    from = max(from, <i32>Math.ceil(max(a, -1e6)));
    to = min(to, <i32>Math.floor(min(b, 1e6)) + 1);
    while (to > from && (start + step * <f64>(to - 1) >= limit || start + step * <f64>(to - 1) < 0.0)) to--;
    while (to > from && (start + step * <f64>from >= limit || start + step * <f64>from < 0.0)) from++;
  }
  return (<i64>from << 32) | <i64>(<u32>max(to, from));
}

/** The columns of the row being gathered that are not yet covered from side to side: what lies behind the others is unseen. */
let openFrom: i32 = 0;
let openTo: i32 = 0;

// @ts-ignore: decorator
@inline
function isCovered(row: usize, x: i32): bool {
  return load<f32>(row + (<usize>x << 4), 12) < covered;
}

/** So little light comes through that what is behind does not show. */
// @ts-ignore: decorator
@inline const covered: f32 = 0.004;

/** A pixel of a layer under one of the screen, where some light still comes through. */
// @ts-ignore: decorator
@inline
function lay(bitmap: usize, w: i32, u: i64, v: i64, at: usize, take: v128): void {
  const pixel = bitmap + (<usize>(<i32>(v >> 32) * w + <i32>(u >> 32)) << 2);
  const upper = load<u64>(pixel);
  const lower = load<u64>(pixel + (<usize>w << 2));
  if ((upper | lower) == 0) return;
  const light = v128.load(at);
  const through = f32x4.extract_lane(light, 3);
  if (through < covered) return;
  const colour = f32x4.mul(mix(upper, lower, <i32>(u >> 17) & 0x7fff, <i32>(v >> 17) & 0x7fff), take);
  v128.store(at, f32x4.add(light, f32x4.mul(f32x4.splat(through), colour)));
}

/** Positions are in 32.32 fixed point: exact to a millionth of a pixel along any row. */
// @ts-ignore: decorator
@inline const one: f64 = 4294967296.0;

/** A layer in perspective: every pixel is divided by itself. */
function gatherInPerspective(bitmap: usize, w: i32, h: i32, m: usize, row: usize, y: f64, take: v128): void {
  const du = load<f64>(m);
  const dv = load<f64>(m, 24);
  const dw = load<f64>(m, 48);
  const u0 = load<f64>(m, 8) * y + load<f64>(m, 16);
  const v0 = load<f64>(m, 32) * y + load<f64>(m, 40);
  const w0 = load<f64>(m, 56) * y + load<f64>(m, 64);
  for (let x = openFrom; x < openTo; x++) {
    const across = <f64>x + 0.5;
    const depth = w0 + dw * across;
    if (depth <= 0) continue;
    const u = (u0 + du * across) / depth - 0.5;
    const v = (v0 + dv * across) / depth - 0.5;
    if (u < 0 || v < 0 || u >= <f64>(w - 1) || v >= <f64>(h - 1)) continue;
    lay(bitmap, w, <i64>(u * one), <i64>(v * one), row + (<usize>x << 4), take);
  }
}

/** What is covered already at the sides need not be looked at for what lies behind. */
// @ts-ignore: decorator
@inline
function narrowOpen(row: usize): void {
  while (openFrom < openTo && isCovered(row, openFrom)) openFrom++;
  while (openFrom < openTo && isCovered(row, openTo - 1)) openTo--;
}

function gather(layer: usize, moment: i32, row: usize, width: i32, y: f64): void {
  const bitmap = <usize>load<i32>(layer);
  const w = load<i32>(layer, 4);
  const h = load<i32>(layer, 8);
  const spans = <usize>load<i32>(layer, 12);
  const m = layer + headBytes + <usize>moment * momentBytes;
  const take = f32x4(1.0 / 128.0, 1.0 / 128.0, 1.0 / 128.0, -1.0 / (128.0 * 255.0));
  if (load<f64>(m, 48) != 0 || load<f64>(m, 56) != 0) {
    gatherInPerspective(bitmap, w, h, m, row, y, take);
    narrowOpen(row);
    return;
  }
  const du = load<f64>(m);
  const dv = load<f64>(m, 24);
  const u0 = du * 0.5 + load<f64>(m, 8) * y + load<f64>(m, 16) - 0.5;
  const v0 = dv * 0.5 + load<f64>(m, 32) * y + load<f64>(m, 40) - 0.5;
  let range = clip(v0, dv, <f64>(h - 1), 0, width);
  range = clip(u0, du, <f64>(w - 1), <i32>(range >> 32), <i32>range);
  let from = <i32>(range >> 32);
  let to = <i32>range;
  if (to <= from) return;

  // Leave out what is empty on all rows that this line of the screen crosses.
  const va = <i32>(v0 + dv * <f64>from);
  const vb = <i32>(v0 + dv * <f64>(to - 1));
  let left = i32.MAX_VALUE;
  let right = -1;
  for (let r = min(va, vb); r <= min(max(va, vb) + 1, h - 1); r++) {
    left = min(left, load<i32>(spans + (<usize>r << 3)));
    right = max(right, load<i32>(spans + (<usize>r << 3), 4));
  }
  if (right < 0) return;
  range = clip(u0 - <f64>left + 1.0, du, <f64>(right - left) + 2.0, from, to);
  from = <i32>(range >> 32);
  to = <i32>range;

  let u = <i64>((u0 + du * <f64>from) * one);
  let v = <i64>((v0 + dv * <f64>from) * one);
  const uStep = <i64>(du * one);
  const vStep = <i64>(dv * one);
  const skipped = max(openFrom - from, 0);
  u += uStep * skipped;
  v += vStep * skipped;
  from += skipped;
  to = min(to, openTo);
  for (let x = from; x < to; x++, u += uStep, v += vStep) lay(bitmap, w, u, v, row + (<usize>x << 4), take);
  narrowOpen(row);
}

// @ts-ignore: decorator
@inline
function scatter(seed: v128): v128 {
  seed = v128.xor(seed, i32x4.shr_u(seed, 16));
  seed = i32x4.mul(seed, i32x4.splat(0x7feb352d));
  seed = v128.xor(seed, i32x4.shr_u(seed, 15));
  seed = i32x4.mul(seed, i32x4.splat(0x846ca68b));
  return v128.xor(seed, i32x4.shr_u(seed, 16));
}

/** Four values, clamped and rounded down, as four bytes. */
// @ts-ignore: decorator
@inline
function store4(at: usize, values: v128, low: f32, high: f32): void {
  const whole = i32x4.trunc_sat_f32x4_s(f32x4.pmax(f32x4.pmin(values, f32x4.splat(high)), f32x4.splat(low)));
  const half = i16x8.narrow_i32x4_s(whole, whole);
  store<u32>(at, i32x4.extract_lane(i8x16.narrow_i16x8_u(half, half), 0));
}

/**
 * One picture as 8-bit Y plane and two full-size chroma planes (BT.709, limited range). `layers` points at
 * `count` records, nearest first; `row` and `sum` are scratch of 16 bytes a pixel. The width is a multiple of four.
 */
export function exposePicture(
  layers: usize, count: i32, moments: i32, row: usize, sum: usize, target: usize,
  width: i32, height: i32, gain: f32, grain: f32, seed: i32,
): void {
  const record = headBytes + <usize>moments * momentBytes;
  const clear = f32x4(0, 0, 0, 1);
  const plane = <usize>(width * height);
  const cx = <f32>width / 2;
  const cy = <f32>height / 2;
  const far = cx * cx + cy * cy;
  const noise = grain / 147.8;
  for (let y = 0; y < height; y++) {
    memory.fill(sum, 0, <usize>width << 4);
    for (let moment = 0; moment < moments; moment++) {
      for (let x = 0; x < width; x++) v128.store(row + (<usize>x << 4), clear);
      openFrom = 0;
      openTo = width;
      for (let i = 0; i < count && openFrom < openTo; i++) gather(layers + <usize>i * record, moment, row, width, <f64>y + 0.5);
      for (let x = 0; x < width; x++) {
        const at = <usize>x << 4;
        v128.store(sum + at, f32x4.add(v128.load(sum + at), v128.load(row + at)));
      }
    }
    const dy = <f32>y - cy;
    for (let x = 0; x < width; x += 4) {
      const dx = f32x4.sub(f32x4.add(f32x4.splat(<f32>x), f32x4(0, 1, 2, 3)), f32x4.splat(cx));
      const away = f32x4.add(f32x4.mul(dx, dx), f32x4.splat(dy * dy));
      const level = f32x4.mul(
        f32x4.sub(f32x4.splat(1), f32x4.mul(away, f32x4.splat(<f32>0.32 / far))),
        f32x4.splat(gain / <f32>moments),
      );
      const from = sum + (<usize>x << 4);
      const ab = v128.load(from);
      const cd = v128.load(from, 16);
      const ef = v128.load(from, 32);
      const gh = v128.load(from, 48);
      const top = f32x4.splat(255);
      const rg = v128.shuffle<f32>(ab, cd, 0, 4, 1, 5);
      const rg2 = v128.shuffle<f32>(ef, gh, 0, 4, 1, 5);
      const b01 = v128.shuffle<f32>(ab, cd, 2, 6, 2, 6);
      const b23 = v128.shuffle<f32>(ef, gh, 2, 6, 2, 6);
      const r = f32x4.pmin(f32x4.mul(v128.shuffle<f32>(rg, rg2, 0, 1, 4, 5), level), top);
      const g = f32x4.pmin(f32x4.mul(v128.shuffle<f32>(rg, rg2, 2, 3, 6, 7), level), top);
      const b = f32x4.pmin(f32x4.mul(v128.shuffle<f32>(b01, b23, 0, 1, 4, 5), level), top);
      const place = i32x4.add(i32x4.splat(y * width + x), i32x4(0, 1, 2, 3));
      const bits = scatter(v128.xor(place, i32x4.splat(<i32>(<u32>seed * 0x9e3779b9))));
      // Four bytes added up are close enough to a normal distribution.
      const byte = i32x4.splat(255);
      const dice = i32x4.add(
        i32x4.add(v128.and(bits, byte), v128.and(i32x4.shr_u(bits, 8), byte)),
        i32x4.add(v128.and(i32x4.shr_u(bits, 16), byte), i32x4.shr_u(bits, 24)),
      );
      const speck = f32x4.mul(f32x4.convert_i32x4_s(i32x4.sub(dice, i32x4.splat(510))), f32x4.splat(noise));
      const luma = f32x4.add(
        f32x4.add(f32x4.mul(r, f32x4.splat(0.2126)), f32x4.mul(g, f32x4.splat(0.7152))),
        f32x4.mul(b, f32x4.splat(0.0722)),
      );
      const at = target + <usize>(y * width + x);
      const bright = f32x4.add(f32x4.mul(luma, f32x4.splat(219.0 / 255.0)), f32x4.splat(16.5));
      store4(at, f32x4.add(bright, speck), 16, 235);
      const middle = f32x4.splat(128.5);
      store4(at + plane, f32x4.add(f32x4.mul(f32x4.sub(b, luma), f32x4.splat(224.0 / 255.0 / 1.8556)), middle), 16, 240);
      store4(at + 2 * plane, f32x4.add(f32x4.mul(f32x4.sub(r, luma), f32x4.splat(224.0 / 255.0 / 1.5748)), middle), 16, 240);
    }
  }
}

/** Halves a chroma plane both ways; samples sit level with the left pixel of each pair. */
export function halveChroma(source: usize, target: usize, width: i32, height: i32): void {
  const columns = width >> 1;
  for (let y = 0; y < height >> 1; y++) {
    const a = source + <usize>(2 * y * width);
    const b = a + <usize>width;
    for (let x = 0; x < columns; x++) {
      const before = <usize>max(2 * x - 1, 0);
      const at = <usize>(2 * x);
      const total =
        <u32>load<u8>(a + before) + <u32>load<u8>(b + before) +
        2 * (<u32>load<u8>(a + at) + <u32>load<u8>(b + at)) +
        <u32>load<u8>(a + at + 1) + <u32>load<u8>(b + at + 1);
      store<u8>(target + <usize>(y * columns + x), <u8>((total + 4) >> 3));
    }
  }
}
