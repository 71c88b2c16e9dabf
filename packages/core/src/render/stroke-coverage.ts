import { strokeBox, strokePoints, type Stroke } from '../dress/stroke.js';
import type { PixelBox } from './warp-picture.js';

/** Dabs of a stroke that builds up, to its width; so many lie over each place that it passes once. */
const dabs = 4;

/** How much of each pixel of a box a stroke covers, 0 to 1. */
export function strokeCoverage(stroke: Stroke, box: PixelBox): Float32Array {
  const width = box.right - box.left;
  const made = new Float32Array(width * (box.bottom - box.top));
  const { strength, soft, buildUp } = stroke;
  const points = strokePoints(stroke).map(({ x, y, pressure }) => ({
    ...{ x: x - box.left, y: y - box.top },
    radius: (stroke.width / 2) * pressure,
  }));
  const own = strokeBox(stroke);
  const bottom = Math.min(Math.ceil(own.bottom), box.bottom) - box.top;
  const each = buildUp ? 1 - (1 - strength) ** (1 / dabs) : strength;
  type Place = (typeof points)[number];
  /** Goes over the pixels about a piece of the stroke. */
  const lay = (a: Place, b: Place, take: (before: number, covered: number) => number): void => {
    const reach = Math.max(a.radius, b.radius) + 1;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy;
    const from = Math.max(0, Math.floor(Math.min(a.x, b.x) - reach));
    const to = Math.min(width, Math.ceil(Math.max(a.x, b.x) + reach));
    const low = Math.min(bottom, Math.ceil(Math.max(a.y, b.y) + reach));
    for (let y = Math.max(0, Math.floor(Math.min(a.y, b.y) - reach)); y < low; y++)
      for (let x = from; x < to; x++) {
        const [px, py] = [x + 0.5 - a.x, y + 0.5 - a.y];
        const t = length > 0 ? Math.min(Math.max((px * dx + py * dy) / length, 0), 1) : 0;
        const away = Math.hypot(px - t * dx, py - t * dy);
        const covered = fading(a.radius + t * (b.radius - a.radius), away, soft);
        if (covered > 0) made[y * width + x] = take(made[y * width + x], each * covered);
      }
  };
  if (!buildUp) {
    points.forEach((point, i) => lay(points[Math.max(0, i - 1)], point, Math.max));
    return made;
  }
  for (const dab of spaced(points, Math.max(1, stroke.width / dabs)))
    lay(dab, dab, (before, covered) => before + (1 - before) * covered);
  return made;
}

/** How much is covered so far from the middle: a pixel's width of edge at least. */
function fading(radius: number, away: number, soft: number): number {
  const reach = Math.max(soft * radius, 1);
  const t = Math.min(Math.max((radius + 0.5 - away) / reach, 0), 1);
  return t * t * (3 - 2 * t);
}

/** Places along a line of points, so far apart. */
function spaced<T extends { x: number; y: number; radius: number }>(points: readonly T[], apart: number) {
  const made = [{ ...points[0] }];
  let ahead = apart;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1], points[i]];
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    for (; ahead <= length; ahead += apart) {
      const t = ahead / length;
      made.push({
        ...b,
        x: a.x + t * (b.x - a.x),
        y: a.y + t * (b.y - a.y),
        radius: a.radius + t * (b.radius - a.radius),
      });
    }
    ahead -= length;
  }
  return made;
}
