import {
  apply,
  invert,
  matrixAt,
  multiply,
  translation,
  type Mat3,
  type Point,
} from '../../geometry/mat3.js';
import { poseMatrix, poseOf } from '../../geometry/pose.js';
import { gemanMcClure, motionModels, type MotionModel } from '../../solve/fit-model.js';
import { interpolate } from '../../solve/interpolate.js';
import { curveNames, stillCurves, unwrap } from '../../solve/motion.js';
import { fitJointly, type JointFit } from '../../solve/joint-fit.js';
import { atMiddles, estimateReadout, type Readout } from '../../solve/rolling-shutter.js';
import { restrict, type ShotFeatures } from './shot-features.js';

/** A motion of a group by one model. */
export interface GroupMotion {
  /** RMS distance of the group's features from it, pixels. */
  residual: number;
  /** Nine numbers a frame of the shot: from the shot's first frame to each; square pixels. */
  matrices: Float64Array;
}

/** Features that move alike. */
export interface MotionGroup {
  /** Features of the shot, by number; those kept out of every solve are not among them. */
  members: Int32Array;
  /** Features that move alike, too, in the cells that are kept out. */
  heldOut: Int32Array;
  /** How much of the picture it covers, over the shot, 0 to 1. */
  share: number;
  /** First and last frame of the clip on which it is seen. */
  first: number;
  last: number;
  /** The middle of where it is seen, on the shot's first frame, square pixels. */
  middle: Point;
  models: Record<MotionModel, GroupMotion>;
  /** The simplest model that explains it. */
  proposed: MotionModel;
  /** How far it slides against the first group, RMS pixels. */
  slide: number;
  /**
   * Where the camera travels, how deep it lies, as a share of the way from the first group to the one that slides most; null
   * for what moves by itself, or where there is no depth.
   */
  depth: number | null;
}

/** Where the camera travels: how far each frame shifts what lies a depth of 1 from the first group; x, y. */
export type DepthPath = Float64Array;

/** Frames of a clip, both ends included. */
export interface FrameSpan {
  first: number;
  last: number;
}

/** The motion groups of one shot, the one an editor would hold first. */
export interface ShotGroups extends FrameSpan {
  groups: MotionGroup[];
  depthPath: DepthPath | null;
  /** 1 for each frame on which nothing was followed, and the motion is bridged. */
  bridged: Uint8Array;
  /** How long the sensor takes from the first row to the last; null where the shot does not tell. */
  readout: Readout | null;
}

export interface PictureExtent {
  /** Square pixels. */
  width: number;
  height: number;
}

/** Widths at which features that do not go along cease to count, pixels of a picture 1920 wide. */
const scales = [6, 3, 1.5, 0.8];
/** What counts less than this does not count. */
const leastWeight = 1e-3;
/** A feature that was seen on fewer frames has less of a say in what a group is, and on fewer than these none. */
const fewestFrames = 8;
const briefest = 3;
/** Nor does one belong to it that was seen so briefly. */
const fewestOfMember = 6;
/** Members lie within so many times the middle distance of the surest, and within so many pixels whatever that is. */
const within = 3;
const nearEnough = 0.5;
/** Groups smaller than this, in features or of the picture over the shot, or closer together, are accidents. */
const fewestMembers = 8;
const leastShare = 0.008;
const leastSpread = 0.02;
const mostGroups = 8;
/** A group whose features another group's motion explains almost as well is no other group. */
const clearly = 1.8;
/** Features slide alike that stay so close to each other, RMS pixels of a picture 1920 wide, on so many frames. */
const slidesAlike = 2.5;
const overlap = 12;
/** Seeds are tried among all features that are left so often; a group must keep so much of itself when larger ones are taken out. */
const mostRounds = 3;
const mostlyLeft = 0.6;
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
/** A readout of less than this share of a frame bends nothing that can be seen. */
export const leastReadout = 0.04;
/** Cells, across, of which one in so many is kept out of every solve. */
const columns = 20;
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
  const all = fits.map((fit) => groupOf(search.shot, fit.all, isOut, size));
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

