// Sub-pixel registration of a template against what was seen of it: how light differs, how far each pixel is to be
// believed, and the normal equations of one Gauss-Newton step. Rows of the template are padded to
// whole vectors; padding is seen as not-a-number and weighs nothing.

// @ts-ignore: decorator
@inline
function lanesSum(v: v128): f64 {
  const wide = f64x2.add(
    f64x2.promote_low_f32x4(v),
    f64x2.promote_low_f32x4(v128.shuffle<i32>(v, v, 2, 3, 0, 1)),
  );
  return f64x2.extract_lane(wide, 0) + f64x2.extract_lane(wide, 1);
}

/** Vectors summed in single precision before their total goes into a double. */
// @ts-ignore: decorator
@inline const stretch: i32 = 64;

/**
 * Weighted sums over the pixels that were seen, into six f64: weight, level, seen, level², level·seen, seen².
 * `shift` is taken off what was seen, to keep the digits. With `weight` 0 each pixel counts once.
 */
export function moments(level: usize, seen: usize, weight: usize, count: i32, shift: f32, out: usize): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const less = f32x4.splat(shift);
  let n: f64 = 0;
  let l: f64 = 0;
  let s: f64 = 0;
  let ll: f64 = 0;
  let ls: f64 = 0;
  let ss: f64 = 0;
  for (let from = 0; from < count; from += stretch << 2) {
    const to = min(from + (stretch << 2), count);
    let vn = zero;
    let vl = zero;
    let vs = zero;
    let vll = zero;
    let vls = zero;
    let vss = zero;
    for (let i = from; i < to; i += 4) {
      const raw = v128.load(seen + (i << 2));
      const all = v128.load(level + (i << 2));
      const ok = v128.and(f32x4.eq(raw, raw), f32x4.eq(all, all));
      const a = v128.and(all, ok);
      const b = v128.and(f32x4.sub(raw, less), ok);
      const w = v128.and(weight ? v128.load(weight + (i << 2)) : one, ok);
      const wa = f32x4.mul(w, a);
      const wb = f32x4.mul(w, b);
      vn = f32x4.add(vn, w);
      vl = f32x4.add(vl, wa);
      vs = f32x4.add(vs, wb);
      vll = f32x4.add(vll, f32x4.mul(wa, a));
      vls = f32x4.add(vls, f32x4.mul(wa, b));
      vss = f32x4.add(vss, f32x4.mul(wb, b));
    }
    n += lanesSum(vn);
    l += lanesSum(vl);
    s += lanesSum(vs);
    ll += lanesSum(vll);
    ls += lanesSum(vls);
    ss += lanesSum(vss);
  }
  store<f64>(out, n);
  store<f64>(out, l, 8);
  store<f64>(out, s, 16);
  store<f64>(out, ll, 24);
  store<f64>(out, ls, 32);
  store<f64>(out, ss, 40);
}

/**
 * The median size of the residuals seen − gain·level − bias, to a quarter of a grey level. `histogram` has room
 * for 257 u32.
 */
export function medianResidual(
  level: usize,
  seen: usize,
  count: i32,
  gain: f32,
  bias: f32,
  histogram: usize,
): f32 {
  memory.fill(histogram, 0, 257 * 4);
  const g = f32x4.splat(gain);
  const b = f32x4.splat(bias);
  const unseen = i32x4.splat(256);
  const most = f32x4.splat(255);
  const four = f32x4.splat(4);
  for (let i = 0; i < count; i += 4) {
    const r = f32x4.sub(f32x4.sub(v128.load(seen + (i << 2)), f32x4.mul(g, v128.load(level + (i << 2)))), b);
    const size = f32x4.pmin(f32x4.mul(f32x4.abs(r), four), most);
    const bin = v128.bitselect(i32x4.trunc_sat_f32x4_s(size), unseen, f32x4.eq(r, r));
    const b0 = histogram + (i32x4.extract_lane(bin, 0) << 2);
    store<u32>(b0, load<u32>(b0) + 1);
    const b1 = histogram + (i32x4.extract_lane(bin, 1) << 2);
    store<u32>(b1, load<u32>(b1) + 1);
    const b2 = histogram + (i32x4.extract_lane(bin, 2) << 2);
    store<u32>(b2, load<u32>(b2) + 1);
    const b3 = histogram + (i32x4.extract_lane(bin, 3) << 2);
    store<u32>(b3, load<u32>(b3) + 1);
  }
  const seenCount = <u32>count - load<u32>(histogram + 1024);
  let bin = 0;
  let below = load<u32>(histogram);
  while (below * 2 < seenCount) below += load<u32>(histogram + (++bin << 2));
  return (<f32>bin + 0.5) * 0.25;
}

// @ts-ignore: decorator
@inline
function addTo(at: usize, value: f64): void {
  store<f64>(at, load<f64>(at) + value);
}

