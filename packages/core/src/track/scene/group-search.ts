import { apply, invert, matrixAt } from '../../geometry/mat3.js';
import { gemanMcClure } from '../../solve/fit-model.js';
import { fitJointly, type JointFit } from '../../solve/joint-fit.js';
import { atMiddles, estimateReadout, type Readout } from '../../solve/rolling-shutter.js';
import { shareOf } from './group-cover.js';
import type { PictureExtent } from './motion-group.js';
import { restrict, type ShotFeatures } from './shot-features.js';

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
/** A readout of less than this share of a frame bends nothing that can be seen. */
export const leastReadout = 0.04;

/** A group on the way: its motion, all features that go along with it, and how far they are from it in the middle. */
interface Candidate {
  fit: Pick<JointFit, 'matrices' | 'known'>;
  all: number[];
  own: number;
}

/** Looks for the groups of a shot, the largest first; `isOut` marks features that have no say. */
export class GroupSearch {
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
