import { apply, invert, matrixAt, multiply, normalised, type Mat3, type Point } from '../../geometry/mat3.js';
import { motionModels, type MotionModel } from '../../solve/fit-model.js';
import { interpolate } from '../../solve/interpolate.js';
import { fitJointly, type JointFit } from '../../solve/joint-fit.js';
import { curveNames, curvesOf, motionMatrix, poseAt } from '../../solve/motion.js';
import { columns, coverOf } from './group-cover.js';
import { slideOf, sortByDepth, spanOf } from './group-depth.js';
import { GroupSearch } from './group-search.js';
import type { GroupMotion, MotionGroup, PictureExtent, ShotGroups } from './motion-group.js';
import { restrict, type ShotFeatures } from './shot-features.js';

/** Small groups that lie farther from their motion than this, pixels of a picture 1920 wide, are several things taken together. */
const loose = 0.4;
const smallShare = 0.04;
/** So are those that move by themselves, of few features, or however many. */
const looseOwn = 0.35;
const fewOwn = 20;
const fewestOwn = 10;
const loosest = 0.6;
/** A group slides against another by more than so many pixels, and so many times its own residual, RMS. */
const alikePixels = 1;
const alikeResiduals = 4;
/** A richer model is proposed where it leaves less than this of the simpler one's residual, and so many pixels less. */
const better = 0.9;
const worthwhile = 0.03;
/** A group is there while so much of the most that is seen of it is seen. */
const fairShare = 0.15;
const refining = 6;
/** Simpler models lie farther from what is seen: nothing of it may be left out for that. */
const modelScale: Record<MotionModel, number | undefined> = {
  shift: undefined,
  rotation: undefined,
  similarity: 1.6,
  perspective: 1.6,
};
/** Cells, across, of which one in so many is kept out of every solve. */
const keptOut = 5;

/**
 * Sorts the features of a shot into what moves alike. First the motion that most of them share: a joint fit in which each
 * feature counts the less the worse it goes along over its whole life. Then, seen from there, groups grown about features that
 * are left over: those that slide as a seed does are fitted jointly, and all that go along with the fit belong to it; the
 * largest is taken, again and again.
 */
export function findGroups(shot: ShotFeatures, size: PictureExtent): ShotGroups {
  const frames = shot.starts.length - 1;
  const isOut = heldOutFeatures(shot, size);
  const search = new GroupSearch(shot, size, isOut);
  const fits = search.run();
  const { readout } = search;
  const all = fits.map((fit) => groupOf(search.shot, fit.all, isOut));
  coverOf(shot, all, size).forEach((cover, g) => (all[g].share = cover));
  all.sort((a, b) => b.share - a.share);
  const found = all.filter((group, g) => !all.slice(0, g).some((larger) => isAlike(group, larger, frames)));
  const depthPath = sortByDepth(found, frames, size);
  const groups = found.filter((group) => !isLoose(group, size));
  const bridged = Uint8Array.from({ length: frames }, (_, k) =>
    shot.starts[k + 1] === shot.starts[k] ? 1 : 0,
  );
  return { first: shot.first, last: shot.last, groups, depthPath, bridged, readout };
}

/** 1 for each feature that was first seen in a cell that is kept out of every solve. */
function heldOutFeatures(shot: ShotFeatures, { width }: PictureExtent): Uint8Array {
  const out = new Uint8Array(shot.features);
  const met = new Uint8Array(shot.features);
  const cell = width / columns;
  for (let s = 0; s < shot.feature.length; s++) {
    const f = shot.feature[s];
    if (met[f]) continue;
    met[f] = 1;
    const [i, j] = [Math.floor(shot.places[2 * s] / cell), Math.floor(shot.places[2 * s + 1] / cell)];
    out[f] = (((i + 2 * j) % keptOut) + keptOut) % keptOut === 0 ? 1 : 0;
  }
  return out;
}

/** Whether a group hardly slides against a larger one: the same thing, seen less exactly. */
function isAlike(group: MotionGroup, larger: MotionGroup, frames: number): boolean {
  const slide = spanOf(slideOf(larger, group, frames), group, larger);
  return slide < Math.max(alikePixels, alikeResiduals * group.models.similarity.residual);
}

function isLoose({ share, members, heldOut, depth, models }: MotionGroup, { width }: PictureExtent): boolean {
  const residual = models.similarity.residual / (width / 1920);
  if (depth === null && members.length + heldOut.length < fewestOwn) return true;
  if (depth === null) return residual > loosest || (members.length < fewOwn && residual > looseOwn);
  return share < smallShare && residual > loose;
}

