import { apply, invert, multiply, scaleAbout, type Mat3, type Point } from './mat3.js';

/** Four corners: upper left and right, lower right and left. */
export type Quad = readonly [Point, Point, Point, Point];

/**
 * The perspective that takes the unit square to a quad, corner by corner in order (Heckbert 1989); affine where the quad is a
 * parallelogram. Null where the last three corners lie in a line.
 */
export function quadFromSquare([a, b, c, d]: Quad): Mat3 | null {
  const [sx, sy] = [a.x - b.x + c.x - d.x, a.y - b.y + c.y - d.y];
  if (sx === 0 && sy === 0) {
    const area = (b.x - a.x) * (d.y - a.y) - (b.y - a.y) * (d.x - a.x);
    return Math.abs(area) > 1e-12 ? [b.x - a.x, d.x - a.x, a.x, b.y - a.y, d.y - a.y, a.y, 0, 0, 1] : null;
  }
  const [px, py] = [b.x - c.x, b.y - c.y];
  const [qx, qy] = [d.x - c.x, d.y - c.y];
  const det = px * qy - qx * py;
  if (!(Math.abs(det) > 1e-12)) return null;
  const g = (sx * qy - qx * sy) / det;
  const h = (px * sy - sx * py) / det;
  return [
    b.x - a.x + g * b.x,
    d.x - a.x + h * d.x,
    a.x,
    b.y - a.y + g * b.y,
    d.y - a.y + h * d.y,
    a.y,
    g,
    h,
    1,
  ];
}

/** Eight numbers as four corners. */
export const quadOf = (q: readonly number[]): Quad => [
  { x: q[0], y: q[1] },
  { x: q[2], y: q[3] },
  { x: q[4], y: q[5] },
  { x: q[6], y: q[7] },
];

/** Nothing is seen of a side this long, pixels. */
const shortest = 1e-3;

/** The perspective that takes the unit square to a quad that has an inside all over; null where it has none. */
export function squareTo(quad: Quad): Mat3 | null {
  const square = quadFromSquare(quad);
  const isOpen = square && [0, 1].every((x) => [0, 1].every((y) => scaleAbout(square, { x, y }) > shortest));
  return isOpen ? square : null;
}

/** The perspective that takes one quad to another, corner by corner; null where either is none. */
export function quadFromQuad(to: Quad, from: Quad): Mat3 | null {
  const [there, here] = [quadFromSquare(to), quadFromSquare(from)];
  return there && here && multiply(there, invert(here));
}

/** The corners of a box. */
export const boxCorners = (box: { left: number; top: number; right: number; bottom: number }): Quad => [
  { x: box.left, y: box.top },
  { x: box.right, y: box.top },
  { x: box.right, y: box.bottom },
  { x: box.left, y: box.bottom },
];

/**
 * The width over the height of the rectangle that a quad is the picture of, for a lens whose axis meets the picture at `axis`
 * (Zhang & He 2007). Where it is seen too nearly straight to tell, as its sides are long.
 */
export function quadProportion(quad: Quad, axis: Point): number {
  const m = quadFromSquare(quad.map(({ x, y }) => ({ x: x - axis.x, y: y - axis.y })) as unknown as Quad);
  const side = (a: number, b: number): number => Math.hypot(quad[a].x - quad[b].x, quad[a].y - quad[b].y);
  const asDrawn = (side(0, 1) + side(3, 2)) / (side(0, 3) + side(1, 2));
  if (!m) return asDrawn;
  const [along, down] = [
    [m[0], m[3], m[6]],
    [m[1], m[4], m[7]],
  ];
  const squared = -(along[0] * down[0] + along[1] * down[1]) / (along[2] * down[2]);
  const told = (side(0, 1) + side(0, 3)) / 2;
  // A focal length that no lens has for the picture's size: the vanishing points are too far off to tell.
  if (!(squared > (0.2 * told) ** 2 && squared < (60 * told) ** 2)) return asDrawn;
  const length = ([x, y, w]: readonly number[]): number => Math.sqrt((x * x + y * y) / squared + w * w);
  return length(along) / length(down);
}

/** How something is put into a quad: all of it drawn to fit; as large as fits at its own proportions; or filling it at those. */
export const quadFits = ['stretch', 'fit', 'fill'] as const;
export type QuadFit = (typeof quadFits)[number];

/** The corners of something of a proportion that is put into a quad, whose own proportion is that of a rectangle in its plane. */
export function fitInto(quad: Quad, how: QuadFit, own: number, proportion: number): Point[] {
  const matrix = quadFromSquare(quad);
  if (!matrix || how === 'stretch') return [...quad];
  const wider = own / proportion;
  const isAcross = how === 'fit' ? wider > 1 : wider < 1;
  const [u, v] = isAcross ? [0, (1 - 1 / wider) / 2] : [(1 - wider) / 2, 0];
  return [apply(matrix, u, v), apply(matrix, 1 - u, v), apply(matrix, 1 - u, 1 - v), apply(matrix, u, 1 - v)];
}