/** Adds the sum of products of two rows, an odd number of vectors allowed. */
// @ts-ignore: decorator
@inline
function addDot(a: usize, b: usize, size: usize, at: usize): void {
  let even = f32x4.splat(0);
  let odd = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 32 <= size; i += 32) {
    even = f32x4.add(even, f32x4.mul(v128.load(a + i), v128.load(b + i)));
    odd = f32x4.add(odd, f32x4.mul(v128.load(a + i, 16), v128.load(b + i, 16)));
  }
  if (i < size) even = f32x4.add(even, f32x4.mul(v128.load(a + i), v128.load(b + i)));
  addTo(at, lanesSum(f32x4.add(even, odd)));
}

/** The same for three rows, `apart` from one to the next, at a time: one sum alone waits for its own last addition. */
function addThreeDots(a: usize, b: usize, apart: usize, size: usize, at: usize): void {
  const c = b + apart;
  const d = c + apart;
  let evenB = f32x4.splat(0);
  let oddB = f32x4.splat(0);
  let evenC = f32x4.splat(0);
  let oddC = f32x4.splat(0);
  let evenD = f32x4.splat(0);
  let oddD = f32x4.splat(0);
  let i: usize = 0;
  for (; i + 32 <= size; i += 32) {
    const even = v128.load(a + i);
    const odd = v128.load(a + i, 16);
    evenB = f32x4.add(evenB, f32x4.mul(even, v128.load(b + i)));
    oddB = f32x4.add(oddB, f32x4.mul(odd, v128.load(b + i, 16)));
    evenC = f32x4.add(evenC, f32x4.mul(even, v128.load(c + i)));
    oddC = f32x4.add(oddC, f32x4.mul(odd, v128.load(c + i, 16)));
    evenD = f32x4.add(evenD, f32x4.mul(even, v128.load(d + i)));
    oddD = f32x4.add(oddD, f32x4.mul(odd, v128.load(d + i, 16)));
  }
  if (i < size) {
    const even = v128.load(a + i);
    evenB = f32x4.add(evenB, f32x4.mul(even, v128.load(b + i)));
    evenC = f32x4.add(evenC, f32x4.mul(even, v128.load(c + i)));
    evenD = f32x4.add(evenD, f32x4.mul(even, v128.load(d + i)));
  }
  addTo(at, lanesSum(f32x4.add(evenB, oddB)));
  addTo(at + 8, lanesSum(f32x4.add(evenC, oddC)));
  addTo(at + 16, lanesSum(f32x4.add(evenD, oddD)));
}

/** The same for so many rows. */
// @ts-ignore: decorator
@inline
function addDots(a: usize, b: usize, apart: usize, rows: i32, size: usize, at: usize): void {
  for (; rows >= 3; rows -= 3, b += 3 * apart, at += 24) addThreeDots(a, b, apart, size, at);
  for (; rows > 0; rows--, b += apart, at += 8) addDot(a, b, size, at);
}

/** What a pixel counts in the equations. */
// @ts-ignore: decorator
@inline
function pullOf(weight: v128, squared: bool): v128 {
  return squared ? f32x4.mul(weight, weight) : weight;
}

/**
 * What one Gauss-Newton step needs. Residuals seen − gain·level − bias get Cauchy weights, a half at `spread`,
 * or, on slopes, at what `slack` pixels of shift would make; none where nothing was seen. With `squared` a pixel counts in the
 * equations by the square of its weight (Geman & McClure 1987): what is covered does not pull at all then. `descent` holds
 * n rows of `count` floats (how each pixel answers to each parameter). Into f64 at `out`: n right-hand sides, the sums of
 * weight and of weight·error², and, when `whole`, the upper triangle of the normal matrix row by row. Errors are in the
 * template's grey levels.
 * `scratch` has room for 2·4·stretch floats.
 */
