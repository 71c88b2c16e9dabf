import { identity, invert, multiply, type Mat3 } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';
import type { PixelSet } from '../template/pixel-set.js';
import { isAsBefore, type Match } from '../point/match.js';
import {
  Outcome,
  setStart,
  takeHessian,
  descendFrom,
  readFit,
  type Exposure,
  type Fit,
  type CoarseFit,
  type Hessian,
} from './registration.js';

/** What a full registration has found, and what of it is registered with the fixed Hessian on the frames that follow. */
export interface Linearisation {
  match: Match;
  pixelSet: PixelSet;
  /** How these pixels fitted by themselves, and what held them. */
  alike: CoarseFit;
  hessian: Hessian;
  /** From the box as these pixels have it to the box as all of them have it, and back. */
  fromPixelSet: Mat3;
  toPixelSet: Mat3;
}

/** With less than this left, in pixels at the box's corner, a fixed-Hessian registration ends; on the subsample before it with more. */
const settled = 0.015;
const nearlySettled = 0.03;

/** A template with grain of more than this variance, squared grey levels, needs all the pixels it has. */
const leastGrain = 2;

/** What may be left over where all is as it was: medians are counted in quarters, and a frame may be blurred a little. */
const leftOver = ({ residual }: CoarseFit): number => 1.3 * residual + 0.25;

/** All pixels are registered with the fixed Hessian: nothing need be tried. */
const onAll = (match: Match): Linearisation => ({
  match,
  pixelSet: match.banked.template.full,
  alike: match.fit,
  hessian: match.fit.hessian,
  fromPixelSet: identity,
  toPixelSet: identity,
});

/**
 * Linearises what was found in a picture. With `area`, the picture about it, only the runs that tell
 * most are registered with the fixed Hessian, but for a grainy template, which needs all it has.
 */
export function linearise(kernels: TrackKernels, match: Match, area: Patch | null): Linearisation {
  const { fit, banked, model } = match;
  const { template } = banked;
  const { gradientRuns } = template;
  if (!area || !gradientRuns.inRuns || template.grain > leastGrain) return onAll(match);
  setStart(kernels, area, fit.matrix, fit);
  const going = { close: true, sameLight: true, enough: settled };
  if (!descendFrom(kernels, template, gradientRuns, model, area, banked.exposure, going)) return onAll(match);
  const alike = readFit(kernels, gradientRuns, area, model);
  const fromPixelSet = multiply(invert(alike.matrix), fit.matrix);
  const hessian = takeHessian(kernels, model);
  return { match, pixelSet: gradientRuns, alike, hessian, fromPixelSet, toPixelSet: invert(fromPixelSet) };
}

/** What a fixed-Hessian registration has found; it can be relied on where all is as it was when the linearisation was taken. */
export interface FixedHessianFit {
  fit: Fit;
  asBefore: boolean;
}

/**
 * Registers the pixels of a linearisation from about where they must be, held by what held them then. What it finds is never
 * surer than what the linearisation was taken from.
 */
export function registerFixedHessian(
  kernels: TrackKernels,
  { match, pixelSet, alike, hessian, fromPixelSet, toPixelSet }: Linearisation,
  area: Patch,
  start: Mat3,
  close: boolean,
  known: Exposure | null,
): FixedHessianFit | null {
  const { fit, banked, model } = match;
  const { template } = banked;
  const { full, subsample } = template;
  const go = (on: PixelSet, near: boolean, sameLight: boolean, enough: number) =>
    descendFrom(kernels, template, on, model, area, known, { close: near, sameLight, enough, hessian });
  const onward = close && known !== null;
  setStart(kernels, area, multiply(start, toPixelSet), known, onward ? leftOver(alike) : 0);
  const bySubsample = pixelSet === full && subsample !== full;
  if (bySubsample && !go(subsample, onward, false, nearlySettled)) return null;
  const ended = go(pixelSet, bySubsample || onward, bySubsample, settled);
  if (ended === Outcome.nowhere) return null;
  const seen = readFit(kernels, pixelSet, area, model);
  const worse = (measure: 'score' | 'trusted' | 'believed'): number =>
    fit[measure] + Math.min(seen[measure] - alike[measure], 0);
  return {
    asBefore: ended === Outcome.settled && isAsBefore(seen, alike, pixelSet !== full),
    fit: {
      matrix: multiply(seen.matrix, fromPixelSet),
      gain: seen.gain,
      bias: seen.bias,
      residual: fit.residual,
      score: worse('score'),
      trusted: worse('trusted'),
      believed: worse('believed'),
      share: fit.share,
      balance: fit.balance,
      error: fit.error,
      parallax: fit.parallax,
      codecBias: fit.codecBias,
      slide: fit.slide,
      cause: fit.cause,
      hessian: fit.hessian,
      blur: null,
    },
  };
}
