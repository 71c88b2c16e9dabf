import type { ClosedSpline, Point, SplineKnot } from '@lurn/core';
import { Parts, Pixels } from './fields.js';

/** A place in the picture, clip pixels, corner origin. */
export class PlaceRecord implements Point {
  @Pixels() x!: number;
  @Pixels() y!: number;
}

/** A knot of a closed spline, clip pixels, and how far its handles reach from it; 0 at a corner. */
export class KnotRecord extends PlaceRecord implements SplineKnot {
  @Pixels() inX = 0;
  @Pixels() inY = 0;
  @Pixels() outX = 0;
  @Pixels() outY = 0;
}

/** The most knots of an outline. */
export const mostKnots = 500;

/** A closed curve of cubic Béziers from knot to knot. */
export class SplineRecord implements ClosedSpline {
  @Parts(() => KnotRecord, { least: 3, most: mostKnots })
  knots!: KnotRecord[];
}
