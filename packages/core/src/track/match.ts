import type { Mat3, Point } from '../geometry/mat3.js';
import type { Look } from './look.js';
import type { Fit } from './refine.js';
import type { Shape } from './shape.js';

/** A look registered somewhere in the picture. */
export interface Match {
  look: Look;
  /** What the box was let do. */
  shape: Shape;
  fit: Fit;
  /** From the key's box to the picture. */
  pose: Mat3;
  /** Against the best this look has been; 1 when just so. */
  likeness: number;
  confidence: number;
  /** Below 1 where it may as well be a double. */
  doubt: number;
  /** False where it lies too far from where it was expected to be believed. */
  credible: boolean;
}

/** Likeness at which a fit where the point was expected needs no search. */
export const asExpected = 0.9;
/** Likeness, and share of the box, asked of a point that was missing. */
export const recognised = 0.85;
export const recognisedShare = 0.6;

export const isGood = (match: Match | null): boolean =>
  !!match?.credible && match.likeness >= asExpected && match.fit.share >= recognisedShare;

/** Whether the picture fits as it did, and as much of it is believed. */
export const isAsBefore = (fit: Fit, before: Fit): boolean =>
  fit.residual <= 1.2 * before.residual + 0.25 &&
  fit.score >= before.score - 0.01 - 0.15 * (1 - before.score) &&
  fit.believed >= before.believed - 0.05;

/** Where a fit has the middle of its box. */
export const middleOf = ({ fit: { matrix } }: Match): Point => ({
  x: matrix[2] / matrix[8],
  y: matrix[5] / matrix[8],
});

/** Whether a place found to whole pixels is the one that registration found. */
export const isAt = (peak: Point, { x, y }: Point): boolean => Math.hypot(peak.x - x, peak.y - y) < 1.5;

/** What can be believed goes before what cannot; then likeness counts. */
export const rank = ({ credible, likeness }: Match): number => (credible ? 10 : 0) + likeness;
