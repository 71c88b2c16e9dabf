import { invert, multiply, translation, type Mat3 } from '../geometry/mat3.js';
import { solveSymmetric } from '../geometry/solve-symmetric.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import { increment, parameterCount, type Shape } from './shape.js';
import { exposureRows, type Template } from './template.js';

/** How bright the picture is against the template: seen ≈ gain·(level − mean) + bias. */
export interface Exposure {
  gain: number;
  bias: number;
  /** Median size of what is left over, grey levels: noise, and what has changed. Unknown before a first fit. */
  residual?: number;
}

export interface Fit extends Exposure {
  residual: number;
  /** From the template's box (pixels from its centre) to the picture, corner origin. */
  matrix: Mat3;
  /** Zero-mean normalised correlation of template and picture under the fit, −1 to 1. */
  score: number;
  /** The same where each pixel counts as far as it is believed: high although a part is covered. */
  trusted: number;
  /** The believed part of the box and of the structure in it, whichever is less, 0–1. */
  share: number;
  /** How the half of the box that is believed least compares to the whole: 1 unless something covers a side. */
  balance: number;
  /** Expected error of the position along its least certain direction, pixels: large where it can slide. */
  error: number;
  /** That direction, radians clockwise from the x axis. */
  slide: number;
}

const maxIterations = 20;
/** Steps shorter than this, in pixels at the box's corner, end the search; shorter than `nearly`, it looks closer. */
const settled = 0.015;
const nearly = 0.1;
/** Nor need a step be shorter than this share of the error that is to be expected anyway. */
const pointless = 0.1;
/** After so many steps on the way it looks closer all the same; after so many closer ones they must shrink. */
const mostCoarse = 8;
const mostAimless = 5;
const shrinking = 0.8;
/** Farther from its start than this, in pixels, the fit has run away. */
const leash = 4;
/** The least spread of residuals, in grey levels: what rounding and interpolation leave. */
const leastSpread = 1.5;
/** 2.385 is the Cauchy constant of 95 % efficiency, 1.4826 the normal spread of a median. */
const cauchy = 2.385 * 1.4826;
const leastGain = 0.02;
/** Pixels of shift that a slope may be off by before it counts as something else: on the way, and at the end. */
const coarseSlack = 1.2;
const fineSlack = 0.3;
/** Residuals do not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** Where this share of the box is believed nothing is in the way. */
const nearlyAll = 0.85;
/** Into so many strips the box is cut to see whether they agree. */
const mostStrips = 8;
/** Cauchy weights make residuals look so much smaller in variance, and the template's grain counts too. */
const deflation = 4;
/** The longest leap ahead, in steps. */
const longestLeap = 8;

/**
 * Sub-pixel registration of a template by inverse-compositional Gauss-Newton (Baker & Matthews 2004) with
 * gain and bias solved beside it, and Cauchy weights (scale from the median residual) so that a part of the
 * box that is covered does not pull. `known` is the exposure of the last frame, if known. Returns null when
 * it does not settle near the start, or when less than half of the box lies in the picture. `shape` is the
 * template's own, or a mere shift; a `close` start is known to a fraction of a pixel.
 */
