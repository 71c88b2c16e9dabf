import { apply, invert, matrixAt, multiply, normalised, type Point } from '../geometry/mat3.js';
import {
  fitSimilarity,
  similarityMatrix,
  stillness,
  type PointPair,
  type Similarity,
} from '../geometry/similarity.js';
import type { Samples } from '../track/samples.js';
import { featuresOfTracks } from '../track/scene/shot-features.js';
import { expectedErrorAt } from '../track/certainty/confidence.js';
import { fewestPoints, warpModelOf, type MotionModel } from './fit-model.js';
import { fitJointly } from './joint-fit.js';
import { interpolate } from './interpolate.js';
import { collapsedOn, isUndoable, stillCurves, stillMotion, unwrap, type Motion } from './motion.js';

export interface SolveOptions {
  frames: number;
  referenceFrame: number;
  /** Where a motion without tracks would turn about; the frame's centre. */
  fallbackPivot: Point;
  /** What the motion may do, where enough tracks are seen to tell; `auto` is a similarity. */
  model?: MotionModel | 'auto';
}

const rounds = 30;
const settled = 1e-4;

/** A similarity a frame about a pivot, on the way to a motion. */
interface Similarities {
  pivot: Point;
  x: Float64Array;
  y: Float64Array;
  rotation: Float64Array;
  scale: Float64Array;
  /** How many tracks speak for each frame. */
  support: Uint16Array;
}

/**
 * The motion that the tracks share, by least squares over all of them (alternating: the motion for given
 * feature positions, the positions for a given motion). One track gives position; where two or more are
 * seen, rotation and scale too. Tracks need not reach the reference frame, as long as others link them
 * to it. Frames without any track take their motion from the nearest frames that have one.
 *
 * With no usable track at all the motion stands still with no support anywhere.
 */
export function solveMotion(tracks: readonly Samples[], options: SolveOptions): Motion {
  const { frames, referenceFrame } = options;
  const used = tracks.filter((track) => track.extent() !== null);
  const features = placeFeatures(used, referenceFrame);
  const seen = features.filter((f): f is Point => f !== null);
  const pivot = seen.length > 0 ? mean(seen) : options.fallbackPivot;
  const motion = stillMotion(frames, referenceFrame, pivot);
  if (used.length === 0) return motion;

  const { x, y, rotation, scale } = stillCurves(frames);
  const found: Similarities = { pivot, x, y, rotation, scale, support: motion.support };
  for (let round = 0; round < rounds; round++) {
    fitFrames(found, used, features);
    fillGaps(found);
    const change = moveFeatures(found, used, features);
    if (used.length === 1 || change < settled) break;
  }
  fitFrames(found, used, features);
  fillGaps(found);
  anchor(found, referenceFrame, features);
  motion.pivot = found.pivot;
  for (let k = 0; k < frames; k++) motion.matrices.set(similarityMatrix(at(found, k), found.pivot), 9 * k);
  if (motion.support.some((n) => n > 1)) motion.model = 'similarity';
  const { model = 'auto' } = options;
  if (model !== 'auto' && model !== 'similarity' && collapsedOn(motion) === null)
    refit(motion, used, features, model);
  measure(motion, used, features);
  return motion;
}

/** Rounds in which features and a motion of another model settle. */
const refitting = 20;

/** The motion by another model, going on from the similarity; frames on which too few tracks are seen keep that. */
function refit(
  motion: Motion,
  tracks: readonly Samples[],
  features: (Point | null)[],
  model: Exclude<MotionModel, 'similarity'>,
): void {
  const told = (k: number): boolean =>
    motion.support[k] >= (model === 'perspective' ? fewestPoints.perspective : 1);
  if (!motion.support.some((_, k) => told(k))) return;
  const seen = featuresOfTracks(tracks, motion.frames);
  const fit = fitJointly(seen, {
    model,
    weights: new Float64Array(tracks.length).fill(1),
    rounds: refitting,
    from: {
      matrices: motion.matrices,
      known: Uint8Array.from(motion.support, (n) => (n > 0 ? 1 : 0)),
      places: Float64Array.from(features.flatMap((p) => (p ? [p.x, p.y] : [NaN, NaN]))),
      residuals: new Float64Array(tracks.length),
    },
  });
  const origin = matrixAt(fit.matrices, motion.referenceFrame);
  const back = invert(origin);
  for (let k = 0; k < motion.frames; k++) {
    const m = multiply(
      matrixAt(model === 'perspective' && !told(k) ? motion.matrices : fit.matrices, k),
      back,
    );
    motion.matrices.set(normalised(m), 9 * k);
  }
  features.forEach((p, i) => (features[i] = p && apply(origin, fit.places[2 * i], fit.places[2 * i + 1])));
  motion.model = warpModelOf[model];
}

const at = ({ x, y, rotation, scale }: Similarities, k: number): Similarity => ({
  x: x[k],
  y: y[k],
  rotation: rotation[k],
  scale: scale[k],
});

const mean = (points: readonly Point[]): Point => ({
  x: points.reduce((sum, p) => sum + p.x, 0) / points.length,
  y: points.reduce((sum, p) => sum + p.y, 0) / points.length,
});

/** Feature positions in the reference frame where a track reaches it, else null until the motion tells. */
function placeFeatures(tracks: readonly Samples[], reference: number): (Point | null)[] {
  const direct = tracks.map((t) => (t.found(reference) ? { x: t.x[reference], y: t.y[reference] } : null));
  if (direct.some((p) => p !== null)) return direct;
  // None reaches it: the track that comes nearest stands in as if it did.
  let nearest = -1;
  let distance = Infinity;
  let at = 0;
  tracks.forEach((track, i) => {
    for (let k = 0; k < track.frames; k++) {
      if (track.found(k) && Math.abs(k - reference) < distance) {
        nearest = i;
        distance = Math.abs(k - reference);
        at = k;
      }
    }
  });
  // Every track seen at that same frame is placed as it stands there.
  return direct.map((_, i) =>
    i === nearest || tracks[i]?.found(at) ? { x: tracks[i].x[at], y: tracks[i].y[at] } : null,
  );
}