export function gather(
  descent: usize,
  n: i32,
  count: i32,
  level: usize,
  seen: usize,
  gain: f32,
  bias: f32,
  spread: f32,
  slack: f32,
  whole: i32,
  squared: bool,
  weight: usize,
  scratch: usize,
  out: usize,
): void {
  memory.fill(out, 0, (n + 2 + (whole ? (n * (n + 1)) >> 1 : 0)) << 3);
  const g = f32x4.splat(gain);
  const scale = f32x4.splat(1 / gain);
  const b = f32x4.splat(bias);
  const narrow = f32x4.splat(spread * spread);
  const wide = f32x4.splat(slack * slack * gain * gain);
  const row = <usize>count << 2;
  const alongX = descent + (row << 1);
  const errors = scratch;
  const weighted = scratch + (stretch << 4);
  const ends = out + (<usize>n << 3);
  for (let from = 0; from < count; from += stretch << 2) {
    const size = <usize>(min(from + (stretch << 2), count) - from) << 2;
    const base = <usize>from << 2;
    let total = f32x4.splat(0);
    let squares = f32x4.splat(0);
    for (let i: usize = 0; i < size; i += 16) {
      const raw = f32x4.sub(v128.load(seen + base + i), f32x4.mul(g, v128.load(level + base + i)));
      const r = f32x4.sub(raw, b);
      const ok = f32x4.eq(r, r);
      const gx = v128.load(alongX + base + i);
      const gy = v128.load(alongX + row + base + i);
      const slope = f32x4.add(f32x4.mul(gx, gx), f32x4.mul(gy, gy));
      const s = f32x4.add(narrow, f32x4.mul(wide, slope));
      const w = v128.and(f32x4.div(s, f32x4.add(s, f32x4.mul(r, r))), ok);
      const e = v128.and(f32x4.mul(r, scale), ok);
      const we = f32x4.mul(w, e);
      v128.store(weight + base + i, w);
      v128.store(errors + i, squared ? f32x4.mul(w, we) : we);
      total = f32x4.add(total, w);
      squares = f32x4.add(squares, f32x4.mul(we, e));
    }
    addTo(ends, lanesSum(total));
    addTo(ends + 8, lanesSum(squares));
    addDots(errors, descent + base, row, n, size, out);
    if (!whole) continue;
    let at = ends + 16;
    for (let j = 0; j < n; j++) {
      const mine = descent + <usize>j * row + base;
      for (let i: usize = 0; i < size; i += 16)
        v128.store(weighted + i, f32x4.mul(pullOf(v128.load(weight + base + i), squared), v128.load(mine + i)));
      addDots(weighted, mine, row, n - j, size, at);
      at += <usize>(n - j) << 3;
    }
  }
}

/**
 * What each block of the template asks for by itself, with the weights that `gather` has left. The box is cut into
 * `across` by `down` blocks along its rows' vectors and its rows. n + 3 f64 a block at `out`: its right-hand sides,
 * and its part of the normal matrix for shift, xx, xy and yy. `scratch` has room for `count` floats.
 */
export function blockSums(
  descent: usize,
  n: i32,
  count: i32,
  height: i32,
  across: i32,
  down: i32,
  level: usize,
  seen: usize,
  gain: f32,
  bias: f32,
  weight: usize,
  scratch: usize,
  out: usize,
): void {
  const g = f32x4.splat(gain);
  const scale = f32x4.splat(1 / gain);
  const b = f32x4.splat(bias);
  const zero = f32x4.splat(0);
  const size = <usize>count << 2;
  for (let i: usize = 0; i < size; i += 16) {
    const r = f32x4.sub(f32x4.sub(v128.load(seen + i), f32x4.mul(g, v128.load(level + i))), b);
    const e = v128.and(f32x4.mul(r, scale), f32x4.eq(r, r));
    v128.store(scratch + i, f32x4.mul(v128.load(weight + i), e));
  }
  const row = <usize>(count / height) << 2;
  const vectors = count / height >> 2;
  const alongX = descent + (size << 1);
  const alongY = alongX + size;
  for (let block = 0; block < across * down; block++, out += <usize>(n + 3) << 3) {
    const line = block / across;
    const column = block % across;
    const top = <usize>((line * height + down - 1) / down) * row;
    const bottom = <usize>(((line + 1) * height + down - 1) / down) * row;
    const left = <usize>((column * vectors) / across) << 4;
    const right = <usize>(((column + 1) * vectors) / across) << 4;
    for (let j = 0; j < n; j++) {
      const mine = descent + <usize>j * size;
      let sum = zero;
      for (let y = top; y < bottom; y += row)
        for (let i = y + left, end = y + right; i < end; i += 16)
          sum = f32x4.add(sum, f32x4.mul(v128.load(scratch + i), v128.load(mine + i)));
      store<f64>(out + (<usize>j << 3), lanesSum(sum));
    }
    let xx = zero;
    let xy = zero;
    let yy = zero;
    for (let y = top; y < bottom; y += row)
      for (let i = y + left, end = y + right; i < end; i += 16) {
        const w = v128.load(weight + i);
        const gx = v128.load(alongX + i);
        const gy = v128.load(alongY + i);
        const wx = f32x4.mul(w, gx);
        xx = f32x4.add(xx, f32x4.mul(wx, gx));
        xy = f32x4.add(xy, f32x4.mul(wx, gy));
        yy = f32x4.add(yy, f32x4.mul(f32x4.mul(w, gy), gy));
      }
    store<f64>(out + (<usize>n << 3), lanesSum(xx));
    store<f64>(out + (<usize>n << 3), lanesSum(xy), 8);
    store<f64>(out + (<usize>n << 3), lanesSum(yy), 16);
  }
}