export function refine(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  start: Mat3,
  known: Exposure | null,
  { shape = template.shape, close = false }: { shape?: Shape; close?: boolean } = {},
): Fit | null {
  const { width, height, count, level, descent, reach } = template;
  const n = exposureRows + parameterCount[shape];
  const seen = kernels.room('seen', 4 * count);
  const weight = kernels.room('weight', 4 * count);
  const sums = kernels.room('sums', 8 * 80);
  const scratch = kernels.room('scratch', 4 * 1024);
  const { bounds } = area;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom] as const;
  const shift = template.mean;
  const toArea = translation(-area.left, -area.top);
  const normal = new Float64Array(n * n);
  const right = new Float64Array(n);
  const median = ({ gain, bias }: Exposure): number =>
    kernels.medianResidual(level, seen, count, gain, bias, scratch);

  const most = known?.residual === undefined ? Infinity : Math.max(growth * known.residual, leastSpread);
  let matrix = start;
  let residual = 0;
  let exposure: Exposure = { gain: 1, bias: shift };
  let spread = 0;
  let variance = 0;
  let gathered = 1;
  let last: Float64Array | null = null;
  // The way there needs no fine interpolation, only the end does.
  let fine = close && !!known;
  let closer = 0;
  let moved = Infinity;
  let stretch = 1;
  let held = false;
  for (let iteration = 0; iteration < maxIterations; iteration++) {
    const m = multiply(toArea, matrix);
    const inside = kernels.samplePatch(
      ...[area.at, area.stride, ...box, width, height, ...m, fine ? 1 : 0, seen],
    );
    if (inside * 2 < width * height) return null;
    if (iteration === 0) {
      const solved = solveExposure(kernels, template, seen, sums);
      if (known && (!solved || median(known) < median(solved))) exposure = known;
      else if (solved) exposure = solved;
      else return null;
    }
    // Held fast once it has stopped shrinking, so that the last steps run towards one place.
    if (!held && (fine || iteration % 3 === 0)) {
      residual = median(exposure);
      // On the way all may be believed a little; at the end only what fits as it did before.
      const next = cauchy * Math.max(fine ? Math.min(residual, most) : residual, leastSpread);
      held = fine && next > 0.9 * spread;
      spread = next;
    }
    const { gain, bias } = exposure;
    // The matrix changes little on the way: it is gathered at the start, and again when looking closer.
    const whole = iteration === 0 || (fine && !last) ? 1 : 0;
    const slack = fine ? fineSlack : coarseSlack;
    kernels.gather(descent, n, count, level, seen, gain, bias, spread, slack, whole, weight, scratch, sums);
    const total = kernels.double(sums, n);
    variance = kernels.double(sums, n + 1) / Math.max(total, 1);
    if (whole) {
      gathered = total;
      for (let i = 0, at = n + 2; i < n; i++)
        for (let j = i; j < n; j++) normal[i * n + j] = normal[j * n + i] = kernels.double(sums, at++);
    }
    for (let i = 0; i < n; i++) right[i] = (kernels.double(sums, i) * gathered) / total;
    const step = solveSymmetric(normal, right, n);
    if (!step) return null;
    // A third counts of what turns and grows the box about its middle.
    const before = moved;
    moved = Math.hypot(step[2], step[3]) + Math.hypot(...step.subarray(4)) / 3;
    const ahead = stretch === 1 && last && held ? farAhead(last, step) : 1;
    if (fine) last = step.slice();
    stretch = ahead;
    for (let i = 0; i < n; i++) step[i] *= stretch;

    // The template moved by `step`; the picture's motion takes the inverse of that.
    exposure = { gain: gain * (1 + step[1]), bias: bias + gain * step[0] };
    matrix = multiply(matrix, invert(increment(shape, step.subarray(exposureRows), reach, template.aspect)));
    matrix = matrix.map((value) => value / matrix[8]) as unknown as Mat3;
    const away = Math.hypot(matrix[2] - start[2], matrix[5] - start[5]);
    const size = Math.abs(matrix[0] * matrix[4] - matrix[1] * matrix[3]);
    if (!(away < leash && size > 0.04 && size < 25 && exposure.gain > leastGain)) return null;
    if (held && moved * stretch < Math.max(settled, pointless * expectedError(normal, n, variance))) break;
    if (fine && ++closer > mostAimless && moved > shrinking * before) break;
    if (moved < nearly || iteration + 1 === mostCoarse) fine = true;
  }
  const strip = (count / height) * Math.ceil(height / mostStrips);
  const { gain, bias } = exposure;
  const strips = kernels.stripSums(descent, n, count, strip, level, seen, gain, bias, weight, scratch);
  const asked = Array.from({ length: strips * n }, (_, i) => kernels.double(scratch, i));
  const { error, slide } = worstError(
    normal,
    n,
    gathered,
    variance,
    Math.min(template.falseSlope, (template.falseSlope / template.grain) * (variance / 2) || 0),
    asked,
  );

  const correlation = (weights: number): number => {
    kernels.moments(level, seen, weights, count, shift, sums);
    const [total, l, s, ll, ls, ss] = [0, 1, 2, 3, 4, 5].map((i) => kernels.double(sums, i));
    const spread = (ll - (l * l) / total) * (ss - (s * s) / total);
    return spread > 1e-6 ? (ls - (l * s) / total) / Math.sqrt(spread) : 0;
  };
  const trusted = correlation(weight);
  const believed = kernels.double(sums, 0) / (width * height);
  const [x, y] = [exposureRows, exposureRows + 1];
  const gripped = (normal[x * n + x] + normal[y * n + y]) / template.energy;
  const share = Math.min(believed, gripped);
  const balance = believed < nearlyAll ? balanceOf(kernels, template, weight) : 1;
  return { matrix, ...exposure, residual, score: correlation(0), trusted, share, balance, error, slide };
}

/** The Cramér-Rao bound along the direction that holds the box least, pixels. */
function expectedError(normal: Float64Array, n: number, variance: number): number {
  const least = weakest(normal, n, 0);
  return least > 0 ? Math.sqrt((deflation * variance) / least) : 0;
}

