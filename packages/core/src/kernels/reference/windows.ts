import type { Point } from '../../geometry/mat3.js';
import type { Plane } from '../../track/image/plane.js';

// What a window shows in plain TypeScript: what the fast kernel must come to.

/** The pixels from `first` on and before `end` that a window about a place takes along one side. */
function span(middle: number, window: number, first: number, end: number): number[] {
  const from = Math.floor(middle) - (window >> 1);
  const pixels: number[] = [];
  for (let i = Math.max(from, first); i < Math.min(from + window, end); i++) pixels.push(i);
  return pixels;
}

/** The mean squared slope along the direction that has least of it, squared grey levels a pixel. */
export function slopeIn({ data, width, height, stride }: Plane, { x, y }: Point, window: number): number {
  let [xx, xy, yy, count] = [0, 0, 0, 0];
  for (const j of span(y, window, 1, height - 1))
    for (const i of span(x, window, 1, width - 1)) {
      const at = j * stride + i;
      const gx = (data[at + 1] - data[at - 1]) / 2;
      const gy = (data[at + stride] - data[at - stride]) / 2;
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
      count++;
    }
  return count > 0 ? ((xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy)) / count : 0;
}

/** The mean deviation of the levels, grey levels. */
export function deviationIn({ data, width, height, stride }: Plane, { x, y }: Point, window: number): number {
  const columns = span(x, window, 0, width);
  const levels = span(y, window, 0, height).flatMap((j) => columns.map((i) => data[j * stride + i]));
  if (levels.length === 0) return 0;
  const mean = levels.reduce((sum, level) => sum + level, 0) / levels.length;
  return levels.reduce((sum, level) => sum + Math.abs(level - mean), 0) / levels.length;
}
