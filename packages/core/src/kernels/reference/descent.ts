import { invert, multiply, type Mat3 } from '../../geometry/mat3.js';
import { solveSymmetric } from '../../geometry/solve-symmetric.js';
import type { Plane } from '../../track/image/plane.js';
import { increment, type WarpModel } from '../../geometry/warp-model.js';
import type { Bounds } from '../kernels.js';
import { gather, medianResidual, moments, samplePatch, sampleRuns } from './registration.js';

// The way of a registration in plain TypeScript: what the fast one must come to. What its numbers are for is said
// there.

const exposureRows = 2;
const { max, min, hypot, sqrt, abs } = Math;

export interface Descent {
  descent: Float32Array;
  level: Float32Array;
  n: number;
  width: number;
  height: number;
  spacing: number;
  /** Where runs of eight begin, if it is made of them: column and row from the centre. */
  gradientRuns?: number[];
  mean: number;
  model: WarpModel;
  reach: number;
  aspect: number;
  /** Variance of the template's own noise. */
  grain: number;
  /** What holds motion other than shift to where it starts, n×n, for each unit of weight. */
  damping: Float64Array;
}

export interface Light {
  gain: number;
  bias: number;
}

export interface RegistrationResult extends Light {
  pose: Mat3;
  residual: number;
  variance: number;
  gathered: number;
  /** Its last step was as short as was asked. */
  settled: boolean;
}

function farAhead(last: ArrayLike<number>, step: ArrayLike<number>): number {
  let [both, squares, mine] = [0, 0, 0];
  for (let i = exposureRows; i < step.length; i++) {
    both += last[i] * step[i];
    squares += last[i] * last[i];
    mine += step[i] * step[i];
  }
  return both / sqrt(squares * mine) > 0.9 ? min(1 / max(1 - both / squares, 1 / 8), 8) : 1;
}

function expectedError(normal: ArrayLike<number>, n: number, variance: number): number {
  const [x, y] = [exposureRows, exposureRows + 1];
  const [xx, xy, yy] = [normal[x * n + x], normal[x * n + y], normal[y * n + y]];
  const least = (xx + yy) / 2 - hypot((xx - yy) / 2, xy);
  return least > 0 ? sqrt((4 * variance) / least) : 0;
}

/**
 * How the way is gone; `matrix` is a normal matrix that serves all the way, the sum of its weights, and the residual that is to
 * be expected, or 0.
 */
export interface DescentOptions {
  most: number;
  close: boolean;
  sameLight: boolean;
  enough: number;
  matrix?: { normal: Float64Array; gathered: number; residual: number };
}