/** The smaller eigenvalue of the normal matrix's part for shift, `grain` taken off. */
function weakest(normal: Float64Array, n: number, grain: number): number {
  const [x, y] = [exposureRows, exposureRows + 1];
  const [xx, xy, yy] = [normal[x * n + x] - grain, normal[x * n + y], normal[y * n + y] - grain];
  return (xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy);
}

/** The weight of the least believed half, left, right, upper or lower, against the mean of all. */
function balanceOf(kernels: TrackKernels, { width, height, count }: Template, weight: number): number {
  const weights = kernels.floats(weight, count);
  const columns = count / height;
  const [halfW, halfH] = [width >> 1, height >> 1];
  let [left, right, upper, lower] = [0, 0, 0, 0];
  for (let y = 0; y < height; y++) {
    let [near, far] = [0, 0];
    for (let x = 0; x < halfW; x++) near += weights[y * columns + x];
    for (let x = width - halfW; x < width; x++) far += weights[y * columns + x];
    left += near;
    right += far;
    if (y < halfH) upper += near + far;
    if (y >= height - halfH) lower += near + far;
  }
  const total = left + right;
  return total > 0 ? (2 * Math.min(left, right, upper, lower)) / total : 0;
}

/**
 * Weights that follow the residuals make the steps shrink by the same share each time. How many steps like
 * this one still lie ahead then follows from the last two (Aitken 1926).
 */
function farAhead(last: Float64Array, step: Float64Array): number {
  let product = 0;
  let squares = 0;
  let mine = 0;
  for (let i = exposureRows; i < step.length; i++) {
    product += last[i] * step[i];
    squares += last[i] * last[i];
    mine += step[i] * step[i];
  }
  const alike = product / Math.sqrt(squares * mine);
  return alike > 0.9 ? Math.min(1 / Math.max(1 - product / squares, 1 / longestLeap), longestLeap) : 1;
}

/** Least-squares gain and bias over all pixels that are seen; null when the picture shows nothing alike. */
function solveExposure(
  kernels: TrackKernels,
  { level, count, mean }: Template,
  seen: number,
  sums: number,
): Exposure | null {
  kernels.moments(level, seen, 0, count, mean, sums);
  const total = kernels.double(sums, 0);
  const l = kernels.double(sums, 1);
  const s = kernels.double(sums, 2);
  const spread = kernels.double(sums, 3) - (l * l) / total;
  const gain = (kernels.double(sums, 4) - (l * s) / total) / spread;
  return gain > leastGain ? { gain, bias: (s - gain * l) / total + mean } : null;
}

/**
 * Expected error along the direction that holds the box least, and that direction. It is the larger of two:
 * the Cramér-Rao bound for residuals of this variance (Robinson & Milanfar 2004), and how far the strips of
 * the box disagree about where they belong (the cluster-robust covariance of Liang & Zeger 1986), which sees
 * what is no mere noise: smear, blocks of compression, something half in the way. The template's own grain makes
 * gradients where there is nothing to hold on to: half its variance in each, taken off again here.
 */
function worstError(
  normal: Float64Array,
  n: number,
  weight: number,
  variance: number,
  falseSlope: number,
  asked: readonly number[],
): { error: number; slide: number } {
  const [x, y] = [exposureRows, exposureRows + 1];
  const grain = weight * falseSlope;
  const xx = normal[x * n + x] - grain;
  const xy = normal[x * n + y];
  const yy = normal[y * n + y] - grain;
  const slide = Math.atan2(2 * xy, xx - yy) / 2 + Math.PI / 2;
  const least = weakest(normal, n, grain);
  if (!(least > 0)) return { error: Infinity, slide };
  const strips = asked.length / n;
  const unit = new Float64Array(n);
  unit[x] = 1;
  const alongX = solveSymmetric(normal, unit, n);
  unit.fill(0)[y] = 1;
  const alongY = solveSymmetric(normal, unit, n);
  let [sx, sxy, sy] = [0, 0, 0];
  for (let b = 0; b < strips && alongX && alongY; b++) {
    let [dx, dy] = [0, 0];
    for (let j = 0; j < n; j++) {
      dx += alongX[j] * asked[b * n + j];
      dy += alongY[j] * asked[b * n + j];
    }
    sx += dx * dx;
    sxy += dx * dy;
    sy += dy * dy;
  }
  const scatter = ((sx + sy) / 2 + Math.hypot((sx - sy) / 2, sxy)) * (strips / Math.max(strips - 1, 1));
  return { error: Math.sqrt(Math.max((deflation * variance) / least, scatter)), slide };
}
