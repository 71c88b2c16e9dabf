import {
  distanceToEdge,
  flattenSpline,
  isInAny,
  isInside,
  type ClosedSpline,
} from '../geometry/closed-spline.js';
import type { Point } from '../geometry/mat3.js';

/** Where to look in a picture, clip pixels: in one of `within`, where there are any, and in none of `without`. */
export interface Areas {
  within: readonly ClosedSpline[];
  without: readonly ClosedSpline[];
}

/** Tells of places whether they may be looked at; they stay so far from the edges of what is kept out of, too. */
export function inAreas({ within, without }: Areas, clear = 0): (at: Point) => boolean {
  const wanted = within.map(flattenSpline);
  const unwanted = without.map(flattenSpline);
  return (at) =>
    (wanted.length === 0 || isInAny(wanted, at)) &&
    !unwanted.some((area) => isInside(area, at) || distanceToEdge(area, at) < clear);
}
