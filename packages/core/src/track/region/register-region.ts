import {
  apply,
  identity,
  invert,
  multiply,
  normalised,
  scaling,
  translation,
  type Mat3,
  type Point,
} from '../../geometry/mat3.js';
import { isInAny } from '../../geometry/closed-spline.js';
import { increment, parameterCount, type WarpModel } from '../../geometry/warp-model.js';
import { solveSymmetric } from '../../geometry/solve-symmetric.js';
import * as layout from '../../kernels/layout.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { PictureLevel } from './picture-levels.js';
import { blocksAcross, type RegionTemplate, type TemplateLevel } from './region-template.js';

/** How bright the picture is against the key's: seen ≈ gain·level + bias, in grey levels. */
export interface Light {
  gain: number;
  bias: number;
}

/** Where a level of a region fits. */
export interface RegionFit extends Light {
  /** From the key's clip pixels to the picture's. */
  matrix: Mat3;
  /** Correlation of template and picture where each pixel counts as far as it is believed, −1 to 1. */
  score: number;
  /** The part of its runs that lay in the picture and clear of hold-outs, 0–1. */
  seen: number;
  /** Median size of what is left over, grey levels, and the share of the template's structure that agrees to within the usual. */
  residual: number;
  grip: number;
  /** Blocks that disagree as a whole: something that nobody drew lies there. */
  leftOut: Uint8Array;
  /** The normal matrix, n×n, and the variance of what is left over. */
  normal: Float64Array;
  variance: number;
}

/** 2.385 is the Cauchy constant of 95 % efficiency, 1.4826 the normal spread of a median. */
const cauchy = 2.385 * 1.4826;
/** Blocks whose mean weight is under this share of the upper quartile's are left out whole. */
const coherent = 0.6;
/** Less than this share of the believed blocks' weight, and the pixels that disagree do not pull at all. */
const covered = 0.78;
/** Pixels of shift that a slope may be off by before it counts as something else. */
const [coarseSlack, fineSlack] = [1.2, 0.3];
/** The same where whole blocks are judged: only what no small shift explains is something in the way. */
const blockSlack = 1.2;
const leastGain = 0.05;
/** Less of its runs in view than this, and a level says nothing. */
const leastSeen = 0.08;
/** Steps shorter than this end a level, pixels at its reach; a run is given up when it takes more of them. */
const enough = 0.004;

/** What is left over does not grow faster than this from frame to frame: what is farther off is something in the way. */
const growth = 1.6;
/** Steps shorter than this, and blocks can be judged. */
const nearEnough = 0.5;

/** How a level is registered. */
export interface RegisterLevel {
  model: WarpModel;
  /** Most steps. */
  steps: number;
  /** Polygons of the picture, clip pixels, that never count. */
  holdOuts: readonly (readonly Point[])[];
  /** What is known of the light; solved at the start when left out. */
  light?: Light;
  /** Blocks that something covers already. */
  leftOut?: Uint8Array;
  /** The start is about right: what disagrees there is in the way. Else blocks are judged on the finest level alone. */
  isNear?: boolean;
  /** What is usually left over, grey levels; what is found here when left out. */
  usual?: number;
}

/** The rows of a model's motion come first in those of any larger one but for these two. */
const isPrefix = (model: WarpModel, whole: WarpModel): boolean =>
  model === whole || model === 'translation' || (model === 'affine' && whole === 'homography');

/**
 * Registers one level of a region to one of a picture by inverse-compositional Gauss-Newton (Baker & Matthews 2004), with
 * gain and bias beside the motion, Cauchy weights, and blocks that disagree left out whole. Null when it does not fit there.
 */