/** A group on the way: its motion, all features that go along with it, and how far they are from it in the middle. */
interface Candidate {
  fit: Pick<JointFit, 'matrices' | 'known'>;
  all: number[];
  own: number;
}

class GroupSearch {
  private readonly free: Uint8Array;
  private readonly fits: Candidate[] = [];
  private readonly pixel: number;
  /** On so many frames a feature must be seen to have a say. */
  private readonly needed: number;

  readout: Readout | null = null;

  constructor(
    /** The features, once they are where they would have been in the middle of their frames. */
    public shot: ShotFeatures,
    private readonly size: PictureExtent,
    private readonly isOut: Uint8Array,
  ) {
    this.free = new Uint8Array(shot.features).fill(1);
    this.pixel = Math.max(size.width / 1920, 0.3);
    this.needed = Math.min(fewestFrames, Math.max(2, Math.floor((shot.starts.length - 1) / 3)));
  }

  run(): Candidate[] {
    const { pixel, fits } = this;
    const voters = this.voters();
    if (voters.filter((v) => v > 0).length < fewestMembers) return [];
    let fit = dominantFit(this.shot, voters, pixel);
    let main = this.membersOf(this.shot, fit.residuals);
    if (main.length < fewestMembers) return [];
    if (this.bringToMiddles(fit, main)) {
      fit = dominantFit(this.shot, voters, pixel);
      main = this.membersOf(this.shot, fit.residuals);
    }
    const { shot } = this;
    this.claim({ fit, all: main, own: middleResidual(fit.residuals, main) });
    const slides = new Slides(shot, fit);
    for (let round = 0; round < mostRounds && fits.length < mostGroups; round++) {
      const found = this.grow(slides).filter((candidate) => this.accept(candidate));
      if (found.length === 0) break;
    }
    return fits;
  }

  /** Asks the largest group for the readout, and brings all features to the middles of their frames; false where nothing is to do. */
  private bringToMiddles(fit: JointFit, main: readonly number[]): boolean {
    const { shot, isOut, size } = this;
    const asked = restrict(
      shot,
      main.filter((f) => !isOut[f]),
    );
    const readout = estimateReadout(asked, size.height)?.readout;
    if (!readout?.isTold) return false;
    this.readout = readout;
    if (Math.abs(readout.share) < leastReadout) return false;
    this.shot = atMiddles(shot, fit, size.height, readout.share);
    return true;
  }

  /** Takes a candidate in, or adds it to a group that it is no other than; false where not enough of it is left. */
  private accept({ fit, all, own }: Candidate): boolean {
    const { shot, size, pixel, fits, free } = this;
    const left = all.filter((f) => free[f]);
    if (left.length < Math.max(fewestMembers, mostlyLeft * all.length) || fits.length === mostGroups)
      return false;
    const elsewhere = fits.map((known) => middleResidual(restedOn(shot, known.fit).residuals, left));
    const nearest = elsewhere.indexOf(Math.min(...elsewhere));
    const ownWay = !(elsewhere[nearest] < clearly * own);
    for (const f of left) free[f] = 0;
    if (!ownWay && elsewhere[nearest] < nearEnough * pixel) fits[nearest].all.push(...left);
    if (ownWay && isLarge(shot, left, size)) fits.push({ fit, all: left, own });
    return true;
  }

  private claim(candidate: Candidate): void {
    for (const f of candidate.all) this.free[f] = 0;
    this.fits.push(candidate);
  }

  /** How much of a say each feature that is left has: less if it was seen but briefly, as all are in a whip. */
  private voters(): Float64Array {
    const { shot, free, isOut, needed } = this;
    return Float64Array.from({ length: shot.features }, (_, f) =>
      free[f] && !isOut[f] && shot.seen[f] >= briefest ? Math.min(shot.seen[f] / needed, 1) : 0,
    );
  }

