import { apply, type Mat3, type Point } from './mat3.js';

/** A knot of a spline, with how far its two handles reach from it; both zero at a corner. */
export interface SplineKnot extends Point {
  inX: number;
  inY: number;
  outX: number;
  outY: number;
}

/** A closed curve of cubic Béziers from each knot to the next, and from the last to the first. */
export interface ClosedSpline {
  knots: readonly SplineKnot[];
}

export const cornerKnot = ({ x, y }: Point): SplineKnot => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 });

/** A knot that the curve goes through smoothly, leaving it towards a handle. */
export const smoothKnot = ({ x, y }: Point, handle: Point): SplineKnot => ({
  x,
  y,
  inX: x - handle.x,
  inY: y - handle.y,
  outX: handle.x - x,
  outY: handle.y - y,
});

/** A rectangle as a spline of four corners. */
export const rectangleSpline = (left: number, top: number, right: number, bottom: number): ClosedSpline => ({
  knots: [
    { x: left, y: top },
    { x: right, y: top },
    { x: right, y: bottom },
    { x: left, y: bottom },
  ].map(cornerKnot),
});

/** How far the handles of a quarter of a circle reach, of its radius. */
const quarter = 0.5522847498;

/** An ellipse in a rectangle, as a spline of four knots; off by no more than 0.03 % of its size. */
export function ellipseSpline(left: number, top: number, right: number, bottom: number): ClosedSpline {
  const [x, y] = [(left + right) / 2, (top + bottom) / 2];
  const [a, b] = [(right - left) / 2, (bottom - top) / 2];
  const knots = [
    [0, -1],
    [1, 0],
    [0, 1],
    [-1, 0],
  ].map(([u, v]) => {
    const at = { x: x + a * u, y: y + b * v };
    return smoothKnot(at, { x: at.x - quarter * a * v, y: at.y + quarter * b * u });
  });
  return { knots };
}

/** A spline a share of the way from one to another, knot by knot; the first where they have not the same knots. */
export function splineBetween(a: ClosedSpline, b: ClosedSpline, share: number): ClosedSpline {
  if (a.knots.length !== b.knots.length) return a;
  return {
    knots: a.knots.map((knot, i) => {
      const to = b.knots[i];
      const between = (name: keyof SplineKnot): number => knot[name] + share * (to[name] - knot[name]);
      return {
        ...{ x: between('x'), y: between('y'), inX: between('inX') },
        ...{ inY: between('inY'), outX: between('outX'), outY: between('outY') },
      };
    }),
  };
}

type Cubic = [Point, Point, Point, Point];

/** The Bézier that leaves a knot: its ends and its two inner control points. */
function pieceFrom({ knots }: ClosedSpline, index: number): Cubic {
  const [a, b] = [knots[index], knots[(index + 1) % knots.length]];
  return [a, { x: a.x + a.outX, y: a.y + a.outY }, { x: b.x + b.inX, y: b.y + b.inY }, b];
}

const isStraight = ({ knots }: ClosedSpline, index: number): boolean => {
  const [a, b] = [knots[index], knots[(index + 1) % knots.length]];
  return a.outX === 0 && a.outY === 0 && b.inX === 0 && b.inY === 0;
};

function pointOn([a, b, c, d]: Cubic, t: number): Point {
  const s = 1 - t;
  const [wa, wb, wc, wd] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t];
  return { x: wa * a.x + wb * b.x + wc * c.x + wd * d.x, y: wa * a.y + wb * b.y + wc * c.y + wd * d.y };
}

/** Straight pieces that a curved one is taken for. */
const piecesEach = 24;

/** The corners of a polygon that lies on the spline; a straight piece adds its first corner alone. */
export function flattenSpline(spline: ClosedSpline): Point[] {
  return spline.knots.flatMap((knot, i) => {
    if (isStraight(spline, i)) return [{ x: knot.x, y: knot.y }];
    const piece = pieceFrom(spline, i);
    return Array.from({ length: piecesEach }, (_, n) => pointOn(piece, n / piecesEach));
  });
}