/** Null when it does not settle near its start, or when less than half of the box lies in the picture. */
export function descend(
  {
    descent,
    level,
    n,
    width,
    height,
    spacing,
    gradientRuns,
    mean,
    model,
    reach,
    aspect,
    grain,
    damping,
  }: Descent,
  picture: Plane,
  bounds: Bounds,
  start: Mat3,
  known: Light | null,
  { most, close, sameLight, enough, matrix }: DescentOptions,
): RegistrationResult | null {
  const normal = matrix?.normal ?? new Float64Array(n * n);
  let pose = start;
  let light: Light = { gain: 1, bias: mean };
  const spreadOf = (size: number): number => 2.385 * 1.4826 * max(size, 1.5);
  const left = close ? (matrix?.residual ?? 0) : 0;
  let [residual, spread, variance, gathered] = [
    left,
    left > 0 ? spreadOf(min(left, most)) : 0,
    0,
    matrix?.gathered ?? 1,
  ];
  let last: Float64Array | null = null;
  let [fine, closer, moved, stretch, held] = [close, 0, Infinity, 1, left > 0];
  let [squared, wasSquared, settled] = [false, false, false];
  let seen = level;
  const travelled = new Float64Array(n);
  for (let iteration = 0; iteration < 20; iteration++) {
    const m = multiply(pose, [spacing, 0, 0, 0, spacing, 0, 0, 0, 1]);
    const interpolation = fine ? 'cubic' : 'linear';
    seen = gradientRuns
      ? sampleRuns(picture, bounds, gradientRuns, m, interpolation)
      : samplePatch(picture, bounds, width, height, m, interpolation);
    const all = gradientRuns ? level.length : width * height;
    const inside = seen.filter((value) => value === value).length;
    if (inside * 2 < all) return null;
    const median = ({ gain, bias }: Light): number => medianResidual(level, seen, gain, bias);
    if (iteration === 0 && sameLight && known) light = known;
    else if (iteration === 0) {
      const [total, l, s, ll, ls] = moments(level, seen, mean);
      const gain = (ls - (l * s) / total) / (ll - (l * l) / total);
      const solved = { gain, bias: (s - gain * l) / total + mean };
      const asBright = known && held && abs((s - known.gain * l) / total + mean - known.bias) < max(left, 1);
      if (known && (asBright || !(gain > 0.02) || median(known) < median(solved))) light = known;
      else if (gain > 0.02) light = solved;
      else return null;
    }
    const { gain, bias } = light;
    if (!held && (fine || iteration % 3 === 0)) {
      residual = median(light);
      const next = spreadOf(fine ? min(residual, most) : residual);
      held = fine && next > 0.9 * spread;
      spread = next;
    }
    const whole = !matrix && (iteration === 0 || (fine && !last) || squared !== wasSquared);
    wasSquared = squared;
    const sums = gather(descent, n, level, seen, { gain, bias, spread, slack: fine ? 0.3 : 1.2 }, squared);
    variance = sums.squares / max(sums.weight, 1);
    squared = fine && sums.weight < 0.78 * inside;
    if (whole) {
      gathered = sums.weight;
      for (let i = 0, at = 0; i < n; i++)
        for (let j = i; j < n; j++) normal[i * n + j] = normal[j * n + i] = sums.normal[at++];
    }
    const noise = min(grain, (1.4826 ** 2 / 2) * (min(residual, most) / gain) ** 2);
    if (whole) {
      damping.forEach((value, i) => (normal[i] += value * gathered));
      normal[n + 1] -= noise * gathered;
    }
    sums.right[1] += noise * sums.weight;
    const right = sums.right.map((value, i) => {
      const held = travelled.reduce((sum, way, j) => sum + damping[i * n + j] * way, 0);
      return (value * gathered) / sums.weight - held * gathered;
    });
    const step = solveSymmetric(normal, right, n);
    if (!step) return null;
    const before = moved;
    moved = hypot(step[2], step[3]) + hypot(...step.subarray(4)) / 3;
    const leap = stretch === 1.2 && last && held ? farAhead(last, step) : 1;
    if (fine) last = step.slice();
    stretch = fine ? 1.2 * leap : 1;
    for (let i = 0; i < n; i++) travelled[i] += step[i] *= stretch;
    light = { gain: gain * (1 + step[1]), bias: bias + gain * step[0] };
    pose = multiply(pose, invert(increment(model, step.subarray(exposureRows), reach, aspect)));
    pose = pose.map((value) => value / pose[8]) as unknown as Mat3;
    const size = abs(pose[0] * pose[4] - pose[1] * pose[3]);
    const away = hypot(pose[2] - start[2], pose[5] - start[5]);
    if (!(away < 4 && size > 0.04 && size < 25 && light.gain > 0.02)) return null;
    settled = held && 0.25 * moved * leap < max(enough, 0.1 * expectedError(normal, n, variance));
    if (settled) break;
    if (fine && ++closer > 5 && moved > 0.8 * before) break;
    if (moved < 0.1 || iteration + 1 === 8) fine = true;
  }
  if (matrix) residual = medianResidual(level, seen, light.gain, light.bias);
  return { pose, ...light, residual, variance, gathered, settled };
}
