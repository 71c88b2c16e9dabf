import { samplePatch } from '../image/patch.js';
import type { Plane } from '../image/plane.js';
import type { Template, Turn } from './template.js';

/** What the box may do besides shifting. */
export type Shape = 'shift' | 'similarity';

export interface Fit {
  /** Where the template's centre lies in the picture, corner-origin pixels. */
  x: number;
  y: number;
  turn: Turn;
  /** Zero-mean normalised correlation of template and picture under the fit, −1 to 1. */
  score: number;
}

const maxIterations = 20;
/** Steps shorter than this, in pixels at the box's corner, end the search; shorter than `nearly`, it looks closer. */
const settled = 0.01;
const nearly = 0.08;

/**
 * Sub-pixel registration of a template by inverse-compositional Gauss-Newton (Baker & Matthews 2004) with
 * gain and bias removed by normalisation, and Cauchy weights (scale from the median residual) so that a
 * part of the box that is covered does not pull. Returns null when it does not settle near the start, or
 * when less than half of the box lies in the picture.
 */
export function refine(template: Template, picture: Plane, start: Fit, shape: Shape): Fit | null {
  const { width, height, level } = template;
  const count = width * height;
  const seen = new Float32Array(count);
  const weight = new Float32Array(count).fill(1);
  const n = shape === 'similarity' ? 4 : 2;
  const halfW = width >> 1;
  const halfH = height >> 1;
  const reach = Math.hypot(halfW, halfH);
  const normal = new Float64Array(16);
  const right = new Float64Array(4);
  let { x, y } = start;
  let { a, b } = start.turn;

  let inside = 0;
  // The way there needs no fine interpolation, only the end does.
  let fine = false;
  for (let iteration = 0; iteration < maxIterations; iteration++) {
    inside = samplePatch(picture, { x, y, a, b }, width, height, fine ? 'cubic' : 'linear', seen);
    if (inside * 2 < count) return null;

    const { gain, bias } = exposure(level, seen, weight);
    if (!(gain > 1e-3)) return null;
    weigh(level, seen, gain, bias, weight);

    gather(template, seen, weight, gain, bias, normal, right);
    const step = solveSymmetric(normal, right, n);
    if (!step) return null;

    // The template moved by `step`; compose the picture's motion with the inverse of that.
    const da = 1 + (step[2] ?? 0);
    const db = step[3] ?? 0;
    const norm = da * da + db * db;
    const ia = da / norm;
    const ib = -db / norm;
    const sx = -(ia * step[0] - ib * step[1]);
    const sy = -(ib * step[0] + ia * step[1]);
    x += a * sx - b * sy;
    y += b * sx + a * sy;
    [a, b] = [a * ia - b * ib, b * ia + a * ib];

    const size = Math.hypot(a, b);
    if (!(Math.hypot(x - start.x, y - start.y) < 4) || size < 0.2 || size > 5) return null;
    const moved = Math.hypot(step[0], step[1]) + Math.hypot(step[2] ?? 0, step[3] ?? 0) * reach;
    if (fine && moved < settled) break;
    if (moved < nearly) fine = true;
  }
  return { x, y, turn: { a, b }, score: correlation(level, seen) };
}

/**
 * Normal equations of the residuals in shift, growth and turn: upper triangle of a 4×4 matrix and the right
 * side. A fit of the shift alone uses their first two rows. Sums are kept in locals: this is the hot loop.
 */
function gather(
  { width, height, level, gradientX, gradientY }: Template,
  seen: Float32Array,
  weight: Float32Array,
  gain: number,
  bias: number,
  normal: Float64Array,
  right: Float64Array,
): void {
  const halfW = width >> 1;
  const halfH = height >> 1;
  const scale = 1 / gain;
  let xx = 0;
  let xy = 0;
  let yy = 0;
  let xg = 0;
  let yg = 0;
  let gg = 0;
  let xt = 0;
  let yt = 0;
  let gt = 0;
  let tt = 0;
  let ex = 0;
  let ey = 0;
  let eg = 0;
  let et = 0;
  for (let v = -halfH, i = 0; v <= halfH; v++) {
    for (let u = -halfW; u <= halfW; u++, i++) {
      const w = weight[i];
      if (w === 0) continue;
      const gx = gradientX[i];
      const gy = gradientY[i];
      const grow = gx * u + gy * v;
      const turn = gy * u - gx * v;
      const error = w * ((seen[i] - bias) * scale - level[i]);
      const wx = w * gx;
      const wy = w * gy;
      const wg = w * grow;
      xx += wx * gx;
      xy += wx * gy;
      yy += wy * gy;
      xg += wx * grow;
      yg += wy * grow;
      gg += wg * grow;
      xt += wx * turn;
      yt += wy * turn;
      gt += wg * turn;
      tt += w * turn * turn;
      ex += gx * error;
      ey += gy * error;
      eg += grow * error;
      et += turn * error;
    }
  }
  normal.set([xx, xy, xg, xt, 0, yy, yg, yt, 0, 0, gg, gt, 0, 0, 0, tt]);
  right.set([ex, ey, eg, et]);
}

