import type { Point } from '../geometry/mat3.js';
import type { HalfSpace } from './linear-program.js';

/**
 * The point nearest to the origin that lies in all half-planes, within a square of ±bound.
 * The half-planes clip the square one by one (Sutherland & Hodgman 1974). Null when nothing is left.
 */
export function nearestToOrigin(planes: readonly HalfSpace[], bound: number): Point | null {
  let polygon: Point[] = [
    { x: -bound, y: -bound },
    { x: bound, y: -bound },
    { x: bound, y: bound },
    { x: -bound, y: bound },
  ];
  for (const { a, b } of planes) {
    const excess = polygon.map((p) => a[0] * p.x + a[1] * p.y - b);
    if (excess.every((e) => e <= 0)) continue;
    const kept: Point[] = [];
    polygon.forEach((p, i) => {
      const next = (i + 1) % polygon.length;
      if (excess[i] <= 0) kept.push(p);
      if (excess[i] <= 0 !== excess[next] <= 0) {
        const t = excess[i] / (excess[i] - excess[next]);
        kept.push({ x: p.x + t * (polygon[next].x - p.x), y: p.y + t * (polygon[next].y - p.y) });
      }
    });
    polygon = kept;
    if (polygon.length === 0) return null;
  }
  if (planes.every(({ b }) => b >= 0)) return { x: 0, y: 0 };
  let best = polygon[0];
  polygon.forEach((p, i) => {
    const q = polygon[(i + 1) % polygon.length];
    const dx = q.x - p.x;
    const dy = q.y - p.y;
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(Math.max(-(p.x * dx + p.y * dy) / length, 0), 1) : 0;
    const near = { x: p.x + t * dx, y: p.y + t * dy };
    if (Math.hypot(near.x, near.y) < Math.hypot(best.x, best.y)) best = near;
  });
  return best;
}
