import {
  apply,
  fromSquarePixels,
  matrixAt,
  multiply,
  translation,
  type Mat3,
  type Point,
} from '../../geometry/mat3.js';
import { keysAbout } from '../../geometry/keys.js';
import { poseMatrix, type Pose } from '../../geometry/pose.js';
import { boxCorners, type Quad } from '../../geometry/quad.js';
import {
  flattenSpline,
  polygonArea,
  splineBetween,
  type ClosedSpline,
} from '../../geometry/closed-spline.js';

/** Where to look from a frame on: outlines as they lie on the region's reference frame. */
export interface OutlineKey {
  frame: number;
  splines: readonly ClosedSpline[];
}

/** A spline as it is from a frame on, and on the way to the next. */
export interface SplineKey {
  frame: number;
  spline: ClosedSpline;
}

/** What never counts: a spline as it lies on `frame`, riding on another track, or still where there is none. */
export interface HoldOut {
  frame: number;
  spline: ClosedSpline;
  /** What it looks like on other frames, as it would lie on its own, in order; between them each knot goes from one to the other. */
  keys?: readonly SplineKey[];
  /** The track that carries it; it stays where it was drawn where there is none. */
  trackId?: string;
}

/**
 * A flat thing that is followed whole. It is drawn on its reference frame, where its pose is the identity: all is in clip
 * pixels there.
 */
export interface Region {
  /** The frame it was drawn on, and where its place is there. */
  frame: number;
  centre: Point;
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
  /** Where it is another on other frames. */
  keys?: readonly SplineKey[];
  frameFromShape: Float64Array | null;
}

/** A region whose hold-outs' carriers go by other names; those that have none stay where they were drawn. */
export const withCarriers = <R extends { holdOuts: readonly HoldOut[] }>(
  region: R,
  nameOf: (trackId: string) => string | undefined,
): R => ({
  ...region,
  holdOuts: region.holdOuts.map(({ trackId, ...holdOut }) => {
    const name = trackId === undefined ? undefined : nameOf(trackId);
    return name === undefined ? holdOut : { ...holdOut, trackId: name };
  }),
});

/** What keyed splines come to on a frame, as the first before it and as the last after. */
function keyedSpline(keys: readonly SplineKey[], frame: number): ClosedSpline {
  const { before, after, share } = keysAbout(keys, frame);
  return splineBetween(before.spline, after.spline, share);
}

/** A hold-out's spline on a frame, as it would lie on its own. */
export const holdOutSpline = ({ spline, keys = [] }: HoldOut, frame: number): ClosedSpline =>
  keys.length > 0 ? keyedSpline(keys, frame) : spline;

/** Where a carried polygon is on a frame. */
export function polygonOn({ polygon, keys = [], frameFromShape }: CarriedPolygon, frame: number): Point[] {
  const shape = keys.length > 0 ? flattenSpline(keyedSpline(keys, frame)) : [...polygon];
  if (!frameFromShape) return shape;
  const m = matrixAt(frameFromShape, frame);
  return shape.map(({ x, y }) => apply(m, x, y));
}

/** The outlines that are in force on a frame. */
export const outlineAt = <T extends { frame: number }>(outlines: readonly T[], frame: number): T =>
  outlines.reduce((found, one) => (one.frame <= frame ? one : found), outlines[0]);

/** The polygons of splines. */
export const polygonsOf = (splines: readonly ClosedSpline[]): Point[][] => splines.map(flattenSpline);

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

/** The corners of its quad from its place, as samples have them. */
export const cornersFromCentre = ({ quad, centre }: Pick<Region, 'quad' | 'centre'>): Point[] =>
  quad.map(({ x, y }) => ({ x: x - centre.x, y: y - centre.y }));

/** From the frame that a region was drawn on to one where its place is known, clip pixels both. */
export function regionMatrix(place: Readonly<Pose>, { x, y }: Point, aspect = 1): Mat3 {
  const here = fromSquarePixels(poseMatrix({ ...place, x: place.x * aspect }), aspect);
  return multiply(here, translation(-x, -y));
}

/** A region of some splines on a frame, its quad about them where none is given. */
export function regionOn(frame: number, splines: readonly ClosedSpline[], quad?: Quad): Region {
  const box = boxAbout(polygonsOf(splines));
  return {
    frame,
    centre: { x: (box.left + box.right) / 2, y: (box.top + box.bottom) / 2 },
    outlines: [{ frame, splines }],
    holdOuts: [],
    quad: quad ?? boxCorners(box),
  };
}

/** Pixels that a region has at least. */
const leastArea = 144;
/** Nor may it be narrower than this, clip pixels. */
const leastWidth = 6;

/** Why a region cannot be followed, whatever the picture shows; null where it can. `name` begins the sentence. */
export function faultOf(
  { outlines, quad }: Pick<Region, 'outlines' | 'quad'>,
  name: string,
  { width, height }: { width: number; height: number },
): string | null {
  for (const { splines } of outlines) {
    if (splines.length === 0) return `${name} has no outline to look in.`;
    if (splines.some(({ knots }) => knots.length < 3))
      return `${name} has an outline of fewer than three points.`;
    const polygons = polygonsOf(splines);
    const { left, top, right, bottom } = boxAbout(polygons);
    const area = polygons.reduce((sum, polygon) => sum + polygonArea(polygon), 0);
    if (
      right - left < leastWidth ||
      bottom - top < leastWidth ||
      area < leastWidth * Math.max(right - left, bottom - top)
    )
      return `${name} is a line: draw its outline about the thing, loosely.`;
    if (area < leastArea)
      return `${name} is too small to be followed whole: ${Math.round(area)} pixels; follow a point there.`;
    if (right < 0 || bottom < 0 || left > width || top > height) return `${name} lies outside the picture.`;
  }
  return isConvex(quad)
    ? null
    : `The quad of ${name} must go round, upper left first, without crossing itself.`;
}

/** Whether corners in order go round clockwise on screen. */
export const isConvex = (corners: Quad): boolean =>
  corners.every((b, i) => {
    const [a, c] = [corners[(i + 3) % 4], corners[(i + 1) % 4]];
    return (b.x - a.x) * (c.y - b.y) - (b.y - a.y) * (c.x - b.x) > 0;
  });

/** A region as tracking takes it; `carried` tells how a hold-out rides: nine numbers a frame, null where it stays. */
export const regionOptions = (
  { centre, quad, outlines, holdOuts }: Region,
  carried: (holdOut: HoldOut) => Float64Array | null,
): RegionOptions => ({
  centre,
  quad,
  outlines: outlines.map(({ frame, splines }) => ({ frame, polygons: polygonsOf(splines) })),
  holdOuts: holdOuts.map((one) => ({
    polygon: flattenSpline(one.spline),
    ...(one.keys && { keys: one.keys }),
    frameFromShape: carried(one),
  })),
});
