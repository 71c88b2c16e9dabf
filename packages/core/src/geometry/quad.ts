import type { Mat3, Point } from './mat3.js';

/** Four corners: upper left and right, lower right and left. */
export type Quad = readonly [Point, Point, Point, Point];

/**
 * The perspective that takes the unit square to a quad, corner by corner in order (Heckbert 1989); affine where the quad is a
 * parallelogram. Null where the last three corners lie in a line.
 */
export function quadFromSquare([a, b, c, d]: Quad): Mat3 | null {
  const [sx, sy] = [a.x - b.x + c.x - d.x, a.y - b.y + c.y - d.y];
  if (sx === 0 && sy === 0) return [b.x - a.x, d.x - a.x, a.x, b.y - a.y, d.y - a.y, a.y, 0, 0, 1];
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
