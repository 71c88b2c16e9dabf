import type { Point } from '../../geometry/mat3.js';
import type { Plane } from '../../track/image/plane.js';

// Sparse flow and corner scores in plain TypeScript: what the fast kernels must come to.

/** Scharr gradient, grey levels a pixel. */
function gradient({ data, stride }: Plane, x: number, y: number): Point {
  const at = (i: number, j: number): number => data[(y + j) * stride + x + i];
  const across = (j: number): number => at(1, j) - at(-1, j);
  const down = (i: number): number => at(i, 1) - at(i, -1);
  return {
    x: (3 * across(-1) + 10 * across(0) + 3 * across(1)) / 32,
    y: (3 * down(-1) + 10 * down(0) + 3 * down(1)) / 32,
  };
}

function linear({ data, stride }: Plane, x: number, y: number, s: number, t: number): number {
  const at = y * stride + x;
  return (
    (1 - t) * ((1 - s) * data[at] + s * data[at + 1]) +
    t * ((1 - s) * data[at + stride] + s * data[at + stride + 1])
  );
}

/**
 * Follows one point through two pyramids, finest level first. Returns where it went and the mean difference in
 * grey levels, -1 where the window leaves the picture or has nothing to hold on to. Where `centred`, a change of brightness
 * neither moves the point nor counts as a difference.
 */
export function flow(
  before: readonly Plane[],
  after: readonly Plane[],
  point: Point,
  guess: Point,
  window: number,
  iterations: number,
  settled: number,
  centred = false,
): Point & { residual: number } {
  const half = window >> 1;
  let [dx, dy] = [guess.x - point.x, guess.y - point.y];
  let residual = -1;
  for (let level = before.length - 1; level >= 0; level--) {
    const [a, b] = [before[level], after[level]];
    const scale = 1 / 2 ** level;
    const left = Math.floor(point.x * scale) - half;
    const top = Math.floor(point.y * scale) - half;
    const fits = (x: number, y: number, edge: number): boolean =>
      x >= edge && y >= edge && x + window <= a.width - 1 && y + window <= a.height - 1;
    residual = -1;
    if (!fits(left, top, 1)) continue;
    const cells = Array.from({ length: window * window }, (_, i) => ({
      i: i % window,
      j: Math.floor(i / window),
    })).map(({ i, j }) => ({
      i,
      j,
      g: gradient(a, left + i, top + j),
      level: a.data[(top + j) * a.stride + left + i],
    }));
    if (centred) {
      const mean = (of: (g: Point) => number): number =>
        Math.round((32 * cells.reduce((sum, { g }) => sum + of(g), 0)) / cells.length) / 32;
      const [mx, my] = [mean((g) => g.x), mean((g) => g.y)];
      for (const { g } of cells) [g.x, g.y] = [g.x - mx, g.y - my];
    }
    let [xx, xy, yy] = [0, 0, 0];
    for (const { g } of cells) [xx, xy, yy] = [xx + g.x * g.x, xy + g.x * g.y, yy + g.y * g.y];
    const least = (xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy);
    if (least < 0.02 * window * window) continue;
    let [u, v] = [dx * scale, dy * scale];
    let inside = true;
    for (let n = 0; n < iterations; n++) {
      const [ix, iy] = [Math.floor(u), Math.floor(v)];
      if (!(inside = fits(left + ix, top + iy, 0))) break;
      let [ex, ey] = [0, 0];
      for (const { i, j, g, level: wanted } of cells) {
        const error = wanted - linear(b, left + i + ix, top + j + iy, u - ix, v - iy);
        ex += error * g.x;
        ey += error * g.y;
      }
      const det = xx * yy - xy * xy;
      const step = { x: (yy * ex - xy * ey) / det, y: (xx * ey - xy * ex) / det };
      u += step.x;
      v += step.y;
      if (Math.hypot(step.x, step.y) < settled) break;
    }
    if (!inside) continue;
    [dx, dy] = [u / scale, v / scale];
    const [ix, iy] = [Math.floor(u), Math.floor(v)];
    if (level > 0 || !fits(left + ix, top + iy, 0)) continue;
    const changes = cells.map(
      ({ i, j, level: wanted }) => linear(b, left + i + ix, top + j + iy, u - ix, v - iy) - wanted,
    );
    const mean = (values: readonly number[]): number =>
      values.reduce((sum, value) => sum + value, 0) / values.length;
    const lift = centred ? Math.round(mean(changes)) : 0;
    residual = mean(changes.map((change) => Math.abs(change - lift)));
  }
  return { x: point.x + dx, y: point.y + dy, residual };
}

/**
 * The smaller eigenvalue of the gradients' second moments over the 8×8 pixels whose middle is (x, y), squared
 * grey levels a pixel.
 */
export function cornerScore({ data, stride }: Plane, x: number, y: number): number {
  let [xx, xy, yy] = [0, 0, 0];
  for (let j = y - 4; j < y + 4; j++) {
    for (let i = x - 4; i < x + 4; i++) {
      const at = j * stride + i;
      const gx = data[at + 1] - data[at - 1];
      const gy = data[at + stride] - data[at - stride];
      [xx, xy, yy] = [xx + gx * gx, xy + gx * gy, yy + gy * gy];
    }
  }
  return (xx + yy - Math.hypot(xx - yy, 2 * xy)) / 2 / 256;
}
