// The demo's film: layers seen through a moving lens. Every layer is a bitmap of premultiplied RGBA; a pixel
// with colour but no alpha adds light. Rows are gathered front to back, several moments a frame, so that
// movement blurs as behind a shutter.

// A layer's record: bitmap, width, height, row spans (two i32 a row: first and last column with anything
// in it), then for each moment six f64 that lead from screen to layer.
const headBytes: usize = 16;
const momentBytes: usize = 48;

// @ts-ignore: decorator
@inline
function sample(bitmap: usize, width: i32, u: i32, v: i32): v128 {
  const at = bitmap + (<usize>((v >> 16) * width + (u >> 16)) << 2);
  const fx = i16x8.splat(<i16>((u & 0xffff) >> 1));
  const fy = i16x8.splat(<i16>((v & 0xffff) >> 1));
  const top = i16x8.extend_low_i8x16_u(v128.load64_zero(at));
  const bottom = i16x8.extend_low_i8x16_u(v128.load64_zero(at + (<usize>width << 2)));
  const rise = i16x8.shl(i16x8.sub(bottom, top), 7);
  const column = i16x8.add(i16x8.shl(top, 7), i16x8.q15mulr_sat_s(rise, fy));
  const right = v128.shuffle<i64>(column, column, 1, 0);
  const mixed = i16x8.add(column, i16x8.q15mulr_sat_s(i16x8.sub(right, column), fx));
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

function gather(layer: usize, moment: i32, row: usize, width: i32, y: f64): void {
  const bitmap = <usize>load<i32>(layer);
  const w = load<i32>(layer, 4);
  const h = load<i32>(layer, 8);
  const spans = <usize>load<i32>(layer, 12);
  const m = layer + headBytes + <usize>moment * momentBytes;
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

  const take = f32x4(1.0 / 128.0, 1.0 / 128.0, 1.0 / 128.0, -1.0 / (128.0 * 255.0));
  const one: f64 = 65536.0;
  for (let x = from; x < to; x++) {
    const at = row + (<usize>x << 4);
    const light = v128.load(at);
    const through = f32x4.extract_lane(light, 3);
    if (through < 0.004) continue;
    const u = <i32>((u0 + du * <f64>x) * one);
    const v = <i32>((v0 + dv * <f64>x) * one);
    const colour = f32x4.mul(sample(bitmap, w, u, v), take);
    v128.store(at, f32x4.add(light, f32x4.mul(f32x4.splat(through), colour)));
  }
}

function scatter(seed: u32): u32 {
  seed ^= seed >> 16;
  seed *= 0x7feb352d;
  seed ^= seed >> 15;
  seed *= 0x846ca68b;
  return seed ^ (seed >> 16);
}

/**
 * One picture as 8-bit Y plane and two full-size chroma planes (BT.709, limited range). `layers` points at
 * `count` records, nearest first; `row` and `sum` are scratch of 16 bytes a pixel.
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
      for (let i = 0; i < count; i++) gather(layers + <usize>i * record, moment, row, width, <f64>y + 0.5);
      for (let x = 0; x < width; x++) {
        const at = <usize>x << 4;
        v128.store(sum + at, f32x4.add(v128.load(sum + at), v128.load(row + at)));
      }
    }
    for (let x = 0; x < width; x++) {
      const dx = <f32>x - cx;
      const dy = <f32>y - cy;
      const level = (gain * (1 - <f32>0.32 * ((dx * dx + dy * dy) / far))) / <f32>moments;
      const light = f32x4.min(
        f32x4.mul(v128.load(sum + (<usize>x << 4)), f32x4.splat(level)),
        f32x4.splat(255),
      );
      const r = f32x4.extract_lane(light, 0);
      const g = f32x4.extract_lane(light, 1);
      const b = f32x4.extract_lane(light, 2);
      const bits = scatter(<u32>(y * width + x) ^ (<u32>seed * 0x9e3779b9));
      const speck =
        (<f32>((bits & 255) + ((bits >> 8) & 255) + ((bits >> 16) & 255) + (bits >> 24)) - 510) * noise;
      const luma = <f32>0.2126 * r + <f32>0.7152 * g + <f32>0.0722 * b;
      const at = target + <usize>(y * width + x);
      store<u8>(at, <u8>max<f32>(min<f32>(16.5 + luma * (219.0 / 255.0) + speck, 235), 16));
      store<u8>(at + plane, <u8>max<f32>(min<f32>(128.5 + ((b - luma) / 1.8556) * (224.0 / 255.0), 240), 16));
      store<u8>(at + 2 * plane, <u8>max<f32>(min<f32>(128.5 + ((r - luma) / 1.5748) * (224.0 / 255.0), 240), 16));
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