function pairsAt(
  tracks: readonly Samples[],
  features: readonly (Point | null)[],
  frame: number,
): PointPair[] {
  const pairs: PointPair[] = [];
  tracks.forEach((track, i) => {
    const from = features[i];
    if (from && track.found(frame))
      pairs.push({ from, to: { x: track.x[frame], y: track.y[frame] }, weight: 1 });
  });
  return pairs;
}

/** For given features, each frame's own best similarity. Single-track frames get their turn by `fillGaps`. */
function fitFrames(
  found: Similarities,
  tracks: readonly Samples[],
  features: readonly (Point | null)[],
): void {
  for (let k = 0; k < found.support.length; k++) {
    const pairs = pairsAt(tracks, features, k);
    found.support[k] = pairs.length;
    const fit = fitSimilarity(pairs, found.pivot);
    if (fit) store(found, k, fit);
  }
  unwrap(found.rotation);
  carryTurns(found, tracks, features);
}

function store(found: Similarities, k: number, s: Similarity): void {
  found.x[k] = s.x;
  found.y[k] = s.y;
  found.rotation[k] = s.rotation;
  found.scale[k] = s.scale;
}

/** Frames with one track keep the rotation and scale that lie between their neighbours with two. */
function carryTurns(
  found: Similarities,
  tracks: readonly Samples[],
  features: readonly (Point | null)[],
): void {
  const turning = (k: number): boolean => found.support[k] > 1;
  if (!found.support.some((n) => n > 1)) return;
  interpolate(found.rotation, turning);
  interpolate(found.scale, turning);
  for (let k = 0; k < found.support.length; k++) {
    if (found.support[k] !== 1) continue;
    const previous = { ...stillness, rotation: found.rotation[k], scale: found.scale[k] };
    const fit = fitSimilarity(pairsAt(tracks, features, k), found.pivot, previous);
    if (fit) store(found, k, fit);
  }
}

/** Frames that no track speaks for: between known ones a straight line, beyond them standing still. */
function fillGaps(found: Similarities): void {
  const known = (k: number): boolean => found.support[k] > 0;
  for (const column of [found.x, found.y, found.rotation, found.scale]) interpolate(column, known);
}

/** For a given motion, each feature's mean position carried back to the reference frame. Returns the largest move. */
function moveFeatures(found: Similarities, tracks: readonly Samples[], features: (Point | null)[]): number {
  const sums = tracks.map(() => ({ x: 0, y: 0, n: 0 }));
  for (let k = 0; k < found.support.length; k++) {
    // Where all come to one place nothing tells which is where.
    if (found.support[k] === 0 || !isUndoable(found.scale[k])) continue;
    const back = invert(similarityMatrix(at(found, k), found.pivot));
    tracks.forEach((track, i) => {
      if (!track.found(k)) return;
      const p = apply(back, track.x[k], track.y[k]);
      sums[i].x += p.x;
      sums[i].y += p.y;
      sums[i].n++;
    });
  }
  let change = 0;
  sums.forEach((sum, i) => {
    if (sum.n === 0) return;
    const next = { x: sum.x / sum.n, y: sum.y / sum.n };
    const before = features[i];
    change = Math.max(change, before ? Math.hypot(next.x - before.x, next.y - before.y) : Infinity);
    features[i] = next;
  });
  return change;
}

/**
 * Re-expresses motion and features so that the motion leaves the reference frame exactly alone:
 * M'ₖ = Mₖ·Z⁻¹ with Z the reference frame's own found.
 */
function anchor(found: Similarities, referenceFrame: number, features: (Point | null)[]): void {
  const zero = at(found, referenceFrame);
  const shown = similarityMatrix(zero, found.pivot);
  features.forEach((p, i) => (features[i] = p && apply(shown, p.x, p.y)));
  for (let k = 0; k < found.support.length; k++) {
    store(found, k, {
      x: found.x[k] - zero.x,
      y: found.y[k] - zero.y,
      rotation: found.rotation[k] - zero.rotation,
      scale: found.scale[k] / zero.scale,
    });
  }
  found.pivot = { x: found.pivot.x + zero.x, y: found.pivot.y + zero.y };
}

function measure(motion: Motion, tracks: readonly Samples[], features: readonly (Point | null)[]): void {
  for (let k = 0; k < motion.frames; k++) {
    const count = motion.support[k];
    if (count === 0) continue;
    const matrix = matrixAt(motion.matrices, k);
    let squares = 0;
    for (const { from, to } of pairsAt(tracks, features, k)) {
      const p = apply(matrix, from.x, from.y);
      squares += (p.x - to.x) ** 2 + (p.y - to.y) ** 2;
    }
    if (count > 1) motion.residual[k] = Math.sqrt(squares / count);
    motion.expectedError[k] = Math.max(errorTold(tracks, k), motion.residual[k] / Math.sqrt(count));
  }
}

/** What the samples of a frame say of the error of their mean, pixels: each counts by the inverse square of its own. */
function errorTold(tracks: readonly Samples[], frame: number): number {
  let weight = 0;
  for (const track of tracks)
    if (track.found(frame)) weight += 1 / expectedErrorAt(track.confidence[frame]) ** 2;
  return 1 / Math.sqrt(weight);
}