  /** Groups about some of the features that are left, the largest first. */
  private grow(slides: Slides): Candidate[] {
    const { pixel, free } = this;
    const left = Int32Array.from([...free.keys()].filter((f) => free[f]));
    const shot = restrict(this.shot, left);
    const say = this.voters();
    const voters = Float64Array.from(left, (f) => say[f]);
    const seeds = [...left.keys()].filter((f) => voters[f] > 0).sort((a, b) => shot.seen[b] - shot.seen[a]);
    const tried = new Set<number>();
    const found: (Candidate & { share: number })[] = [];
    const number = new Map(Array.from(left, (f, i) => [f, i]));
    for (const seed of seeds) {
      if (tried.has(seed)) continue;
      const alike = slides.alike(left[seed], say, slidesAlike * pixel).map((f) => number.get(f) as number);
      tried.add(seed);
      if (alike.length < fewestMembers) continue;
      for (const f of alike) tried.add(f);
      const weights = new Float64Array(shot.features);
      for (const f of alike) weights[f] = 1;
      let fit = fitJointly(shot, { model: 'similarity', weights, scale: scales[0] * pixel, rounds: 1 });
      for (const scale of scales.slice(1)) {
        const grown = weighed(voters, fit.residuals, scale * pixel);
        fit = fitJointly(shot, {
          model: 'similarity',
          weights: grown,
          scale: scale * pixel,
          rounds: 1,
          from: fit,
        });
      }
      const { residuals } = fit;
      const all = this.membersOf(shot, residuals);
      for (const f of all) tried.add(f);
      if (all.length < fewestMembers) continue;
      const own = middleResidual(residuals, all);
      const share = shareOf(shot, all, this.size);
      found.push({ fit, own, share, all: all.map((f) => left[f]) });
    }
    return found.sort((a, b) => b.share - a.share);
  }

  private membersOf(shot: ShotFeatures, residuals: Float64Array): number[] {
    const { needed, pixel } = this;
    const last = scales[scales.length - 1] * pixel;
    const candidates = [...residuals.keys()].filter((f) => shot.seen[f] >= Math.min(needed, fewestOfMember));
    const sure = Float64Array.from(candidates.map((f) => residuals[f]).filter((r) => r < last)).sort();
    const limit = Math.max(within * (sure[sure.length >> 1] ?? 0), nearEnough * pixel);
    return candidates.filter((f) => residuals[f] <= limit);
  }
}

/** How much features count that lie so far from a fit; what hardly does, does not. */
const weighed = (voters: Float64Array, residuals: Float64Array, scale: number): Float64Array =>
  voters.map((v, f) => {
    const weight = v > 0 ? v * gemanMcClure(residuals[f] ** 2, scale) : 0;
    return weight < leastWeight ? 0 : weight;
  });

/** How features slide against a motion: where each is seen, brought back by it. */
class Slides {
  /** Samples of each feature, in order: the frame, and x, y. */
  private readonly starts: Int32Array;
  private readonly frame: Int32Array;
  private readonly at: Float64Array;
  private readonly seedAt: Float64Array;

