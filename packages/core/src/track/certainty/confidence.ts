import type { PositionUncertainty } from './position-uncertainty.js';
import { Reason } from '../sample-reason.js';
import type { Fit } from '../register/registration.js';

/**
 * How sure a fit is, 0–1, calibrated on generated truth (`npm run bench -- accuracy`): of samples at `sure` and
 * above at least 99 in 100 lie within half a pixel.
 */
export const sure = 0.8;

/** Expected error, in pixels, at which a fit is worth a half, and how fast that goes: four fifths at 0.14. */
const halfError = 0.38;
const errorSlope = 1.4;
/** No place is known better than this, pixels. */
const leastError = 0.01;
/** Parts of the box that go their own ways, and what a codec may have done, make a fit doubtful, but not lost. */
const halfParallax = 0.26;
const leastDoubted = 0.75;
/** What they have lately gone apart is an error to be expected, so many times over. */
const lastingly = 1.2;
/** Likeness at which a fit is worth a half, and how fast that goes. */
const halfLikeness = 0.62;
const likenessSlope = 0.07;
/** Where less of the box than this shows what the template shows, to within the noise, it may be something else. */
const wantedShare = 0.72;
/** Where it is less than this, that is what is wrong. */
const nearlyWhole = 0.8;

type Resemblance = Pick<Fit, 'score' | 'trusted' | 'share'>;

/**
 * How much a fit is like what the template has been like at its best, 1 when just so. What is believed of a
 * partly covered box counts by the share that is left.
 */
export const likeness = (fit: Resemblance, best: number): number =>
  Math.max(fit.score, fit.trusted * Math.sqrt(Math.min(fit.share / usualShare, 1)) - 0.04) / best;

/** Cauchy weights of a normal distribution of residuals leave so much of the box. */
const usualShare = 0.88;

/** How sure a fit is, and what takes most from that. */
export interface Verdict {
  confidence: number;
  reason: Reason;
}

/**
 * `error` is the fit's own, unless more than that is to be expected; `apart`, how far the parts of the box have lately gone
 * apart, pixels.
 */
export function verdictOn(
  fit: Resemblance & PositionUncertainty,
  best: number,
  error = fit.error,
  apart = 0,
): Verdict {
  const alike = 1 / (1 + Math.exp((halfLikeness - likeness(fit, best)) / likenessSlope));
  const exact = exactly(error);
  const now = 1 / (1 + Math.max(fit.parallax, 0) / halfParallax ** 2);
  const lately = exactly(Math.hypot(error, lastingly * apart));
  const whole = Math.max(Math.min(now, lately), leastDoubted);
  const coded = exact > 0 ? Math.max(exactly(Math.hypot(error, fit.codecBias)) / exact, leastDoubted) : 1;
  const agreeing = Math.sqrt(Math.min(fit.share / wantedShare, 1));
  const confidence = alike * agreeing * coded * Math.min(exact, whole);
  // With a part of the box gone the rest is less like it and holds it less.
  if (alike < 0.5) return { confidence, reason: Reason.missing };
  if (fit.share < nearlyWhole) return { confidence, reason: Reason.covered };
  const least = Math.min(alike, coded, exact, whole);
  if (least === alike) return { confidence, reason: Reason.unlike };
  if (least === coded) return { confidence, reason: Reason.coded };
  if (whole < exact) return { confidence, reason: Reason.parted };
  return { confidence, reason: error > Math.SQRT2 * fit.error ? Reason.turn : fit.cause };
}

/** The expected error, in pixels, that leaves no more than this of a confidence; of a hand-placed key, a hundredth. */
export const expectedErrorAt = (confidence: number): number =>
  Math.max(leastError, halfError * (1 / Math.max(confidence, 1e-6) - 1) ** (1 / errorSlope));

/** What an expected error, in pixels, leaves of a confidence. */
const exactly = (error: number): number => 1 / (1 + (error / halfError) ** errorSlope);
