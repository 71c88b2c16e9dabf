import type { Mat3, Point } from '../../geometry/mat3.js';
import type { BankedTemplate } from '../appearance/banked-template.js';
import type { Reason } from '../sample-reason.js';
import type { Fit, CoarseFit } from '../register/registration.js';
import type { WarpModel } from '../../geometry/warp-model.js';

/** A template seen somewhere in the picture. */
export interface Sighting {
  banked: BankedTemplate;
  /** What the box was let do. */
  model: WarpModel;
  fit: CoarseFit;
  /** From the key's box to the picture. */
  pose: Mat3;
  /** Against the best this look has been; 1 when just so. */
  likeness: number;
  /** Below 1 where it may as well be a distractor. */
  ambiguity: number;
  /** False where it lies too far from where it was expected to be believed. */
  credible: boolean;
}

/** One that was registered in all its pixels. */
export interface Match extends Sighting {
  fit: Fit;
  confidence: number;
  /** What takes most from the confidence. */
  reason: Reason;
}

/** Likeness at which a fit where the point was expected needs no search. */
export const asExpected = 0.9;
/** Likeness, and share of the box, asked of a point that was missing. */
export const recognised = 0.85;
export const recognisedShare = 0.6;

export const isGood = (match: Match | null): match is Match =>
  !!match?.credible && match.likeness >= asExpected && match.fit.share >= recognisedShare;

/**
 * Whether the picture fits as it did, and as much of it is believed; `roughly` where only edges are looked at, which
 * the least motion blur tells on.
 */
export const isAsBefore = (fit: CoarseFit, before: CoarseFit, roughly = false): boolean =>
  fit.residual <= (roughly ? 2 * before.residual + 1 : 1.2 * before.residual + 0.25) &&
  fit.score >= before.score - (roughly ? 0.025 : 0.01) - 0.15 * (1 - before.score) &&
  fit.believed >= before.believed - (roughly ? 0.15 : 0.05);

/** Where a fit has the middle of its box. */
export const middleOf = ({ fit: { matrix } }: Match): Point => ({
  x: matrix[2] / matrix[8],
  y: matrix[5] / matrix[8],
});

/** Whether a place found to whole pixels is the one that registration found. */
export const isAt = (peak: Point, { x, y }: Point): boolean => Math.hypot(peak.x - x, peak.y - y) < 1.5;

/** What can be believed goes before what cannot; then likeness counts. */
export const rank = ({ credible, likeness }: Sighting): number => (credible ? 10 : 0) + likeness;

/** What was seen, and how all of its pixels fit. */
export const matchOf = (
  { banked, model, pose, likeness, ambiguity, credible }: Sighting,
  fit: Fit,
  confidence: number,
  reason: Reason,
): Match => ({ banked, model, fit, pose, likeness, ambiguity, credible, confidence, reason });
