import { invert, multiply, type Mat3 } from '../geometry/mat3.js';
import type { WarpModel } from '../geometry/warp-model.js';
import { solveSymmetric } from '../geometry/solve-symmetric.js';

/** What a motion may do, each more than the one before: move; and turn; and grow; and what a flat thing does in perspective. */
export const motionModels = ['shift', 'rotation', 'similarity', 'perspective'] as const;
export type MotionModel = (typeof motionModels)[number];

/** The same in the words of the literature. */
export const warpModelOf: Record<MotionModel, WarpModel> = {
  shift: 'translation',
  rotation: 'euclidean',
  similarity: 'similarity',
  perspective: 'homography',
};

/** The fewest points that tell a model. */
export const fewestPoints: Record<MotionModel, number> = {
  shift: 1,
  rotation: 2,
  similarity: 2,
  perspective: 4,
};

/** Points of one place and where they are in another, x, y; x, y; …, with a weight each. Only the first `count` are looked at. */
export interface Matches {
  count: number;
  from: Float64Array;
  to: Float64Array;
  weights: Float64Array;
}

const perspectiveSteps = 6;

/**
 * The motion of a model that carries the points best, in the weighted least-squares sense of where they arrive: in closed form
 * (Umeyama 1991), perspective by Gauss-Newton from the similarity. With too few points, or all in one place, a simpler model is
 * fitted; null with none.
 */
export function fitModel(model: MotionModel, matches: Matches): Mat3 | null {
  const { count, from, to, weights } = matches;
  let [total, fx, fy, tx, ty] = [0, 0, 0, 0, 0];
  for (let i = 0; i < count; i++) {
    const w = weights[i];
    total += w;
    fx += w * from[2 * i];
    fy += w * from[2 * i + 1];
    tx += w * to[2 * i];
    ty += w * to[2 * i + 1];
  }
  if (!(total > 0)) return null;
  [fx, fy, tx, ty] = [fx / total, fy / total, tx / total, ty / total];
  if (model === 'shift') return [1, 0, tx - fx, 0, 1, ty - fy, 0, 0, 1];
  let [dot, cross, spread] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const w = weights[i];
    const [ax, ay] = [from[2 * i] - fx, from[2 * i + 1] - fy];
    const [bx, by] = [to[2 * i] - tx, to[2 * i + 1] - ty];
    dot += w * (ax * bx + ay * by);
    cross += w * (ax * by - ay * bx);
    spread += w * (ax * ax + ay * ay);
  }
  // Less than a pixel apart, the points say nothing about turning.
  if (count < 2 || !(spread / total > 1)) return [1, 0, tx - fx, 0, 1, ty - fy, 0, 0, 1];
  const size = model === 'rotation' ? Math.hypot(dot, cross) : spread;
  const [a, b] = [dot / size, cross / size];
  const similar: Mat3 = [a, -b, tx - a * fx + b * fy, b, a, ty - b * fx - a * fy, 0, 0, 1];
  if (model !== 'perspective' || count < fewestPoints.perspective) return similar;
  return fitPerspective(matches, similar, Math.sqrt(spread / total), { x: fx, y: fy }) ?? similar;
}

/** Gauss-Newton on H = S·(I + D), with D in the points' own spread about their middle; null where they lie too nearly in a line. */
function fitPerspective(
  { count, from, to, weights }: Matches,
  start: Mat3,
  unit: number,
  middle: { x: number; y: number },
): Mat3 | null {
  const back: Mat3 = [1 / unit, 0, -middle.x / unit, 0, 1 / unit, -middle.y / unit, 0, 0, 1];
  let h = multiply(start, invert(back));
  const normal = new Float64Array(64);
  const right = new Float64Array(8);
  const [jx, jy] = [new Float64Array(8), new Float64Array(8)];
  for (let step = 0; step < perspectiveSteps; step++) {
    normal.fill(0);
    right.fill(0);
    for (let i = 0; i < count; i++) {
      const [u, v] = [(from[2 * i] - middle.x) / unit, (from[2 * i + 1] - middle.y) / unit];
      const z = 1 / (h[6] * u + h[7] * v + h[8]);
      const [x, y] = [(h[0] * u + h[1] * v + h[2]) * z, (h[3] * u + h[4] * v + h[5]) * z];
      jx.set([u * z, v * z, z, 0, 0, 0, -x * u * z, -x * v * z]);
      jy.set([0, 0, 0, u * z, v * z, z, -y * u * z, -y * v * z]);
      const [ex, ey, w] = [to[2 * i] - x, to[2 * i + 1] - y, weights[i]];
      for (let r = 0; r < 8; r++) {
        right[r] += w * (jx[r] * ex + jy[r] * ey);
        for (let c = 0; c <= r; c++) normal[8 * r + c] += w * (jx[r] * jx[c] + jy[r] * jy[c]);
      }
    }
    const change = solveSymmetric(normal, right, 8);
    if (!change) return null;
    h = h.map((value, i) => (i < 8 ? value + change[i] : value)) as unknown as Mat3;
    if (Math.abs(change[2]) + Math.abs(change[5]) < 1e-5) break;
  }
  const full = multiply(h, back);
  return full[8] > 0 ? (full.map((value) => value / full[8]) as unknown as Mat3) : null;
}

/** How a robust fit counts a distance: Geman & McClure's weight, 1 at nothing, a quarter at `scale`. */
export const gemanMcClure = (squared: number, scale: number): number =>
  1 / (1 + squared / (scale * scale)) ** 2;