export function registerLevel(
  kernels: TrackKernels,
  template: RegionTemplate,
  level: TemplateLevel,
  picture: PictureLevel,
  start: Mat3,
  { model, steps, holdOuts, light, leftOut: known, isNear = false, usual }: RegisterLevel,
): RegionFit | null {
  if (!isPrefix(model, template.model)) throw new RangeError(`A ${model} is no part of a ${template.model}.`);
  const { count, descent, level: levels, reach } = level;
  const n = layout.exposureRows + parameterCount[model];
  const seen = kernels.scratch('region seen', 4 * count);
  const weight = kernels.scratch('region weight', 4 * count);
  const scratch = kernels.scratch('region sums', 8 * 4 * 64 * 4);
  const out = kernels.scratch('region normal', 8 * 80);
  const histogram = kernels.scratch('region histogram', 260 * 4);
  const { toLevel, toClip } = levelPlaces(level, picture);
  let pose = toLevel(start);
  const blocks = new Uint8Array(blocksAcross ** 2);
  if (known) blocks.set(known);
  let held: Uint8Array | null = null;
  let gain = light?.gain ?? 1;
  // Pixels of a template are counted from their mean.
  let bias = (light?.bias ?? 0) + gain * level.mean;
  let isLit = light !== undefined;
  const normal = new Float64Array(n * n);
  const right = new Float64Array(n);
  const fine = level.scale === 1;
  let inside = 0;
  let believed = 0;
  let variance = 0;
  let spread = 0;
  let nearly = isNear;
  let residual = 0;
  let judged = false;
  for (let step = 0; step < steps; step++) {
    inside = sampleLevel(kernels, level, picture, pose, fine, seen);
    if (inside < leastSeen * count) return null;
    if (holdOuts.length > 0) {
      // They move little against the region while it is registered.
      held ??= heldRuns(level, toClip(pose), holdOuts);
      inside -= forget(kernels, seen, held);
    }
    if (inside < leastSeen * count) return null;
    if (!isLit) {
      const found = lightOf(kernels, level, seen, out);
      if (!found) return null;
      [gain, bias, isLit] = [found.gain, found.bias, true];
    }
    const weigh = (tolerance: number, whole: number, squared: number): void => {
      kernels.gather(
        ...[descent, n, count, levels, seen, gain, bias, spread, tolerance],
        ...[whole, squared, weight, scratch, out],
      );
    };
    const look = (): void => {
      residual = kernels.medianResidual(levels, seen, count, gain, bias, histogram);
      // About right, only what fits as it usually does is believed; on the way, all a little.
      const most = nearly && usual !== undefined ? growth * usual : Infinity;
      spread = cauchy * Math.max(Math.min(residual, most), layout.leastSpread);
    };
    if (step === 0) look();
    // Before it lies about right, all that moved disagrees.
    if ((isNear || (fine && nearly)) && step % 2 === 0) {
      weigh(blockSlack, 0, 0);
      findLeftOut(kernels, level, weight, blocks);
      judged = true;
    }
    const open = inside - forgetBlocks(kernels, level, seen, blocks);
    if (open < leastSeen * count) return null;
    if (step < 4 || step % 3 === 0) look();
    const slack = step < 2 && !fine ? coarseSlack : fineSlack;
    weigh(slack, 1, Number(believed < covered && step > 0));
    const total = kernels.double(out, n);
    believed = total / open;
    variance = kernels.double(out, n + 1) / Math.max(total, 1);
    for (let i = 0, from = n + 2; i < n; i++) {
      right[i] = kernels.double(out, i);
      for (let j = i; j < n; j++, from++) normal[i * n + j] = normal[j * n + i] = kernels.double(out, from);
    }
    const solved = solveSymmetric(normal, right, n);
    if (!solved) return null;
    bias += gain * solved[0];
    gain *= 1 + solved[1];
    if (!(gain > leastGain)) return null;
    const motion = increment(model, solved.subarray(layout.exposureRows), reach, template.aspect);
    pose = normalised(multiply(pose, invert(motion)));
    const size = Math.abs(pose[0] * pose[4] - pose[1] * pose[3]);
    if (!(size > 0.01 && size < 100)) return null;
    let moved = 0;
    for (let i = layout.exposureRows; i < n; i++) moved = Math.max(moved, Math.abs(solved[i]));
    if ((judged || !fine) && moved < (fine ? enough : 0.02)) break;
    nearly ||= moved < nearEnough;
  }
  kernels.moments(levels, seen, weight, count, level.mean, out);
  const score = correlationIn(kernels, out) ?? 0;
  const expected = cauchy * Math.max(usual ?? residual, layout.leastSpread);
  kernels.gather(
    ...[descent, n, count, levels, seen, gain, bias, expected, fineSlack],
    ...[1, 0, weight, scratch, out],
  );
  const diagonal = (i: number): number => kernels.double(out, n + 2 + i * n - (i * (i - 1)) / 2);
  const grip = (diagonal(layout.exposureRows) + diagonal(layout.exposureRows + 1)) / level.energy;
  const matrix = toClip(pose);
  return {
    matrix,
    gain,
    bias: bias - gain * level.mean,
    score,
    residual,
    grip,
    seen: inside / count,
    leftOut: blocks,
    normal,
    variance,
  };
}

