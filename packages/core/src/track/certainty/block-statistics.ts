import { axesOf } from '../../geometry/axes.js';
import { solveSymmetric } from '../../geometry/solve-symmetric.js';

/** A template is cut into at most so many blocks each way. */
export const mostBlocks = 4;

/** What the blocks of a registered template ask for by themselves, as the kernel `blockSums` tells it. */
export interface Blocks {
  across: number;
  down: number;
  /** n right-hand sides, then xx, xy, yy of the normal matrix for shift, for each block. */
  sums: ArrayLike<number>;
}

/** How the middle of a box answers to each right-hand side: two rows of the inverse of its normal matrix. */
export interface Sensitivity {
  alongX: Float64Array;
  alongY: Float64Array;
}

/**
 * `normal` is the whole template's, n×n; `first` the parameter of shift along x, that along y after it. Null where it is
 * singular.
 */
export function sensitivityOf(normal: ArrayLike<number>, n: number, first: number): Sensitivity | null {
  const unit = new Float64Array(n);
  unit[first] = 1;
  const alongX = solveSymmetric(normal, unit, n);
  unit.fill(0)[first + 1] = 1;
  const alongY = solveSymmetric(normal, unit, n);
  return alongX && alongY && { alongX, alongY };
}

/**
 * How much looser the middle of a box is than if it could but shift, as a ratio of variances along the longest direction: where
 * its texture lies aside, what turns and grows it takes the middle along. `least` is the least that holds it by shift alone.
 */
export function varianceInflation({ alongX, alongY }: Sensitivity, least: number, first: number): number {
  return axesOf(alongX[first], alongX[first + 1], alongY[first + 1]).most * least;
}

/**
 * How far the position may be off for all that the blocks disagree, pixels: the cluster-robust covariance of Liang &
 * Zeger 1986, along its longest direction. It sees what is no mere noise: motion blur, blocks of compression, something
 * half in the way.
 */
export function clusterRobustError(
  { across, down, sums }: Blocks,
  { alongX, alongY }: Sensitivity,
  n: number,
): number {
  const count = across * down;
  let [xx, xy, yy] = [0, 0, 0];
  for (let b = 0; b < count; b++) {
    let [dx, dy] = [0, 0];
    for (let j = 0; j < n; j++) {
      dx += alongX[j] * sums[b * (n + 3) + j];
      dy += alongY[j] * sums[b * (n + 3) + j];
    }
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
  }
  return Math.sqrt(axesOf(xx, xy, yy).most * (count / Math.max(count - 1, 1)));
}

/** Ways to part a box in two, by the middle of a block from −1 to 1 each way. */
const partings: ((x: number, y: number) => boolean)[] = [
  (x) => x < 0,
  (_, y) => y < 0,
  (x, y) => x + y < 0,
  (x, y) => x < y,
  (x, y) => Math.abs(x) < 0.6 && Math.abs(y) < 0.6,
];

/**
 * How far apart two parts of the box would have gone by themselves, pixels: the lesser of the two ways from where
 * both together have come to. Things at two depths in one box pull it between them; where one of the two has won it
 * is near nothing.
 */
export function parallaxOf({ across, down, sums }: Blocks, n: number, first: number): number {
  let most = 0;
  for (const isFirst of partings) {
    const sides = [new Float64Array(5), new Float64Array(5)];
    for (let j = 0, at = 0; j < down; j++)
      for (let i = 0; i < across; i++, at += n + 3) {
        const side = sides[isFirst((2 * i + 1) / across - 1, (2 * j + 1) / down - 1) ? 0 : 1];
        side[0] += sums[at + first];
        side[1] += sums[at + first + 1];
        for (let k = 0; k < 3; k++) side[2 + k] += sums[at + n + k];
      }
    most = Math.max(most, Math.min(...sides.map(wayOf)));
  }
  return most;
}

/** Room for the normal matrix of a bend, 6×6. */
const bendNormal = new Float64Array(36);

/**
 * How far the middle of the box would go were the box let change in every way that keeps lines straight and parallel, pixels:
 * where its shape does not allow what has become of it, it lies where most of its texture is right, and the middle is off.
 */
export function affineBiasOf({ across, down, sums }: Blocks, n: number, first: number): number {
  bendNormal.fill(0);
  const right = new Float64Array(6);
  for (let j = 0, at = 0; j < down; j++)
    for (let i = 0; i < across; i++, at += n + 3) {
      const place = [1, (2 * i + 1) / across - 1, (2 * j + 1) / down - 1];
      const [xx, xy, yy] = [sums[at + n], sums[at + n + 1], sums[at + n + 2]];
      for (let k = 0; k < 3; k++) {
        right[k] += place[k] * sums[at + first];
        right[3 + k] += place[k] * sums[at + first + 1];
        // Only the lower triangle is asked for.
        for (let l = 0; l < 3; l++) {
          const both = place[k] * place[l];
          bendNormal[6 * k + l] += both * xx;
          bendNormal[6 * (3 + k) + l] += both * xy;
          bendNormal[6 * (3 + k) + 3 + l] += both * yy;
        }
      }
    }
  const way = solveSymmetric(bendNormal, right, 6);
  return way ? Math.hypot(way[0], way[3]) : 0;
}

/** The shift that solves xx xy; xy yy against the right-hand side; none where there is nothing to hold on to. */
function wayOf([x, y, xx, xy, yy]: Float64Array): number {
  const det = xx * yy - xy * xy;
  if (!(det > 1e-6 * (xx + yy) ** 2)) return 0;
  return Math.hypot((x * yy - y * xy) / det, (y * xx - x * xy) / det);
}
