import { eigenSymmetric, powerOf } from '../geometry/eigen-symmetric.js';
import { invert, multiply, type Mat3 } from '../geometry/mat3.js';
import { solveSymmetric } from '../geometry/solve-symmetric.js';
import { exposureRows, rowsFor } from './grid.js';
import { changeOf, increment, parameterCount, steepestDescent, type Shape } from './shape.js';
import type { Template } from './template.js';

/**
 * A way of moving, other than a shift, of which a template's texture tells little: how a round mark turns, or how a lone
 * corner grows.
 */
export interface Untold {
  /**
   * A number for each parameter of the shape, with the shift that goes best with it, of such a size that as much texture
   * running in all directions would add 1 to the misfit's half second derivative.
   */
  motion: Float64Array;
  /** What makes a normal matrix stiff against it, a number for each parameter after those of shift; times `motion` it is 1. */
  stiff: Float64Array;
  /** What the texture was found to tell of it, as a share of what it would tell running in all directions. */
  share: number;
  /** What the last picture said of that. */
  said: number;
  /** As much again the template's grain seems to tell. */
  faked: number;
}

/** How much slope there is in a part of a box: the squares summed over its pixels; u and v are from the box's centre. */
export interface SlopeCell {
  u: number;
  v: number;
  energy: number;
  pixels: number;
}

/** Light and shift, which come before all other rows. */
const first = exposureRows + 2;
/** Where a template's own slopes tell no more than this share, a picture must prove that they do: it may be grain. */
const suspicious = 0.5;
/** Less than this share is too little to go by: a regular octagon that turns is just below it, a hexagon well above. */
const little = 0.12;
/** Motion of which nothing is told is held as if so many times as much were known of it as texture could tell. */
const damped = 10;

/**
 * The ways of moving that a template may not tell: from its normal matrix, n×n with the rows of light, where its slopes
 * lie, and what grain has put into the squared slopes of each pixel and direction.
 */
export function untoldOf(
  shape: Shape,
  normal: readonly number[],
  cells: readonly SlopeCell[],
  falseSlope: number,
  reach: number,
  aspect: number,
): Untold[] {
  const n = rowsFor(shape);
  const rest = n - first;
  if (rest === 0) return [];
  const light = Float64Array.from(
    { length: first ** 2 },
    (_, i) => normal[Math.floor(i / first) * n + (i % first)],
  );
  // Each parameter of its own, with the light and the shift that go best with it.
  const ways: Float64Array[] = [];
  for (let k = first; k < n; k++) {
    const along = solveSymmetric(light, normal.slice(k * n, k * n + first), first);
    if (!along) return [];
    const way = new Float64Array(n);
    way.set(along.map((value) => -value));
    way[k] = 1;
    ways.push(way);
  }
  const { even, grain } = inAllDirections(shape, cells, falseSlope, reach, aspect);
  const could = between(ways, even, exposureRows);
  const [root, inverse] = [powerOf(could, rest, 1 / 2), powerOf(could, rest, -1 / 2)];
  if (!root || !inverse) return [];
  const told = between(ways, normal, 0);
  between(ways, grain, exposureRows).forEach((untrue, i) => (told[i] -= untrue));
  const columns = Array.from({ length: rest }, (_, k) => inverse.subarray(k * rest, (k + 1) * rest));
  const { values, vectors } = eigenSymmetric(between(columns, told, 0), rest);
  return values.flatMap((share, i) => {
    if (share >= suspicious) return [];
    const own = Float64Array.from({ length: rest }, (_, k) => vectors[k * rest + i]);
    const [stiff, amounts] = [times(root, own), times(inverse, own)];
    const motion = new Float64Array(parameterCount[shape]);
    amounts.forEach((amount, k) =>
      motion.forEach((_, p) => (motion[p] += amount * ways[k][exposureRows + p])),
    );
    const [faked] = between([motion], grain, 0);
    // Nothing is told until a picture says the same.
    return [{ motion, stiff, faked, share: 0, said: share - faked }];
  });
}

/** How far a share falls short of what is wanted, 0–1. */
const shortOf = (wanted: number, share: number): number =>
  Math.min(Math.max((wanted - share) / wanted, 0), 1);

/** What is lacking of what a motion should tell, 0–1. */
export const lacking = ({ share }: Untold): number => shortOf(little, share);

/** How far the whole picture guides a motion, 0–1: the less the texture tells of it, the more. */
export const guided = ({ share }: Untold): number => shortOf(suspicious, share);

/**
 * What is added to a normal matrix, n×n, to hold a box to where it starts in what its texture does not tell (Tikhonov 1963).
 */
