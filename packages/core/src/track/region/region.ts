import type { Point } from '../../geometry/mat3.js';
import type { Quad } from '../../geometry/quad.js';
import { flattenSpline, type ClosedSpline } from '../../geometry/closed-spline.js';

/** Where to look from a frame on: outlines as they lie on the region's reference frame. */
export interface OutlineKey {
  frame: number;
  splines: readonly ClosedSpline[];
}

/** What never counts: a spline as it lies on `frame`, riding on another track, or still where there is none. */
export interface HoldOut {
  frame: number;
  spline: ClosedSpline;
  /** The track that carries it; null where it stays where it was drawn. */
  trackId: string | null;
}

/**
 * A flat thing that is followed whole. It is drawn on its reference frame, where its pose is the identity: all is in clip
 * pixels there.
 */
export interface Region {
  /** The frame it was drawn on. */
  frame: number;
  /** The outlines in force from each frame on, and before the first of them. In order, one at least. */
  outlines: readonly OutlineKey[];
  holdOuts: readonly HoldOut[];
  /** Laid on the thing and carried by it; nothing is followed by it. */
  quad: Quad;
}

/** A region as tracking takes it: polygons, and the hold-outs carried to every frame beforehand. */
export interface RegionOptions {
  /** The middle of the outline on the reference frame: the place of its samples, clip pixels. */
  centre: Point;
  quad: Quad;
  outlines: readonly { frame: number; polygons: readonly (readonly Point[])[] }[];
  holdOuts: readonly CarriedPolygon[];
}

/** A polygon and, per frame, nine numbers that lead from where it was drawn to where it is; null where it stays. */
export interface CarriedPolygon {
  polygon: readonly Point[];
  frameFromShape: Float64Array | null;
}

/** The outlines that are in force on a frame. */
export const outlineAt = <T extends { frame: number }>(outlines: readonly T[], frame: number): T =>
  outlines.reduce((found, one) => (one.frame <= frame ? one : found), outlines[0]);

/** The polygons of splines. */
export const polygonsOf = (splines: readonly ClosedSpline[]): Point[][] => splines.map(flattenSpline);

/** The middle of the box about polygons. */
export function middleOf(polygons: readonly (readonly Point[])[]): Point {
  const { left, top, right, bottom } = boxAbout(polygons);
  return { x: (left + right) / 2, y: (top + bottom) / 2 };
}

/** The box about polygons. */
export function boxAbout(polygons: readonly (readonly Point[])[]) {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  for (const { x, y } of polygons.flat()) {
    box.left = Math.min(box.left, x);
    box.top = Math.min(box.top, y);
    box.right = Math.max(box.right, x);
    box.bottom = Math.max(box.bottom, y);
  }
  return box;
}