/** Between clip pixels of key and picture, and pixels of a level of each, the key's counted from its centre. */
export function levelPlaces(
  { scale, centre }: TemplateLevel,
  { left, top }: PictureLevel,
): { toLevel: (m: Mat3) => Mat3; toClip: (m: Mat3) => Mat3 } {
  const shrink: Mat3 = [1 / scale, 0, -left, 0, 1 / scale, -top, 0, 0, 1];
  const grow: Mat3 = [scale, 0, scale * left, 0, scale, scale * top, 0, 0, 1];
  const from: Mat3 = multiply(translation(centre.x, centre.y), scaling(scale, scale));
  const to: Mat3 = multiply(scaling(1 / scale, 1 / scale), translation(-centre.x, -centre.y));
  return {
    toLevel: (m) => normalised(multiply(shrink, multiply(m, from))),
    toClip: (m) => normalised(multiply(grow, multiply(m, to))),
  };
}

/** What a picture's level shows under the runs; returns how many pixels lie in the picture. */
export function sampleLevel(
  kernels: TrackKernels,
  { runs, count }: TemplateLevel,
  { at, stride, bounds }: PictureLevel,
  m: Mat3,
  cubic: boolean,
  seen: number,
): number {
  return kernels.sampleRuns(
    ...[at, stride, bounds.left, bounds.top, bounds.right, bounds.bottom, runs, count],
    ...m,
    Number(cubic),
    seen,
  );
}

/** The light that fits best, least squares over all that is seen; null where the picture has none of the template's contrast. */
function lightOf(kernels: TrackKernels, level: TemplateLevel, seen: number, out: number): Light | null {
  kernels.moments(level.level, seen, 0, level.count, level.mean, out);
  const [total, l, s, ll, ls] = kernels.takeDoubles(out, 5);
  const spread = ll - (l * l) / total;
  if (!(spread > 0)) return null;
  const gain = Math.max((ls - (l * s) / total) / spread, 0.3);
  return { gain, bias: (s - gain * l) / total + level.mean };
}

/** The correlation of template and picture, of the sums that `moments` has left; null where either has no contrast. */
export function correlationIn(kernels: TrackKernels, out: number): number | null {
  const [total, l, s, ll, ls, ss] = kernels.takeDoubles(out, 6);
  const spread = (ll - (l * l) / total) * (ss - (s * s) / total);
  return spread > 0 ? (ls - (l * s) / total) / Math.sqrt(spread) : null;
}

/** Runs that lie under a hold-out with either end. */
function heldRuns(
  { begins, centre, scale }: TemplateLevel,
  frameFromKey: Mat3,
  holdOuts: readonly (readonly Point[])[],
): Uint8Array {
  const held = new Uint8Array(begins.length / 2);
  for (let r = 0; r < held.length; r++)
    for (const end of [0, layout.runLength - 1]) {
      const x = centre.x + scale * (begins[2 * r] + end);
      const y = centre.y + scale * begins[2 * r + 1];
      if (isInAny(holdOuts, apply(frameFromKey, x, y))) held[r] = 1;
    }
  return held;
}

/** Takes what some runs saw for nothing; returns how many pixels that were seen have gone. */
function forget(kernels: TrackKernels, seen: number, runs: Uint8Array): number {
  const levels = kernels.floats(seen, runs.length * layout.runLength);
  let gone = 0;
  for (let r = 0; r < runs.length; r++) {
    if (!runs[r]) continue;
    const from = r * layout.runLength;
    for (let i = from; i < from + layout.runLength; i++) {
      if (levels[i] === levels[i]) gone++;
      levels[i] = NaN;
    }
  }
  return gone;
}

function forgetBlocks(
  kernels: TrackKernels,
  { blockOf }: TemplateLevel,
  seen: number,
  blocks: Uint8Array,
): number {
  if (!blocks.includes(1)) return 0;
  return forget(
    kernels,
    seen,
    blockOf.map((block) => blocks[block]),
  );
}

