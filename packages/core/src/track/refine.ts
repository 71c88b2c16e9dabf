import { multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { Area } from './area.js';
import { learnUntold } from './damping.js';
import { exactnessOf, type Exactness } from './exactness.js';
import { exposureRows, rowsFor, type Grid } from './grid.js';
import type { Landing } from './misfit.js';
import { shapes, type Shape } from './shape.js';
import type { Template } from './template.js';

/** How bright the picture is against the template: seen ≈ gain·(level − mean) + bias. */
export interface Exposure {
  gain: number;
  bias: number;
  /** Median size of what is left over, grey levels: noise, and what has changed. Unknown before a first fit. */
  residual?: number;
}

/** Where pixels of a template fit, and how they are like the picture there. */
export interface Glimpse extends Exposure {
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
}

/** What held a box where it was registered: the normal matrix, n×n, and the sum of weights it was gathered with. */
export interface Hold {
  normal: ArrayLike<number>;
  gathered: number;
}

/** Where all pixels fit, and how exactly they are held there. */
export interface Fit extends Glimpse, Exactness {
  /** How the half of the box that is believed least compares to the whole: 1 unless something covers a side. */
  balance: number;
  hold: Hold;
  /** How the template was smeared to fit, pixels of its box. */
  smear: Point | null;
}

/** With less than this left, in pixels at the box's corner, a registration ends; on the lattice with more. */
const settled = 0.006;
const settledOnLattice = 0.012;
/** Residuals do not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** The least of what residuals may grow to, in grey levels: what rounding and interpolation leave. */
const leastSpread = 1.5;
/** Correlation from which a registration may tell what the template's texture tells. */
const recognisable = 0.6;
/** Where this share of the box is believed nothing is in the way. */
const nearlyAll = 0.85;

/** How a registration is done. */
export interface RefineOptions {
  /** The template's own, or a mere shift. */
  shape?: Shape;
  /** The start is known to a fraction of a pixel. */
  close?: boolean;
  /** What some of the pixels have found already, from which all go on. */
  glimpsed?: Glimpse | null;
  /** All pixels from the start; else the lattice finds the way. */
  alone?: boolean;
}

/** Where what the last registration of a template saw lies, a float for each pixel of its grid, in grey levels. */
export const seenUnder = (kernels: TrackKernels, { full }: Template): number =>
  kernels.room('seen', 4 * full.count);

/** How far each of these pixels was believed, 0–1. */
const weightUnder = (kernels: TrackKernels, { full }: Template): number =>
  kernels.room('weight', 4 * full.count);

// What the kernel `descend` is given and leaves: where it starts and ends, with the light there, and the normal matrix.
const fitRoom = (kernels: TrackKernels): number => kernels.room('fit', 8 * 17);
const [lightAt, varianceAt, gatheredAt] = [9, 12, 13].map((index) => 8 * index);
const normalRoom = (kernels: TrackKernels): number => kernels.room('normal', 8 * 100);

/** Tells the kernels where the next walk starts, what is known of the light there, and the residual to be expected. */
export function startAt(
  kernels: TrackKernels,
  area: Area,
  matrix: Mat3,
  light: Exposure | null,
  residual = 0,
): void {
  const fit = fitRoom(kernels);
  kernels.putDoubles(fit, multiply(translation(-area.left, -area.top), matrix));
  kernels.putDoubles(fit + lightAt, [light?.gain ?? 0, light?.bias ?? 0, residual]);
}

/** How a walk goes; the numbers are those of the kernel `descend`. */
export interface Going {
  close: boolean;
  sameLight: boolean;
  enough: number;
  /** What held the box lately, if that serves. */
  hold?: Hold;
}

/** How a walk has ended; numbers are those of the kernel `descend`. */
export const Ended = { nowhere: 0, settled: 1, unsettled: 2 } as const;
type Ended = (typeof Ended)[keyof typeof Ended];

/** Walks from where the kernels have been told, or have come to, to where pixels of a template fit. */
export function walk(
  kernels: TrackKernels,
  template: Template,
  grid: Grid,
  shape: Shape,
  area: Area,
  known: Exposure | null,
  { close, sameLight, enough, hold }: Going,
): Ended {
  const { left, top, right, bottom } = area.bounds;
  const [fit, normal] = [fitRoom(kernels), normalRoom(kernels)];
  if (hold) {
    kernels.putDoubles(normal, hold.normal);
    kernels.putDoubles(fit + gatheredAt, [hold.gathered]);
  }
  const most = known?.residual === undefined ? Infinity : Math.max(growth * known.residual, leastSpread);
  // Spelled out: spreading so many arguments costs more than a step of the way.
  // prettier-ignore
  return kernels.descend(
    grid.record, rowsFor(shape), shapes.indexOf(shape),
    area.at, area.stride, left, top, right, bottom, fit, most,
    Number(close), Number(sameLight), Number(hold !== undefined), enough,
    seenUnder(kernels, template), weightUnder(kernels, template), normal,
  ) as Ended;
}

/** Where the last walk has come to. */
export function whereItEnded(kernels: TrackKernels, grid: Grid, area: Area, shape: Shape): Glimpse {
  const fit = fitRoom(kernels);
  const at = (index: number): number => kernels.double(fit, index);
  const [gain, bias, residual, score, trusted, weight] = [at(9), at(10), at(11), at(14), at(15), at(16)];
  const pose: Mat3 = [at(0), at(1), at(2), at(3), at(4), at(5), at(6), at(7), at(8)];
  const believed = weight / (grid.inRuns ? grid.count : grid.width * grid.height);
  const normal = normalRoom(kernels);
  const n = rowsFor(shape);
  const gripped =
    kernels.double(normal, exposureRows * (n + 1)) + kernels.double(normal, (exposureRows + 1) * (n + 1));
  return {
    matrix: multiply(translation(area.left, area.top), pose),
    gain,
    bias,
    residual,
    score,
    trusted,
    believed,
    share: Math.min(believed, gripped / grid.energy),
  };
}

/** What held the box on the last walk. */
export const takeHold = (kernels: TrackKernels, shape: Shape): Hold => ({
  normal: kernels.takeDoubles(normalRoom(kernels), rowsFor(shape) ** 2),
  gathered: kernels.double(fitRoom(kernels) + gatheredAt, 0),
});

/** Registers the template's lattice only, as `refine` does: faster, less exact, and it does not know how exact. */
export function glimpse(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  start: Mat3,
  known: Exposure | null,
  { shape = template.shape, close = false }: RefineOptions = {},
): Glimpse | null {
  const { lattice } = template;
  startAt(kernels, area, start, known);
  const going = { close: close && known !== null, sameLight: false, enough: settledOnLattice };
  if (!walk(kernels, template, lattice, shape, area, known, going)) return null;
  return whereItEnded(kernels, lattice, area, shape);
}

/**
 * Sub-pixel registration of a template by inverse-compositional Gauss-Newton (Baker & Matthews 2004) with
 * gain and bias solved beside it, and Cauchy weights (scale from the median residual) so that a part of the
 * box that is covered does not pull: most of the way on the template's lattice, the end on all of its pixels.
 * What the texture does not tell stays as at the start; the template learns from a good fit what that is.
 * `known` is the exposure of the last frame, if known. Returns null when it does not settle near the start, or
 * when less than half of the box lies in the picture.
 */
export function refine(
  kernels: TrackKernels,
  template: Template,
  area: Area,
  start: Mat3,
  known: Exposure | null,
  { shape = template.shape, close = false, glimpsed = null, alone = false }: RefineOptions = {},
): Fit | null {
  const { full, lattice } = template;
  startAt(kernels, area, glimpsed?.matrix ?? start, glimpsed ?? known);
  const go = (grid: Grid, going: Going): Ended => walk(kernels, template, grid, shape, area, known, going);
  const first = close && known !== null;
  const led = !alone && (glimpsed !== null || lattice !== full);
  if (led && !glimpsed && !go(lattice, { close: first, sameLight: false, enough: settledOnLattice }))
    return null;
  if (!go(full, { close: led || first, sameLight: led, enough: settled })) return null;
  let [found, landing] = land(kernels, template, area, shape);
  // What is smeared tells less than the template does.
  const isIt = shape === template.shape && found.score > recognisable && !template.smear;
  if (isIt && learnUntold(kernels, template, area, landing)) {
    if (!go(full, { close: true, sameLight: true, enough: settled })) return null;
    [found, landing] = land(kernels, template, area, shape);
  }
  const { normal, gathered, weight } = landing;
  const balance = found.believed < nearlyAll ? balanceOf(kernels, full, weight) : 1;
  const { error, parted, lag, slide, cause } = exactnessOf(kernels, template, full, area, landing);
  // Spelled out, as in all that runs for every sample: spreading an object costs more than a step of the way.
  return {
    matrix: found.matrix,
    gain: found.gain,
    bias: found.bias,
    residual: found.residual,
    score: found.score,
    trusted: found.trusted,
    believed: found.believed,
    share: found.share,
    balance,
    error,
    parted,
    lag,
    slide,
    cause,
    hold: { normal, gathered },
    smear: template.smear,
  };
}

/** Where all pixels have come to. */
function land(kernels: TrackKernels, template: Template, area: Area, shape: Shape): [Glimpse, Landing] {
  const found = whereItEnded(kernels, template.full, area, shape);
  const { gain, bias } = found;
  const pose = multiply(translation(-area.left, -area.top), found.matrix);
  const variance = kernels.double(fitRoom(kernels) + varianceAt, 0);
  const [seen, weight] = [seenUnder(kernels, template), weightUnder(kernels, template)];
  const { normal, gathered } = takeHold(kernels, shape);
  return [found, { pose, gain, bias, variance, normal, n: rowsFor(shape), gathered, seen, weight }];
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
