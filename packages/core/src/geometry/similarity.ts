import type { Mat3, Point } from './mat3.js';

/**
 * A turn and a growth about a pivot, then a shift: p ↦ scale·R(rotation)·(p − pivot) + pivot + (x, y).
 * Lengths in pixels, rotation in radians (positive is clockwise on screen), scale 1 is unchanged.
 */
export interface Similarity {
  x: number;
  y: number;
  rotation: number;
  scale: number;
}

export const stillness: Readonly<Similarity> = { x: 0, y: 0, rotation: 0, scale: 1 };

export function similarityMatrix(s: Similarity, pivot: Point): Mat3 {
  const a = s.scale * Math.cos(s.rotation);
  const b = s.scale * Math.sin(s.rotation);
  return [
    a,
    -b,
    pivot.x + s.x - a * pivot.x + b * pivot.y,
    b,
    a,
    pivot.y + s.y - b * pivot.x - a * pivot.y,
    0,
    0,
    1,
  ];
}

export interface PointPair {
  from: Point;
  to: Point;
  weight: number;
}

/**
 * The similarity that best carries `from` to `to` in the weighted least-squares sense, in closed form
 * (Umeyama 1991, without reflections). With one pair, or with all points in one place, only the shift is
 * found and `previous` gives rotation and scale. Returns null for no pairs.
 */
export function fitSimilarity(
  pairs: readonly PointPair[],
  pivot: Point,
  previous: Readonly<Similarity> = stillness,
): Similarity | null {
  let total = 0;
  let fx = 0;
  let fy = 0;
  let tx = 0;
  let ty = 0;
  for (const { from, to, weight } of pairs) {
    total += weight;
    fx += weight * from.x;
    fy += weight * from.y;
    tx += weight * to.x;
    ty += weight * to.y;
  }
  if (!(total > 0)) return null;
  fx /= total;
  fy /= total;
  tx /= total;
  ty /= total;

  let dot = 0;
  let cross = 0;
  let spread = 0;
  for (const { from, to, weight } of pairs) {
    const ax = from.x - fx;
    const ay = from.y - fy;
    const bx = to.x - tx;
    const by = to.y - ty;
    dot += weight * (ax * bx + ay * by);
    cross += weight * (ax * by - ay * bx);
    spread += weight * (ax * ax + ay * ay);
  }
  // Less than a pixel apart, the points say nothing about turning.
  const turns = pairs.length > 1 && spread / total > 1;
  const rotation = turns ? Math.atan2(cross, dot) : previous.rotation;
  const scale = turns ? Math.hypot(dot, cross) / spread : previous.scale;
  const a = scale * Math.cos(rotation);
  const b = scale * Math.sin(rotation);
  return {
    x: tx - pivot.x - (a * (fx - pivot.x) - b * (fy - pivot.y)),
    y: ty - pivot.y - (b * (fx - pivot.x) + a * (fy - pivot.y)),
    rotation,
    scale,
  };
}