export function dampingOf(untold: readonly Untold[], n: number): number[] {
  const matrix = new Array<number>(n * n).fill(0);
  for (const way of untold) {
    const much = damped * lacking(way);
    way.stiff.forEach((a, i) =>
      way.stiff.forEach((b, j) => (matrix[(first + i) * n + first + j] += much * a * b)),
    );
  }
  return matrix;
}

/** How far the middle of the box would be off, pixels a radian or a share of its size, if it moved without telling. */
export const leverOf = (untold: readonly Untold[], reach: number): number =>
  Math.hypot(
    ...untold.map((way) => {
      const [x, y, ...others] = way.motion;
      return (lacking(way) * reach * Math.hypot(x, y)) / Math.hypot(...others);
    }),
  );

/** Which of turn and growth a box does not tell by its own slopes; null when it tells what it is let do. */
export function leastTold({ shape, untold }: Pick<Template, 'shape' | 'untold'>): 'turn' | 'growth' | null {
  const [least] = [...untold].sort((a, b) => a.said - b.said);
  if (!least || least.said >= little) return null;
  if (shape === 'rotation') return 'turn';
  if (shape !== 'similarity') return null;
  const [, , grow, turn] = least.motion;
  return Math.abs(turn) > Math.abs(grow) ? 'turn' : 'growth';
}

/**
 * A pose, from a box to the picture, turned and grown to be as another is in what the texture does not tell, each way as far as
 * `part` says, and left as it is in all else.
 */
export function asUntold(
  { untold, shape, reach, aspect }: Pick<Template, 'untold' | 'shape' | 'reach' | 'aspect'>,
  pose: Mat3,
  other: Mat3,
  part: (way: Untold) => number,
): Mat3 {
  const straight = (m: Mat3): Mat3 => [m[0] / m[8], m[1] / m[8], 0, m[3] / m[8], m[4] / m[8], 0, 0, 0, 1];
  const change = changeOf(shape, multiply(invert(straight(pose)), straight(other)), reach, aspect);
  const taken = new Float64Array(parameterCount[shape]);
  for (const way of untold) {
    const amount = part(way) * way.stiff.reduce((sum, value, k) => sum + value * change[k], 0);
    for (let k = 2; k < taken.length; k++) taken[k] += amount * way.motion[k];
  }
  return multiply(pose, increment(shape, taken, reach, aspect));
}

/** Codecs copy grain from one picture to the next for a while; it may tell twice what it seems to. */
const copied = 2;

/**
 * Takes what a picture says a texture tells; in one that follows closely the grain may be the template's. Two pictures
 * must say it, one after the other.
 */
export function learn(way: Untold, said: number, closely: boolean): void {
  const told = said - (closely ? copied * way.faked : 0);
  way.share = Math.min(told, way.said);
  way.said = told;
}

/** What cells would tell of each pair of parameters did their slopes run in all directions alike, and what grain does. */
function inAllDirections(
  shape: Shape,
  cells: readonly SlopeCell[],
  falseSlope: number,
  reach: number,
  aspect: number,
): { even: Float64Array; grain: Float64Array } {
  const n = parameterCount[shape];
  const [even, grain] = [new Float64Array(n * n), new Float64Array(n * n)];
  const [alongX, alongY] = [new Float64Array(n), new Float64Array(n)];
  for (const { u, v, energy, pixels } of cells) {
    steepestDescent(shape, 1, 0, u, v, reach, aspect, alongX);
    steepestDescent(shape, 0, 1, u, v, reach, aspect, alongY);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const both = alongX[i] * alongX[j] + alongY[i] * alongY[j];
        even[i * n + j] += (energy / 2) * both;
        grain[i * n + j] += falseSlope * pixels * both;
      }
  }
  return { even, grain };
}

/** A quadratic form between vectors, whose numbers from `from` on it takes. */
function between(vectors: readonly Float64Array[], form: ArrayLike<number>, from: number): Float64Array {
  const count = vectors.length;
  const out = new Float64Array(count * count);
  const transformed = vectors.map((vector) => times(form, vector.subarray(from)));
  for (let a = 0; a < count; a++)
    for (let b = 0; b < count; b++)
      out[a * count + b] = transformed[b].reduce((sum, value, i) => sum + value * vectors[a][from + i], 0);
  return out;
}

/** A square matrix times a vector. */
const times = (matrix: ArrayLike<number>, vector: Float64Array): Float64Array =>
  vector.map((_, i) => vector.reduce((sum, value, j) => sum + matrix[i * vector.length + j] * value, 0));
