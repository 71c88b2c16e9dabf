import { apply, type Mat3 } from '../../geometry/mat3.js';
import type { Plane } from '../../track/image/plane.js';
import type { Bounds, Interpolation } from '../kernels.js';
import { sampleCubic } from './cubic.js';

// The kernels of registration in plain TypeScript: what the fast ones must come to. Rows of a template are
// padded to a multiple of four; a level that is not a number has no say.

const sampleLinear = ({ data, stride }: Plane, x: number, y: number): number => {
  const ix = Math.floor(x - 0.5);
  const iy = Math.floor(y - 0.5);
  const at = iy * stride + ix;
  const [t, s] = [x - 0.5 - ix, y - 0.5 - iy];
  const top = data[at] + t * (data[at + 1] - data[at]);
  const bottom = data[at + stride] + t * (data[at + stride + 1] - data[at + stride]);
  return top + s * (bottom - top);
};

/** Grey levels under a box of odd size about its centre, carried into the picture by `m`; NaN outside `bounds`. */
export function samplePatch(
  picture: Plane,
  bounds: Bounds,
  width: number,
  height: number,
  m: Mat3,
  interpolation: Interpolation,
): Float32Array {
  const columns = (width + 3) & ~3;
  const seen = new Float32Array(columns * height).fill(NaN);
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++)
      seen[j * columns + i] = sample(picture, bounds, i - (width >> 1), j - (height >> 1), m, interpolation);
  return seen;
}

/** The same for runs of eight pixels side by side, each from a column and a row from the centre: u, v; u, v; … */
export const sampleRuns = (
  picture: Plane,
  bounds: Bounds,
  gradientRuns: readonly number[],
  m: Mat3,
  interpolation: Interpolation,
): Float32Array =>
  Float32Array.from({ length: 4 * gradientRuns.length }, (_, i) => {
    const at = 2 * Math.floor(i / 8);
    return sample(picture, bounds, gradientRuns[at] + (i % 8), gradientRuns[at + 1], m, interpolation);
  });

function sample(
  picture: Plane,
  bounds: Bounds,
  u: number,
  v: number,
  m: Mat3,
  interpolation: Interpolation,
): number {
  const { x, y } = apply(m, u, v);
  const inside = x >= bounds.left && x <= bounds.right && y >= bounds.top && y <= bounds.bottom;
  if (!inside || m[6] * u + m[7] * v + m[8] <= 0) return NaN;
  return interpolation === 'cubic' ? sampleCubic(picture, x, y) : sampleLinear(picture, x, y);
}

/** Sums over the pixels seen: count, level, seen, level², level·seen, seen²; `shift` is taken off what was seen. */
export function moments(level: Float32Array, seen: Float32Array, shift: number): number[] {
  const sums = [0, 0, 0, 0, 0, 0];
  level.forEach((a, i) => {
    const b = seen[i] - shift;
    if (Number.isNaN(a + b)) return;
    [1, a, b, a * a, a * b, b * b].forEach((value, k) => (sums[k] += value));
  });
  return sums;
}

/** Zero-mean normalised correlation over the pixels seen, each with its weight. */
export function correlation(level: Float32Array, seen: Float32Array, weight?: Float32Array): number {
  const known = Array.from(level, (a, i) => ({ a, b: seen[i], w: weight ? weight[i] : 1 })).filter(
    ({ a, b }) => !Number.isNaN(a + b),
  );
  const mean = (of: (p: { a: number; b: number }) => number): number =>
    known.reduce((sum, p) => sum + p.w * of(p), 0) / known.reduce((sum, p) => sum + p.w, 0);
  const [a, b] = [mean((p) => p.a), mean((p) => p.b)];
  const spread = mean((p) => (p.a - a) ** 2) * mean((p) => (p.b - b) ** 2);
  return mean((p) => (p.a - a) * (p.b - b)) / Math.sqrt(spread);
}

/** The middle one of the sizes of the residuals seen − gain·level − bias. */
export function medianResidual(level: Float32Array, seen: Float32Array, gain: number, bias: number): number {
  const sizes = Array.from(level, (l, i) => Math.abs(seen[i] - gain * l - bias)).filter(
    (r) => !Number.isNaN(r),
  );
  sizes.sort((a, b) => a - b);
  return sizes[Math.max(Math.ceil(sizes.length / 2) - 1, 0)];
}

/**
 * One Gauss-Newton step's sums with Cauchy weights, a half at `spread` or at what `slack` pixels of shift make on
 * slopes (rows 2 and 3 of `descent` are the gradients): right-hand sides, weight, weight·error², normal matrix. When
 * `squared`, the equations take the square of each weight.
 */
export function gather(
  descent: Float32Array,
  n: number,
  level: Float32Array,
  seen: Float32Array,
  exposure: { gain: number; bias: number; spread: number; slack: number },
  squared: boolean,
): { right: number[]; weight: number; squares: number; normal: number[] } {
  const right = new Array<number>(n).fill(0);
  const normal = new Array<number>((n * (n + 1)) / 2).fill(0);
  let weight = 0;
  let squares = 0;
  for (let i = 0; i < level.length; i++) {
    const residual = seen[i] - exposure.gain * level[i] - exposure.bias;
    if (Number.isNaN(residual)) continue;
    const slope = Math.hypot(descent[2 * level.length + i], descent[3 * level.length + i]);
    const width = Math.hypot(exposure.spread, exposure.slack * exposure.gain * slope);
    const w = 1 / (1 + (residual / width) ** 2);
    const error = residual / exposure.gain;
    const pull = squared ? w * w : w;
    weight += w;
    squares += w * error * error;
    for (let j = 0, at = 0; j < n; j++) {
      right[j] += pull * error * descent[j * level.length + i];
      for (let k = j; k < n; k++, at++)
        normal[at] += pull * descent[j * level.length + i] * descent[k * level.length + i];
    }
  }
  return { right, weight, squares, normal };
}

/**
 * What each of `across`·`down` blocks asks for by itself: weighted right-hand sides, and xx, xy, yy of its normal
 * matrix for shift, n + 3 a block.
 */
export function blockSums(
  descent: Float32Array,
  n: number,
  height: number,
  [across, down]: readonly [number, number],
  level: Float32Array,
  seen: Float32Array,
  { gain, bias }: { gain: number; bias: number },
  weight: Float32Array,
): number[] {
  const sums = new Array<number>((n + 3) * across * down).fill(0);
  const vectors = level.length / height / 4;
  const columns = Array.from({ length: across + 1 }, (_, i) => Math.floor((i * vectors) / across));
  for (let i = 0; i < level.length; i++) {
    const y = Math.floor(i / (4 * vectors));
    const vector = Math.floor((i - y * 4 * vectors) / 4);
    const column = columns.findIndex((from, c) => vector >= from && vector < columns[c + 1]);
    const at = (n + 3) * (Math.floor((y * down) / height) * across + column);
    const [gx, gy] = [descent[2 * level.length + i], descent[3 * level.length + i]];
    [gx * gx, gx * gy, gy * gy].forEach((product, k) => (sums[at + n + k] += weight[i] * product));
    const residual = seen[i] - gain * level[i] - bias;
    if (Number.isNaN(residual)) continue;
    for (let j = 0; j < n; j++)
      sums[at + j] += ((weight[i] * residual) / gain) * descent[j * level.length + i];
  }
  return sums;
}
