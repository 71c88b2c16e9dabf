import { multiply, translation, type Mat3, type Point } from '../../geometry/mat3.js';
import * as layout from '../../kernels/layout.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';
import { updateWeakModes } from './observability.js';
import { positionUncertainty, type PositionUncertainty } from '../certainty/position-uncertainty.js';
import { rowsFor, type PixelSet } from '../template/pixel-set.js';
import type { RegistrationResult } from '../certainty/cost-probes.js';
import { warpModels, type WarpModel } from '../../geometry/warp-model.js';
import type { Template } from '../template/types.js';

/** How bright the picture is against the template: seen ≈ gain·(level − mean) + bias. */
export interface Exposure {
  gain: number;
  bias: number;
  /** Median size of what is left over, grey levels: noise, and what has changed. Unknown before a first fit. */
  residual?: number;
}

/** Where pixels of a template fit, and how they are like the picture there. */
export interface CoarseFit extends Exposure {
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
export interface Hessian {
  normal: ArrayLike<number>;
  gathered: number;
}

/** Where all pixels fit, and how exactly they are held there. */
export interface Fit extends CoarseFit, PositionUncertainty {
  /** How the half of the box that is believed least compares to the whole: 1 unless something covers a side. */
  balance: number;
  hessian: Hessian;
  /** How the template was blurred to fit, pixels of its box. */
  blur: Point | null;
}

/** With less than this left, in pixels at the box's corner, a registration ends; on the subsample with more. */
const settled = 0.006;
const settledOnSubsample = 0.012;
/** Residuals do not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** Correlation from which a registration may tell what the template's texture tells. */
const recognisable = 0.6;
/** Where this share of the box is believed nothing is in the way. */
const nearlyAll = 0.85;

/** How a registration is done. */
export interface RegisterOptions {
  /** The template's own, or a mere shift. */
  model?: WarpModel;
  /** The start is known to a fraction of a pixel. */
  close?: boolean;
  /** What some of the pixels have found already, from which all go on. */
  coarse?: CoarseFit | null;
  /** All pixels from the start; else the subsample finds the way. */
  alone?: boolean;
}

/** Where what the last registration of a template saw lies, a float for each pixel of its grid, in grey levels. */
export const seenUnder = (kernels: TrackKernels, { full }: Template): number =>
  kernels.scratch('seen', 4 * full.count);

/** How far each of these pixels was believed, 0–1. */
const weightUnder = (kernels: TrackKernels, { full }: Template): number =>
  kernels.scratch('weight', 4 * full.count);

// What the kernel `descend` is given and leaves: where it starts and ends, with the light there, and the normal matrix.
const fitScratch = (kernels: TrackKernels): number => kernels.scratch('fit', 8 * layout.fitLength);
const normalScratch = (kernels: TrackKernels): number => kernels.scratch('normal', 8 * 100);

/** Tells the kernels where the next registration starts, what is known of the light there, and the residual to be expected. */
export function setStart(
  kernels: TrackKernels,
  area: Patch,
  matrix: Mat3,
  light: Exposure | null,
  residual = 0,
): void {
  const fit = fitScratch(kernels);
  kernels.putDoubles(fit, multiply(translation(-area.left, -area.top), matrix));
  kernels.putDoubles(fit + 8 * layout.fitGain, [light?.gain ?? 0, light?.bias ?? 0, residual]);
}

/** How a registration goes; the numbers are those of the kernel `descend`. */
export interface DescentOptions {
  close: boolean;
  sameLight: boolean;
  enough: number;
  /** What held the box lately, if that serves. */
  hessian?: Hessian;
}

/** How a registration has ended, as the kernel `descend` tells it. */
export const Outcome = {
  nowhere: layout.nowhere,
  settled: layout.settled,
  unsettled: layout.unsettled,
} as const;
type Outcome = (typeof Outcome)[keyof typeof Outcome];

/** Registers from where the kernels have been told, or have come to, to where pixels of a template fit. */
export function descendFrom(
  kernels: TrackKernels,
  template: Template,
  pixelSet: PixelSet,
  model: WarpModel,
  area: Patch,
  known: Exposure | null,
  { close, sameLight, enough, hessian }: DescentOptions,
): Outcome {
  const { left, top, right, bottom } = area.bounds;
  const [fit, normal] = [fitScratch(kernels), normalScratch(kernels)];
  if (hessian) {
    kernels.putDoubles(normal, hessian.normal);
    kernels.putDoubles(fit + 8 * layout.fitGathered, [hessian.gathered]);
  }
  const most =
    known?.residual === undefined ? Infinity : Math.max(growth * known.residual, layout.leastSpread);
  // Spelled out: spreading so many arguments costs more than a step of the way.
  // prettier-ignore
  return kernels.descend(
    pixelSet.record, rowsFor(model), warpModels.indexOf(model),
    area.at, area.stride, left, top, right, bottom, fit, most,
    Number(close), Number(sameLight), Number(hessian !== undefined), enough,
    seenUnder(kernels, template), weightUnder(kernels, template), normal,
  ) as Outcome;
}

/** Where the last registration has come to. */
export function readFit(kernels: TrackKernels, pixelSet: PixelSet, area: Patch, model: WarpModel): CoarseFit {
  const fit = fitScratch(kernels);
  const at = (index: number): number => kernels.double(fit, index);
  const [gain, bias, residual] = [at(layout.fitGain), at(layout.fitBias), at(layout.fitResidual)];
  const [score, trusted, weight] = [at(layout.fitScore), at(layout.fitTrusted), at(layout.fitWeight)];
  const pose: Mat3 = [at(0), at(1), at(2), at(3), at(4), at(5), at(6), at(7), at(8)];
  const believed = weight / (pixelSet.inRuns ? pixelSet.count : pixelSet.width * pixelSet.height);
  const normal = normalScratch(kernels);
  const n = rowsFor(model);
  const gripped =
    kernels.double(normal, layout.exposureRows * (n + 1)) +
    kernels.double(normal, (layout.exposureRows + 1) * (n + 1));
  return {
    matrix: multiply(translation(area.left, area.top), pose),
    gain,
    bias,
    residual,
    score,
    trusted,
    believed,
    share: Math.min(believed, gripped / pixelSet.energy),
  };
}

/** What held the box on the last registration. */
export const takeHessian = (kernels: TrackKernels, model: WarpModel): Hessian => ({
  normal: kernels.takeDoubles(normalScratch(kernels), rowsFor(model) ** 2),
  gathered: kernels.double(fitScratch(kernels), layout.fitGathered),
});

/** Registers the template's subsample only, as `registerFull` does: faster, less exact, and it does not know how exact. */
export function registerCoarse(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  start: Mat3,
  known: Exposure | null,
  { model = template.model, close = false }: RegisterOptions = {},
): CoarseFit | null {
  const { subsample } = template;
  setStart(kernels, area, start, known);
  const going = { close: close && known !== null, sameLight: false, enough: settledOnSubsample };
  if (!descendFrom(kernels, template, subsample, model, area, known, going)) return null;
  return readFit(kernels, subsample, area, model);
}

/**
 * Sub-pixel registration of a template by inverse-compositional Gauss-Newton (Baker & Matthews 2004) with
 * gain and bias solved beside it, and Cauchy weights (scale from the median residual) so that a part of the
 * box that is covered does not pull: most of the way on the template's subsample, the end on all of its pixels.
 * What the texture does not tell stays as at the start; the template learns from a good fit what that is.
 * `known` is the exposure of the last frame, if known. Returns null when it does not settle near the start, or
 * when less than half of the box lies in the picture.
 */
export function registerFull(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  start: Mat3,
  known: Exposure | null,
  { model = template.model, close = false, coarse = null, alone = false }: RegisterOptions = {},
): Fit | null {
  const { full, subsample } = template;
  setStart(kernels, area, coarse?.matrix ?? start, coarse ?? known);
  const go = (pixelSet: PixelSet, going: DescentOptions): Outcome =>
    descendFrom(kernels, template, pixelSet, model, area, known, going);
  const first = close && known !== null;
  const led = !alone && (coarse !== null || subsample !== full);
  if (led && !coarse && !go(subsample, { close: first, sameLight: false, enough: settledOnSubsample }))
    return null;
  if (!go(full, { close: led || first, sameLight: led, enough: settled })) return null;
  let [found, result] = resultOf(kernels, template, area, model);
  // What is blurred tells less than the template does.
  const isIt = model === template.model && found.score > recognisable && !template.blur;
  if (isIt && updateWeakModes(kernels, template, area, result)) {
    if (!go(full, { close: true, sameLight: true, enough: settled })) return null;
    [found, result] = resultOf(kernels, template, area, model);
  }
  const { normal, gathered, weight } = result;
  const balance = found.believed < nearlyAll ? balanceOf(kernels, full, weight) : 1;
  const { error, parallax, codecBias, slide, cause } = positionUncertainty(
    kernels,
    template,
    full,
    area,
    result,
  );
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
    parallax,
    codecBias,
    slide,
    cause,
    hessian: { normal, gathered },
    blur: template.blur,
  };
}

/** Where all pixels have come to. */
function resultOf(
  kernels: TrackKernels,
  template: Template,
  area: Patch,
  model: WarpModel,
): [CoarseFit, RegistrationResult] {
  const found = readFit(kernels, template.full, area, model);
  const { gain, bias } = found;
  const pose = multiply(translation(-area.left, -area.top), found.matrix);
  const variance = kernels.double(fitScratch(kernels), layout.fitVariance);
  const [seen, weight] = [seenUnder(kernels, template), weightUnder(kernels, template)];
  const { normal, gathered } = takeHessian(kernels, model);
  return [found, { pose, gain, bias, variance, normal, n: rowsFor(model), gathered, seen, weight }];
}

/** The weight of the least believed half, left, right, upper or lower, against the mean of all. */
function balanceOf(kernels: TrackKernels, { width, height, count }: PixelSet, weight: number): number {
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