  constructor(shot: ShotFeatures, { matrices }: JointFit) {
    const frames = shot.starts.length - 1;
    this.starts = new Int32Array(shot.features + 1);
    shot.seen.forEach((n, f) => (this.starts[f + 1] = this.starts[f] + n));
    const next = this.starts.slice();
    this.frame = new Int32Array(shot.feature.length);
    this.at = new Float64Array(2 * shot.feature.length);
    this.seedAt = new Float64Array(2 * frames);
    for (let k = 0; k < frames; k++) {
      const back = invert(matrixAt(matrices, k));
      for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
        const to = next[shot.feature[s]]++;
        const { x, y } = apply(back, shot.places[2 * s], shot.places[2 * s + 1]);
        this.frame[to] = k;
        this.at[2 * to] = x;
        this.at[2 * to + 1] = y;
      }
    }
  }

  /** The features that slide as one does where both are seen, to within an RMS distance. */
  alike(seed: number, voters: Float64Array, limit: number): number[] {
    const { starts, frame, at, seedAt } = this;
    seedAt.fill(NaN);
    for (let s = starts[seed]; s < starts[seed + 1]; s++)
      seedAt.set([at[2 * s], at[2 * s + 1]], 2 * frame[s]);
    const found: number[] = [];
    for (let f = 0; f < voters.length; f++) {
      if (!(voters[f] > 0)) continue;
      let [n, x, y, squares] = [0, 0, 0, 0];
      for (let s = starts[f]; s < starts[f + 1]; s++) {
        const dx = at[2 * s] - seedAt[2 * frame[s]];
        if (Number.isNaN(dx)) continue;
        const dy = at[2 * s + 1] - seedAt[2 * frame[s] + 1];
        n++;
        x += dx;
        y += dy;
        squares += dx * dx + dy * dy;
      }
      const least = Math.min(overlap, (starts[f + 1] - starts[f]) / 2);
      if (n >= least && n > 1 && (squares - (x * x + y * y) / n) / n < limit * limit) found.push(f);
    }
    return found;
  }
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

function dominantFit(shot: ShotFeatures, voters: Float64Array, pixel: number): JointFit {
  let fit: JointFit | undefined;
  let weights = voters;
  for (const scale of scales) {
    fit = fitJointly(shot, {
      model: 'similarity',
      weights,
      scale: scale * pixel,
      rounds: 2,
      // The first chain follows whatever is there; the second only what went along.
      from: scale < scales[1] ? fit : undefined,
    });
    weights = weighed(voters, fit.residuals, scale * pixel);
  }
  return fit as JointFit;
}

/** How far features are from a motion, all of them placed by it. */
const restedOn = (shot: ShotFeatures, { matrices, known }: Candidate['fit']): JointFit =>
  fitJointly(shot, {
    model: 'similarity',
    weights: new Float64Array(0),
    rounds: 0,
    from: { matrices, known, places: new Float64Array(2 * shot.features), residuals: new Float64Array(0) },
  });

const middleResidual = (residuals: Float64Array, of: readonly number[]): number =>
  Float64Array.from(of, (f) => residuals[f]).sort()[of.length >> 1];

/** How much of a shot's cells, over its frames, features take up. */
function shareOf(shot: ShotFeatures, members: readonly number[], { width, height }: PictureExtent): number {
  const cell = width / columns;
  const rows = Math.ceil(height / cell);
  const inside = new Uint8Array(shot.features);
  for (const f of members) inside[f] = 1;
  const taken = new Int32Array((columns + 1) * (rows + 1)).fill(-1);
  let sum = 0;
  for (let k = 0; k + 1 < shot.starts.length; k++)
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      if (!inside[shot.feature[s]]) continue;
      const c = Math.floor(shot.places[2 * s + 1] / cell) * columns + Math.floor(shot.places[2 * s] / cell);
      if (taken[c] === k) continue;
      taken[c] = k;
      sum++;
    }
  return sum / ((columns * height) / cell) / (shot.starts.length - 1);
}

/** Frames of a shot, at most, on which it is looked at what covers the picture. */
const looks = 60;

/**
 * How much of the picture each group covers: a cell belongs to the group of the feature that is nearest to it, as a plain sky does to
 * the hills below it.
 */
function coverOf(
  shot: ShotFeatures,
  groups: readonly MotionGroup[],
  { width, height }: PictureExtent,
): number[] {
  const groupOfFeature = new Int8Array(shot.features).fill(-1);
  groups.forEach(({ members, heldOut }, g) => {
    for (const f of members) groupOfFeature[f] = g;
    for (const f of heldOut) groupOfFeature[f] = g;
  });
  const cell = width / columns;
  const counts = groups.map(() => 0);
  const frames = shot.starts.length - 1;
  const step = Math.max(1, Math.floor(frames / looks));
  let cells = 0;
  for (let k = 0; k < frames; k += step) {
    for (let y = cell / 2; y < height; y += cell)
      for (let x = cell / 2; x < width; x += cell) {
        let [nearest, group] = [Infinity, -1];
        for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
          const distance = (shot.places[2 * s] - x) ** 2 + (shot.places[2 * s + 1] - y) ** 2;
          if (distance < nearest) [nearest, group] = [distance, groupOfFeature[shot.feature[s]]];
        }
        cells++;
        if (group >= 0) counts[group]++;
      }
  }
  return counts.map((count) => count / Math.max(cells, 1));
}