/** Whether a point lies inside a polygon, by the even-odd rule. */
export function isInside(polygon: readonly Point[], { x, y }: Point): boolean {
  let inside = false;
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
    const [a, b] = [polygon[i], polygon[j]];
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}

/** Whether a point lies in any of some polygons. */
export const isInAny = (polygons: readonly (readonly Point[])[], p: Point): boolean =>
  polygons.some((polygon) => isInside(polygon, p));

/** How far a point is from the edge of a polygon. */
export function distanceToEdge(polygon: readonly Point[], p: Point): number {
  let least = Infinity;
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
    const [a, b] = [polygon[j], polygon[i]];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(Math.max(((p.x - a.x) * dx + (p.y - a.y) * dy) / length, 0), 1) : 0;
    least = Math.min(least, Math.hypot(p.x - a.x - t * dx, p.y - a.y - t * dy));
  }
  return least;
}

/** The area inside a polygon that does not cross itself. */
export function polygonArea(polygon: readonly Point[]): number {
  let twice = 0;
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++)
    twice += polygon[j].x * polygon[i].y - polygon[i].x * polygon[j].y;
  return Math.abs(twice) / 2;
}

/** Where a spline passes nearest to a point: the piece, by its first knot, how far along it, and how far off. */
export function nearestOn(spline: ClosedSpline, p: Point): { piece: number; t: number; distance: number } {
  let best = { piece: 0, t: 0, distance: Infinity };
  spline.knots.forEach((_, piece) => {
    const cubic = pieceFrom(spline, piece);
    for (let n = 0; n <= 4 * piecesEach; n++) {
      const t = n / (4 * piecesEach);
      const q = pointOn(cubic, t);
      const distance = Math.hypot(q.x - p.x, q.y - p.y);
      if (distance < best.distance) best = { piece, t, distance };
    }
  });
  return best;
}

const mix = (a: Point, b: Point, t: number): Point => ({
  x: a.x + t * (b.x - a.x),
  y: a.y + t * (b.y - a.y),
});

/** The same curve with one knot more on it: the piece after a knot is cut at `t` (de Casteljau). */
export function insertKnot(spline: ClosedSpline, piece: number, t: number): ClosedSpline {
  const { knots } = spline;
  const next = (piece + 1) % knots.length;
  const [a, b, c, d] = pieceFrom(spline, piece);
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  const [abc, bcd] = [mix(ab, bc, t), mix(bc, cd, t)];
  const at = mix(abc, bcd, t);
  const straight = isStraight(spline, piece);
  const fresh = straight
    ? cornerKnot(at)
    : { ...at, inX: abc.x - at.x, inY: abc.y - at.y, outX: bcd.x - at.x, outY: bcd.y - at.y };
  const changed = straight
    ? [...knots]
    : knots.map((knot, i) =>
        i === piece
          ? { ...knot, outX: ab.x - a.x, outY: ab.y - a.y }
          : i === next
            ? { ...knot, inX: cd.x - d.x, inY: cd.y - d.y }
            : knot,
      );
  changed.splice(piece + 1, 0, fresh);
  return { knots: changed };
}

/** A spline as a matrix carries it: its knots, and where their handles reach to. */
export const transformSpline = ({ knots }: ClosedSpline, matrix: Mat3): ClosedSpline => ({
  knots: knots.map((knot): SplineKnot => {
    const at = apply(matrix, knot.x, knot.y);
    const reach = (dx: number, dy: number): Point => {
      if (dx === 0 && dy === 0) return { x: 0, y: 0 };
      const to = apply(matrix, knot.x + dx, knot.y + dy);
      return { x: to.x - at.x, y: to.y - at.y };
    };
    const [before, after] = [reach(knot.inX, knot.inY), reach(knot.outX, knot.outY)];
    return { ...at, inX: before.x, inY: before.y, outX: after.x, outY: after.y };
  }),
});