/** Weighted least-squares gain and bias with seen ≈ gain·level + bias. */
function exposure(
  level: Float32Array,
  seen: Float32Array,
  weight: Float32Array,
): { gain: number; bias: number } {
  let total = 0;
  let sl = 0;
  let ss = 0;
  let sll = 0;
  let sls = 0;
  for (let i = 0; i < level.length; i++) {
    const w = Number.isNaN(seen[i]) ? 0 : weight[i];
    if (w === 0) continue;
    total += w;
    sl += w * level[i];
    ss += w * seen[i];
    sll += w * level[i] * level[i];
    sls += w * level[i] * seen[i];
  }
  const variance = sll - (sl * sl) / total;
  const gain = variance > 0 ? (sls - (sl * ss) / total) / variance : 0;
  return { gain, bias: (ss - gain * sl) / total };
}

const histogram = new Uint32Array(256);

/** Cauchy weights from the residuals; nothing for pixels outside the picture. */
function weigh(
  level: Float32Array,
  seen: Float32Array,
  gain: number,
  bias: number,
  weight: Float32Array,
): void {
  histogram.fill(0);
  let counted = 0;
  for (let i = 0; i < level.length; i++) {
    if (Number.isNaN(seen[i])) continue;
    histogram[Math.min(Math.abs(seen[i] - gain * level[i] - bias) * 2, 255) | 0]++;
    counted++;
  }
  let median = 0;
  for (let below = histogram[0]; below * 2 < counted; below += histogram[median]) median++;
  const spread = 2.385 * 1.4826 * Math.max((median + 0.5) / 2, 1.5);
  for (let i = 0; i < level.length; i++) {
    if (Number.isNaN(seen[i])) {
      weight[i] = 0;
    } else {
      const r = (seen[i] - gain * level[i] - bias) / spread;
      weight[i] = 1 / (1 + r * r);
    }
  }
}

/** Zero-mean normalised correlation of the pixels that were seen. */
function correlation(level: Float32Array, seen: Float32Array): number {
  let n = 0;
  let sl = 0;
  let ss = 0;
  let sll = 0;
  let sss = 0;
  let sls = 0;
  for (let i = 0; i < level.length; i++) {
    const s = seen[i];
    if (Number.isNaN(s)) continue;
    const l = level[i];
    n++;
    sl += l;
    ss += s;
    sll += l * l;
    sss += s * s;
    sls += l * s;
  }
  const spread = (sll - (sl * sl) / n) * (sss - (ss * ss) / n);
  return spread > 1e-6 ? (sls - (sl * ss) / n) / Math.sqrt(spread) : 0;
}

/**
 * Cholesky solution of the first n equations of a 4×4 system whose upper triangle is given; null when it is
 * (nearly) singular.
 */
function solveSymmetric(upper: Float64Array, right: Float64Array, n: number): Float64Array | null {
  const l = new Float64Array(n * n);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = upper[j * 4 + i];
      for (let k = 0; k < j; k++) sum -= l[i * n + k] * l[j * n + k];
      if (i === j) {
        if (!(sum > 1e-9 * upper[i * 4 + i])) return null;
        l[i * n + i] = Math.sqrt(sum);
      } else {
        l[i * n + j] = sum / l[j * n + j];
      }
    }
  }
  const x = right.slice(0, n);
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i] -= l[i * n + k] * x[k];
    x[i] /= l[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i] -= l[k * n + i] * x[k];
    x[i] /= l[i * n + i];
  }
  return x;
}