function isLarge(shot: ShotFeatures, members: readonly number[], size: PictureExtent): boolean {
  if (shareOf(shot, members, size) < leastShare) return false;
  const inside = new Set(members);
  let [n, x, y, xx, yy] = [0, 0, 0, 0, 0];
  for (let s = 0; s < shot.feature.length; s++) {
    if (!inside.has(shot.feature[s])) continue;
    const [u, v] = [shot.places[2 * s], shot.places[2 * s + 1]];
    n++;
    x += u;
    y += v;
    xx += u * u;
    yy += v * v;
  }
  const variance = xx / n - (x / n) ** 2 + yy / n - (y / n) ** 2;
  return Math.sqrt(variance) > leastSpread * size.width;
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

function groupOf(
  shot: ShotFeatures,
  all: readonly number[],
  isOut: Uint8Array,
  size: PictureExtent,
): MotionGroup {
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
    share: shareOf(shot, all, size),
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
  const curves = stillCurves(frames);
  const atPivot = translation(pivot.x, pivot.y);
  for (let k = 0; k < frames; k++) {
    const pose = poseOf(multiply(matrixAt(matrices, k), atPivot));
    for (const name of curveNames) curves[name][k] = pose[name];
  }
  unwrap(curves.rotation);
  for (const name of curveNames) interpolate(curves[name], (k) => known[k] === 1);
  const back = translation(-pivot.x, -pivot.y);
  const at = (k: number): Mat3 =>
    known[k]
      ? matrixAt(matrices, k)
      : multiply(
          poseMatrix({
            x: curves.x[k],
            y: curves.y[k],
            rotation: curves.rotation[k],
            scale: curves.scale[k],
            stretch: curves.stretch[k],
            shear: curves.shear[k],
            tiltX: curves.tiltX[k],
            tiltY: curves.tiltY[k],
          }),
          back,
        );
  const origin = invert(at(0));
  const out = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) {
    const m = multiply(at(k), origin);
    out.set(
      m.map((value) => value / m[8]),
      9 * k,
    );
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

/** A group is of the same still scene where its slide is a share of the path of another, but for so much of it, or of pixels. */
const straying = 0.04;
const strayingPixels = 0.8;
/** Slides shorter than this, RMS pixels, are no depth. */
const leastSlide = 1;

/**
 * How each group slides against the first, and, where several slide alike, each its share (the camera travels, and they lie at
 * different depths: plane and parallax), how deep each lies. Returns what a depth of 1 slides; null where there is no depth.
 */
function sortByDepth(groups: MotionGroup[], frames: number, size: PictureExtent): DepthPath | null {
  if (groups.length < 2) return null;
  const [main] = groups;
  const paths = groups.map((group) => slideOf(main, group, frames));
  groups.slice(1).forEach((group, g) => (group.slide = spanOf(paths[g + 1], group, main)));
  let best: { g: number; along: number[]; support: number } | null = null;
  for (let g = 1; g < groups.length; g++) {
    if (groups[g].slide < leastSlide) continue;
    const along = groups.map((group, other) => shareAlong(paths[other], paths[g], group, groups[g], main));
    // The one that more of the picture goes along with; where it is alone, it must lie beside the first all the while.
    const support = groups.reduce(
      (sum, { share }, other) => sum + (Number.isNaN(along[other]) ? 0 : share),
      0,
    );
    if (!best || support > best.support) best = { g, along, support };
  }
  if (!best) return null;
  const company = best.along.filter((share) => !Number.isNaN(share)).length;
  const whole = groups[best.g];
  const lasting = whole.last - whole.first > 0.8 * (main.last - main.first);
  if (company < 3 && !lasting) return null;
  const deepest = Math.max(...best.along.map((share) => (Number.isNaN(share) ? 0 : Math.abs(share))));
  // Near things lie lower in most pictures: they are given the positive depths.
  let lean = 0;
  groups.forEach(({ middle, share }, g) => {
    const along = best.along[g];
    if (!Number.isNaN(along)) lean += share * along * (middle.y - size.height / 2);
  });
  const sign = (lean < 0 ? -1 : 1) / deepest;
  groups.forEach((group, g) => {
    const along = best.along[g];
    group.depth = Number.isNaN(along) ? null : sign * along;
  });
  return paths[best.g].map((value) => value / sign);
}

/** How a group's middle goes, seen from the first group: x, y a frame. */
function slideOf(main: MotionGroup, group: MotionGroup, frames: number): Float64Array {
  const path = new Float64Array(2 * frames);
  for (let k = 0; k < frames; k++) {
    const seen = multiply(
      invert(matrixAt(main.models.similarity.matrices, k)),
      matrixAt(group.models.similarity.matrices, k),
    );
    const { x, y } = apply(seen, group.middle.x, group.middle.y);
    path.set([x - group.middle.x, y - group.middle.y], 2 * k);
  }
  return path;
}

/** Frames on which some groups are all seen, as indices from the first group's first. */
function common(...groups: MotionGroup[]): [number, number] {
  const base = groups[groups.length - 1].first;
  return [
    Math.max(...groups.map(({ first }) => first)) - base,
    Math.min(...groups.map(({ last }) => last)) - base,
  ];
}

function spanOf(path: Float64Array, group: MotionGroup, main: MotionGroup): number {
  const [first, last] = common(group, main);
  return Math.sqrt(squaresAbout(path, first, last) / Math.max(last - first + 1, 1));
}

/** Sum of squared distances from the mean place. */
function squaresAbout(path: Float64Array, first: number, last: number): number {
  const n = last - first + 1;
  let [x, y, squares] = [0, 0, 0];
  for (let k = first; k <= last; k++) {
    x += path[2 * k];
    y += path[2 * k + 1];
    squares += path[2 * k] ** 2 + path[2 * k + 1] ** 2;
  }
  return n > 0 ? Math.max(squares - (x * x + y * y) / n, 0) : 0;
}

/** Which share of another's slide a group makes; not a number where it goes its own way. */
function shareAlong(
  path: Float64Array,
  other: Float64Array,
  group: MotionGroup,
  against: MotionGroup,
  main: MotionGroup,
): number {
  if (group === main) return 0;
  const [first, last] = common(group, against, main);
  const n = last - first + 1;
  if (n < 12) return NaN;
  const mean = (of: Float64Array, c: number): number => {
    let sum = 0;
    for (let k = first; k <= last; k++) sum += of[2 * k + c];
    return sum / n;
  };
  const means = [0, 1].map((c) => [mean(path, c), mean(other, c)]);
  let [dot, norm] = [0, 0];
  for (let k = first; k <= last; k++)
    for (const c of [0, 1]) {
      const [p, q] = [path[2 * k + c] - means[c][0], other[2 * k + c] - means[c][1]];
      dot += p * q;
      norm += q * q;
    }
  const share = norm > 0 ? dot / norm : 0;
  let squares = 0;
  for (let k = first; k <= last; k++)
    for (const c of [0, 1])
      squares += (path[2 * k + c] - means[c][0] - share * (other[2 * k + c] - means[c][1])) ** 2;
  const off = Math.sqrt(squares / n);
  const length = Math.abs(share) * Math.sqrt(norm / n);
  return off <= Math.max(strayingPixels, straying * length) ? share : NaN;
}
