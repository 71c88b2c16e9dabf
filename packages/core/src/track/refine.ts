import { multiply, translation, type Mat3 } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { mostBlocks, partedBy, scatter } from './agreement.js';
import type { Area } from './area.js';
import { parameterCount, shapes, type Shape } from './shape.js';
import { exposureRows, type Grid, type Template } from './template.js';

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
  /**
   * Expected error of the position along its least certain direction, pixels: large where it can slide. The larger
   * of the Cramér-Rao bound for residuals of this variance (Robinson & Milanfar 2004) and of how the blocks scatter.
   */
  error: number;
  /** How far apart parts of the box would have gone, noise aside, pixels: large where it shows things at two depths. */
  parted: number;
  /** That direction, radians clockwise from the x axis. */
  slide: number;
}

/** Steps shorter than this, in pixels at the box's corner, end the search; on the lattice already longer ones. */
const settled = 0.015;
const settledOnLattice = 0.03;
/** Residuals do not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** The least of what residuals may grow to, in grey levels: what rounding and interpolation leave. */
const leastSpread = 1.5;
/** Where this share of the box is believed nothing is in the way. */
const nearlyAll = 0.85;
/** Cauchy weights make residuals look so much smaller in variance, and the template's grain counts too. */
const deflation = 4;

/** Where this share of what holds the box may be its own grain, how it is held is tried out, so many pixels aside. */
const grainy = 0.05;
const aside = 2;
/** Noise makes a hollow where the fit has settled: three deviations of how deep it may be for each pixel. */
const lucky = 1.1;

/** Noise alone parts a box by so much of the expected error. */
const partedByNoise = 0.75;

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
}

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
  { shape = template.shape, close = false, pixels, glimpsed = null }: RefineOptions = {},
): Fit | null {
  const { full, lattice, mean, reach, aspect } = template;
  const n = exposureRows + parameterCount[shape];
  const seen = kernels.room('seen', 4 * full.count);
  const weight = kernels.room('weight', 4 * full.count);
  const sums = kernels.room('sums', 8 * 80);
  const scratch = kernels.room('scratch', 4 * 1024);
  const pose = kernels.room('pose', 8 * 9);
  const light = kernels.room('light', 8 * 5);
  const normalAt = kernels.room('normal', 8 * n * n);
  const { bounds } = area;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom] as const;
  const most = known?.residual === undefined ? Infinity : Math.max(growth * known.residual, leastSpread);
  kernels.putDoubles(pose, multiply(translation(-area.left, -area.top), glimpsed?.matrix ?? start));
  kernels.putDoubles(light, [(glimpsed ?? known)?.gain ?? 0, (glimpsed ?? known)?.bias ?? 0]);
  const walk = (grid: Grid, closely: boolean, sameLight: boolean, enough: number): boolean =>
    kernels.descend(
      ...[grid.descent, grid.level, n, grid.count, grid.width, grid.height, grid.spacing],
      ...[mean, shapes.indexOf(shape), reach, aspect, area.at, area.stride, ...box, pose, light, most],
      ...[Number(closely), Number(sameLight), enough, seen, weight, sums, scratch, normalAt],
    ) === 1;
  const first = close && known !== null;
  if (lattice === full || pixels === 'all') {
    if (!walk(full, first, false, settled)) return null;
  } else {
    if (!glimpsed && !walk(lattice, first, false, settledOnLattice)) return null;
    if (pixels !== 'lattice' && !walk(full, true, true, settled)) return null;
  }

  const grid = pixels === 'lattice' ? lattice : full;
  const { width, height, count, level, descent } = grid;
  const size = width * height;
  const found = [...kernels.takeDoubles(pose, 9)] as unknown as Mat3;
  const matrix = multiply(translation(area.left, area.top), found);
  const [gain, bias, residual, variance, gathered] = kernels.takeDoubles(light, 5);
  const normal = kernels.takeDoubles(normalAt, n * n);
  const [across, down] = [Math.min(mostBlocks, count / height / 4), Math.min(mostBlocks, height)];
  kernels.blockSums(...[descent, n, count, height, across, down, level, seen, gain, bias, weight, scratch]);
  const blocks = { across, down, sums: kernels.takeDoubles(scratch, (n + 3) * across * down) };
  /** Sum of the weighted squared residuals, in the template's grey levels, with the box moved along a direction. */
  const misfit = (along: number, by: number): number => {
    const m = multiply(translation(by * Math.cos(along), by * Math.sin(along)), found);
    const spaced = multiply(m, [grid.spacing, 0, 0, 0, grid.spacing, 0, 0, 0, 1]);
    const there = by === 0 ? seen : kernels.room('seen there', 4 * full.count);
    if (by !== 0) kernels.samplePatch(...[area.at, area.stride, ...box, width, height, ...spaced, 1, there]);
    kernels.moments(level, there, weight, count, bias, sums);
    const [, , , ll, ls, ss] = kernels.takeDoubles(sums, 6);
    return ll - (2 * ls) / gain + ss / gain ** 2;
  };
  /** How fast the misfit truly grows along a direction: grain of the template is not in the picture, and adds nothing. */
  const heldAlong = (slide: number): number =>
    (misfit(slide, aside) + misfit(slide, -aside) - 2 * misfit(slide, 0)) / (2 * aside * aside);
  // The template's grain makes gradients where there is nothing to hold on to: half its variance in each.
  const grain = Math.min(template.falseSlope, (template.falseSlope / template.grain) * (variance / 2) || 0);
  const { least, slide } = weakest(normal, n, gathered * grain);
  const doubtful = gathered * template.falseSlope > grainy * least;
  const proven = (): number => heldAlong(slide) - lucky * Math.sqrt(size) * variance;
  const held = doubtful ? Math.min(least, proven()) : least;
  const bound = held > 0 ? Math.sqrt((deflation * variance) / held) : Infinity;
  const error = Math.max(bound, scatter(blocks, normal, n, exposureRows));
  const parted = Math.sqrt(
    Math.max(partedBy(blocks, n, exposureRows) ** 2 - (partedByNoise * bound) ** 2, 0),
  );

  const correlation = (weights: number): number => {
    kernels.moments(level, seen, weights, count, mean, sums);
    const [total, l, s, ll, ls, ss] = kernels.takeDoubles(sums, 6);
    const spread = (ll - (l * l) / total) * (ss - (s * s) / total);
    return spread > 1e-6 ? (ls - (l * s) / total) / Math.sqrt(spread) : 0;
  };
  const trusted = correlation(weight);
  const believed = kernels.double(sums, 0) / size;
  const [x, y] = [exposureRows, exposureRows + 1];
  const gripped = (normal[x * n + x] + normal[y * n + y]) / grid.energy;
  const share = Math.min(believed, gripped);
  const balance = believed < nearlyAll ? balanceOf(kernels, grid, weight) : 1;
  return {
    matrix,
    gain,
    bias,
    residual,
    score: correlation(0),
    trusted,
    share,
    balance,
    error,
    parted,
    slide,
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

/** The smaller eigenvalue of the normal matrix's part for shift, `grain` taken off, and its direction in radians. */
function weakest(normal: Float64Array, n: number, grain: number): { least: number; slide: number } {
  const [x, y] = [exposureRows, exposureRows + 1];
  const [xx, xy, yy] = [normal[x * n + x] - grain, normal[x * n + y], normal[y * n + y] - grain];
  return {
    least: (xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy),
    slide: Math.atan2(2 * xy, xx - yy) / 2 + Math.PI / 2,
  };
}