/** Marks the blocks that are believed much less than the others. */
function findLeftOut(
  kernels: TrackKernels,
  { blockOf, count }: TemplateLevel,
  weight: number,
  blocks: Uint8Array,
): void {
  const weights = kernels.floats(weight, count);
  const sums = new Float64Array(blocks.length);
  const counts = new Uint32Array(blocks.length);
  for (let r = 0; r < blockOf.length; r++)
    for (let i = r * layout.runLength; i < (r + 1) * layout.runLength; i++) {
      // What was not seen has no weight and says nothing of its block.
      if (weights[i] === 0) continue;
      sums[blockOf[r]] += weights[i];
      counts[blockOf[r]]++;
    }
  const means = Array.from(sums, (sum, b) => (counts[b] > 0 ? sum / counts[b] : NaN));
  const sorted = means.filter((mean) => mean === mean).sort((a, b) => a - b);
  const upper = sorted[Math.floor(0.75 * (sorted.length - 1))] ?? 0;
  blocks.forEach((_, b) => (blocks[b] = means[b] < coherent * upper ? 1 : 0));
  leaveOutEnclosed(
    blocks,
    means.map((mean) => mean === mean),
  );
}

/** Marks blocks most of whose neighbours are marked: what covers those and happens to look like the thing covers them, too. */
function leaveOutEnclosed(blocks: Uint8Array, isSeen: readonly boolean[]): void {
  for (let changed = true; changed;) {
    changed = false;
    blocks.forEach((out, b) => {
      if (out || !isSeen[b]) return;
      const [column, row] = [b % blocksAcross, Math.floor(b / blocksAcross)];
      const near = [
        column > 0 ? b - 1 : -1,
        column < blocksAcross - 1 ? b + 1 : -1,
        row > 0 ? b - blocksAcross : -1,
        row < blocksAcross - 1 ? b + blocksAcross : -1,
      ].filter((other) => other >= 0 && isSeen[other]);
      const marked = near.filter((other) => blocks[other]).length;
      if (near.length > 1 && 2 * marked > near.length) {
        blocks[b] = 1;
        changed = true;
      }
    });
  }
}

/** Grain that any picture may have, a variance in grey levels. */
const usualGrain = 4;

/** How far off a template's corners would be told by its texture alone, pixels, with a little grain; infinite where it tells nothing. */
export function errorOfTexture(
  kernels: TrackKernels,
  template: RegionTemplate,
  points: readonly Point[],
): number {
  const [level] = template.levels;
  const { count, descent } = level;
  const n = layout.exposureRows + parameterCount[template.model];
  const rows = kernels.floats(descent, n * count);
  const normal = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = i; j < n; j++) {
      let sum = 0;
      for (let k = 0, a = i * count, b = j * count; k < count; k++) sum += rows[a + k] * rows[b + k];
      normal[i * n + j] = normal[j * n + i] = sum;
    }
  return errorAt({ normal, variance: usualGrain, matrix: identity }, template, level, points);
}

/** How far the covariance of a fit lets each of some points go: the largest standard deviation along an axis, clip pixels. */
export function errorAt(
  { normal, variance, matrix }: Pick<RegionFit, 'normal' | 'variance' | 'matrix'>,
  { reach, aspect, model }: RegionTemplate,
  level: TemplateLevel,
  points: readonly Point[],
): number {
  const n = Math.sqrt(normal.length);
  const motions = n - layout.exposureRows;
  const columns: Float64Array[] = [];
  for (let j = 0; j < motions; j++) {
    const unit = new Float64Array(n);
    unit[layout.exposureRows + j] = 1;
    const column = solveSymmetric(normal, unit, n);
    if (!column) return Infinity;
    columns.push(column.subarray(layout.exposureRows));
  }
  const { centre, scale } = level;
  const step = 1e-3;
  let worst = 0;
  for (const p of points) {
    const [u, v] = [p.x - centre.x, p.y - centre.y];
    // How a point of the key goes when a parameter, in this level's pixels at its reach, grows by one.
    const answers = Array.from({ length: motions }, (_, j) => {
      const q = new Float64Array(motions);
      q[j] = step * scale;
      const m = increment(model, q, reach, aspect);
      const to = apply(m, u, v);
      return [(to.x - u) / step, (to.y - v) / step];
    });
    for (const axis of [0, 1]) {
      let sum = 0;
      for (let i = 0; i < motions; i++)
        for (let j = 0; j < motions; j++) sum += answers[i][axis] * columns[j][i] * answers[j][axis];
      worst = Math.max(worst, sum);
    }
  }
  const grown = Math.sqrt(Math.abs(matrix[0] * matrix[4] - matrix[1] * matrix[3]));
  return Math.sqrt(variance * worst) * Math.max(grown, 1);
}