function groupOf(shot: ShotFeatures, all: readonly number[], isOut: Uint8Array): MotionGroup {
  const members = Int32Array.from(all.filter((f) => !isOut[f]));
  const own = restrict(shot, members);
  const weights = new Float64Array(own.features).fill(1);
  const { middle, first, last } = whereSeen(restrict(shot, all));
  let similar: JointFit | undefined;
  const modelled = motionModels.map((model): [MotionModel, GroupMotion] => {
    // A perspective hardly differs from the similarity it goes on from.
    const isRich = model === 'perspective';
    const rounds = isRich ? refining / 2 : refining;
    const fit = fitJointly(own, {
      ...{ model, weights, rounds, scale: modelScale[model] },
      from: isRich ? similar : undefined,
    });
    if (model === 'similarity') similar = fit;
    return [model, { residual: residualOf(own, fit), matrices: fromFirst(fit, middle) }];
  });
  const models = Object.fromEntries(modelled) as MotionGroup['models'];
  // Where too little holds a perspective, it is none.
  if (!(models.perspective.residual <= models.similarity.residual)) models.perspective = models.similarity;
  return {
    members,
    heldOut: Int32Array.from(all.filter((f) => isOut[f])),
    // Told once all groups are there.
    share: 0,
    first: shot.first + first,
    last: shot.first + last,
    middle: broughtBack(own, models.similarity.matrices),
    models,
    proposed: simplest(models),
    slide: 0,
    depth: null,
  };
}

/** Where features are in the middle of things, and the frames, of the shot, on which a fair number of them is seen. */
function whereSeen({ starts, places }: ShotFeatures) {
  const frames = starts.length - 1;
  const countOn = (k: number): number => starts[k + 1] - starts[k];
  let most = 0;
  for (let k = 0; k < frames; k++) most = Math.max(most, countOn(k));
  const fair = Math.max(fairShare * most, 1);
  let [first, last] = [0, frames - 1];
  while (first < last && countOn(first) < fair) first++;
  while (last > first && countOn(last) < fair) last--;
  let [x, y] = [0, 0];
  for (let s = 0; s < places.length; s += 2) [x, y] = [x + places[s], y + places[s + 1]];
  const n = places.length / 2;
  return { middle: { x: x / n, y: y / n }, first, last };
}

/** Where the middle of some features is on the shot's first frame, as a motion has it. */
function broughtBack({ starts, places }: ShotFeatures, matrices: Float64Array): Point {
  let [x, y] = [0, 0];
  for (let k = 0; k + 1 < starts.length; k++) {
    const back = invert(matrixAt(matrices, k));
    for (let s = starts[k]; s < starts[k + 1]; s++) {
      const at = apply(back, places[2 * s], places[2 * s + 1]);
      x += at.x;
      y += at.y;
    }
  }
  const n = Math.max(places.length / 2, 1);
  return { x: x / n, y: y / n };
}

/** RMS over all samples. */
function residualOf({ seen }: ShotFeatures, { residuals }: JointFit): number {
  let [sum, n] = [0, 0];
  residuals.forEach((residual, f) => {
    if (!Number.isFinite(residual)) return;
    sum += seen[f] * residual ** 2;
    n += seen[f];
  });
  return n > 0 ? Math.sqrt(sum / n) : 0;
}

/** Motions that begin on the shot's first frame; frames that nothing speaks for lie between their neighbours. */
function fromFirst({ matrices, known }: JointFit, pivot: Point): Float64Array {
  const frames = known.length;
  const curves = curvesOf({ frames, matrices, pivot });
  for (const name of curveNames) interpolate(curves[name], (k) => known[k] === 1);
  const at = (k: number): Mat3 => (known[k] ? matrixAt(matrices, k) : motionMatrix(poseAt(curves, k), pivot));
  const origin = invert(at(0));
  const out = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) {
    const m = multiply(at(k), origin);
    out.set(normalised(m), 9 * k);
  }
  return out;
}

/** The simplest model that no richer one is clearly better than. */
function simplest(models: MotionGroup['models']): MotionModel {
  return (
    motionModels.find((model, i) =>
      motionModels
        .slice(i + 1)
        .every(
          (richer) =>
            models[richer].residual > better * models[model].residual ||
            models[richer].residual > models[model].residual - worthwhile,
        ),
    ) ?? 'perspective'
  );
}
