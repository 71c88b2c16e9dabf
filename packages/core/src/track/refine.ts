import { multiply, translation, type Mat3 } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import { exactnessOf, type Exactness } from './exactness.js';
import { parameterCount, shapes, type Shape } from './shape.js';
import { exposureRows, type Grid, type Template } from './template.js';

/** How bright the picture is against the template: seen ≈ gain·(level − mean) + bias. */
export interface Exposure {
  gain: number;
  bias: number;
  /** Median size of what is left over, grey levels: noise, and what has changed. Unknown before a first fit. */
  residual?: number;
}

export interface Fit extends Exposure, Exactness {
  residual: number;
  /** From the template's box (pixels from its centre) to the picture, corner origin. */
  matrix: Mat3;
  /** Zero-mean normalised correlation of template and picture under the fit, −1 to 1. */
  score: number;
  /** The same where each pixel counts as far as it is believed: high although a part is covered. */
  trusted: number;
  /** The believed part of the box, 0–1. */
  believed: number;
  /** The believed part of the box and of the structure in it, whichever is less, 0–1. */
  share: number;
  /** How the half of the box that is believed least compares to the whole: 1 unless something covers a side. */
  balance: number;
  /** What held the box there: the normal matrix, n×n, and the sum of weights it was gathered with. */
  hold: { normal: Float64Array; gathered: number };
}

/** With less than this left, in pixels at the box's corner, a registration ends; on the lattice with more. */
const settled = 0.006;
const settledOnLattice = 0.012;
/** Where all pixels follow at once and nothing else is asked of the lattice. */
const nearlySettled = 0.03;
/** Residuals do not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** The least of what residuals may grow to, in grey levels: what rounding and interpolation leave. */
const leastSpread = 1.5;
/** Where this share of the box is believed nothing is in the way. */
const nearlyAll = 0.85;

/** How the registration is done. */
export interface RefineOptions {
  /** The template's own, or a mere shift. */
  shape?: Shape;
  /** The start is known to a fraction of a pixel. */
  close?: boolean;
  /** Only the template's lattice, faster and less exact, or all pixels from the start; else the one, then the other. */
  pixels?: 'lattice' | 'all';
  /** What the lattice has found already, from which all pixels go on. */
  glimpsed?: Fit | null;
  /** A fit of late, by the same shape, that this one will be like: how the box was held then holds now. */
  like?: Fit | null;
}

/** Where what the last registration of a template saw lies, a float for each pixel of its grid, in grey levels. */
export const seenUnder = (kernels: TrackKernels, { full }: Template): number =>
  kernels.room('seen', 4 * full.count);

/**
 * Sub-pixel registration of a template by inverse-compositional Gauss-Newton (Baker & Matthews 2004) with
 * gain and bias solved beside it, and Cauchy weights (scale from the median residual) so that a part of the
 * box that is covered does not pull: most of the way on the template's lattice, the end on all of its pixels.
 * `known` is the exposure of the last frame, if known. Returns null when it does not settle near the start, or
 * when less than half of the box lies in the picture.
 */
export function refine(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  start: Mat3,
  known: Exposure | null,
  { shape = template.shape, close = false, pixels, glimpsed = null, like = null }: RefineOptions = {},
): Fit | null {
  const { full, lattice, mean, reach, aspect } = template;
  const n = exposureRows + parameterCount[shape];
  const seen = seenUnder(kernels, template);
  const weight = kernels.room('weight', 4 * full.count);
  const sums = kernels.room('sums', 8 * 80);
  const scratch = kernels.room('scratch', 4 * 1024);
  const poseAt = kernels.room('pose', 8 * 9);
  const light = kernels.room('light', 8 * 5);
  const normalAt = kernels.room('normal', 8 * n * n);
  const { bounds } = area;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom] as const;
  const most = known?.residual === undefined ? Infinity : Math.max(growth * known.residual, leastSpread);
  kernels.putDoubles(poseAt, multiply(translation(-area.left, -area.top), glimpsed?.matrix ?? start));
  const { gain: gainBefore = 0, bias: biasBefore = 0 } = glimpsed ?? known ?? {};
  kernels.putDoubles(light, [gainBefore, biasBefore, 0, 0, like?.hold.gathered ?? 0]);
  if (like) kernels.putDoubles(normalAt, like.hold.normal);
  const walk = (grid: Grid, closely: boolean, sameLight: boolean, enough: number): boolean =>
    kernels.descend(
      ...[grid.descent, grid.level, n, grid.count, grid.width, grid.height, grid.spacing],
      ...[mean, shapes.indexOf(shape), reach, aspect, area.at, area.stride, ...box, poseAt, light, most],
      ...[Number(closely), Number(sameLight), Number(like !== null), enough],
      ...[seen, weight, sums, scratch, normalAt],
    ) === 1;
  const first = close && known !== null;
  const led = glimpsed !== null;
  const grid = pixels === 'lattice' ? lattice : full;
  if (!led && pixels !== 'all' && lattice !== full) {
    if (!walk(lattice, first, false, like ? nearlySettled : settledOnLattice)) return null;
    if (grid === full && !walk(full, true, true, settled)) return null;
  } else if (!walk(grid, led || first, led, settled)) return null;
  const pose = [...kernels.takeDoubles(poseAt, 9)] as unknown as Mat3;
  const [gain, bias, residual, variance, gathered] = kernels.takeDoubles(light, 5);
  const correlation = (weights: number): number => {
    kernels.moments(grid.level, seen, weights, grid.count, mean, sums);
    const [total, l, s, ll, ls, ss] = kernels.takeDoubles(sums, 6);
    const spread = (ll - (l * l) / total) * (ss - (s * s) / total);
    return spread > 1e-6 ? (ls - (l * s) / total) / Math.sqrt(spread) : 0;
  };
  const trusted = correlation(weight);
  const believed = kernels.double(sums, 0) / (grid.width * grid.height);
  const score = correlation(0);
  const matrix = multiply(translation(area.left, area.top), pose);
  if (like) return { ...like, matrix, gain, bias, residual, score, trusted, believed };

  const normal = kernels.takeDoubles(normalAt, n * n);
  const landing = { pose, gain, bias, variance, normal, n, gathered, seen, weight };
  const [x, y] = [exposureRows, exposureRows + 1];
  const gripped = (normal[x * n + x] + normal[y * n + y]) / grid.energy;
  return {
    ...{ matrix, gain, bias, residual, score, trusted, believed },
    share: Math.min(believed, gripped),
    balance: believed < nearlyAll ? balanceOf(kernels, grid, weight) : 1,
    ...exactnessOf(kernels, template, grid, area, landing),
    hold: { normal, gathered },
  };
}

/** The weight of the least believed half, left, right, upper or lower, against the mean of all. */
function balanceOf(kernels: TrackKernels, { width, height, count }: Grid, weight: number): number {
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
