import { eigenSymmetric, powerOf } from '../../geometry/eigen-symmetric.js';
import { invert, multiply, type Mat3 } from '../../geometry/mat3.js';
import { solveSymmetric } from '../../geometry/solve-symmetric.js';
import { exposureRows } from '../../kernels/layout.js';
import { rowsFor } from '../template/pixel-set.js';
import {
  changeOf,
  increment,
  parameterCount,
  steepestDescent,
  type WarpModel,
} from '../../geometry/warp-model.js';
import type { Template, WeakMode } from '../template/types.js';

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
export function weakModesOf(
  model: WarpModel,
  normal: readonly number[],
  cells: readonly SlopeCell[],
  gradientNoise: number,
  reach: number,
  aspect: number,
): WeakMode[] {
  const n = rowsFor(model);
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
  const { even, grain } = inAllDirections(model, cells, gradientNoise, reach, aspect);
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
    const [stiffness, amounts] = [times(root, own), times(inverse, own)];
    const motion = new Float64Array(parameterCount[model]);
    amounts.forEach((amount, k) =>
      motion.forEach((_, p) => (motion[p] += amount * ways[k][exposureRows + p])),
    );
    const [grainShare] = between([motion], grain, 0);
    // Nothing is told until a picture says the same.
    return [{ motion, stiffness, grainShare, share: 0, latest: share - grainShare }];
  });
}

/** How far a share falls short of what is wanted, 0–1. */
const shortOf = (wanted: number, share: number): number =>
  Math.min(Math.max((wanted - share) / wanted, 0), 1);

/** What is lacking of what a motion should tell, 0–1. */
export const dampingWeight = ({ share }: WeakMode): number => shortOf(little, share);

/** How far the whole picture guides a motion, 0–1: the less the texture tells of it, the more. */
export const priorWeight = ({ share }: WeakMode): number => shortOf(suspicious, share);

/**
 * What is added to a normal matrix, n×n, to hold a box to where it starts in what its texture does not tell (Tikhonov 1963).
 */
export function dampingMatrixOf(weakModes: readonly WeakMode[], n: number): number[] {
  const matrix = new Array<number>(n * n).fill(0);
  for (const way of weakModes) {
    const much = damped * dampingWeight(way);
    way.stiffness.forEach((a, i) =>
      way.stiffness.forEach((b, j) => (matrix[(first + i) * n + first + j] += much * a * b)),
    );
  }
  return matrix;
}

/** How far the middle of the box would be off, pixels a radian or a share of its size, if it moved without telling. */
export const driftOf = (weakModes: readonly WeakMode[], reach: number): number =>
  Math.hypot(
    ...weakModes.map((way) => {
      const [x, y, ...others] = way.motion;
      return (dampingWeight(way) * reach * Math.hypot(x, y)) / Math.hypot(...others);
    }),
  );

/** Which of turn and growth a box does not tell by its own slopes; null when it tells what it is let do. */
export function weakestMode({
  model,
  weakModes,
}: Pick<Template, 'model' | 'weakModes'>): 'turn' | 'growth' | null {
  const [least] = [...weakModes].sort((a, b) => a.latest - b.latest);
  if (!least || least.latest >= little) return null;
  if (model === 'euclidean') return 'turn';
  if (model !== 'similarity') return null;
  const [, , grow, turn] = least.motion;
  return Math.abs(turn) > Math.abs(grow) ? 'turn' : 'growth';
}

/**
 * A pose, from a box to the picture, turned and grown to be as another is in what the texture does not tell, each way as far as
 * `part` says, and left as it is in all else.
 */
export function withWeakModesOf(
  { weakModes, model, reach, aspect }: Pick<Template, 'weakModes' | 'model' | 'reach' | 'aspect'>,
  pose: Mat3,
  other: Mat3,
  part: (way: WeakMode) => number,
): Mat3 {
  const straight = (m: Mat3): Mat3 => [m[0] / m[8], m[1] / m[8], 0, m[3] / m[8], m[4] / m[8], 0, 0, 0, 1];
  const change = changeOf(model, multiply(invert(straight(pose)), straight(other)), reach, aspect);
  const taken = new Float64Array(parameterCount[model]);
  for (const way of weakModes) {
    const amount = part(way) * way.stiffness.reduce((sum, value, k) => sum + value * change[k], 0);
    for (let k = 2; k < taken.length; k++) taken[k] += amount * way.motion[k];
  }
  return multiply(pose, increment(model, taken, reach, aspect));
}

/** Codecs copy grain from one picture to the next for a while; it may tell twice what it seems to. */
const copied = 2;

/**
 * Takes what a picture says a texture tells; in one that follows closely the grain may be the template's. Two pictures
 * must say it, one after the other.
 */
export function learn(way: WeakMode, latest: number, closely: boolean): void {
  const told = latest - (closely ? copied * way.grainShare : 0);
  way.share = Math.min(told, way.latest);
  way.latest = told;
}

/** What cells would tell of each pair of parameters did their slopes run in all directions alike, and what grain does. */
function inAllDirections(
  model: WarpModel,
  cells: readonly SlopeCell[],
  gradientNoise: number,
  reach: number,
  aspect: number,
): { even: Float64Array; grain: Float64Array } {
  const n = parameterCount[model];
  const [even, grain] = [new Float64Array(n * n), new Float64Array(n * n)];
  const [alongX, alongY] = [new Float64Array(n), new Float64Array(n)];
  for (const { u, v, energy, pixels } of cells) {
    steepestDescent(model, 1, 0, u, v, reach, aspect, alongX);
    steepestDescent(model, 0, 1, u, v, reach, aspect, alongY);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const both = alongX[i] * alongX[j] + alongY[i] * alongY[j];
        even[i * n + j] += (energy / 2) * both;
        grain[i * n + j] += gradientNoise * pixels * both;
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
