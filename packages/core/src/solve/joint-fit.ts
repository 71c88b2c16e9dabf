import { identity, invert, matrixAt, type Mat3 } from '../geometry/mat3.js';
import { fitModel, gemanMcClure, type Matches, type MotionModel } from './fit-model.js';
import type { ShotFeatures } from '../track/scene/shot-features.js';

/** A motion over a shot, and where its features are in the frame it starts from. */
export interface JointFit {
  /** Nine numbers a frame of the shot: from the start frame's place to where that is in the frame. */
  matrices: Float64Array;
  /** 1 for each frame that features speak for. */
  known: Uint8Array;
  /** Where each feature is, x, y, as the motion leaves it; not a number for one that was never seen with others. */
  places: Float64Array;
  /** RMS distance of each feature from where the motion takes it, over the frames it was seen on, pixels. */
  residuals: Float64Array;
}

export interface JointFitOptions {
  model: MotionModel;
  /** How much each feature counts. */
  weights: Float64Array;
  /** Distances of about this many pixels no longer count, on each frame by itself; left out, all do. */
  scale?: number;
  /** Rounds of motion and places by turns, after the chain. */
  rounds: number;
  /** A fit to go on from, in place of a chain. */
  from?: JointFit;
}

const chainRounds = 4;

/**
 * The motion that features of a shot share. A chain first: from the frame where most is seen, outwards, each frame is fitted to
 * the places known so far, and what is new gets its place from it; features that hold on to where they were first seen keep the
 * chain from drifting. Then motion and places by turns, each the best for the other.
 */
export function fitJointly(shot: ShotFeatures, options: JointFitOptions): JointFit {
  const work = new JointWork(shot, options);
  if (!options.from) work.chain();
  for (let round = 0; round < options.rounds; round++) {
    work.place(true);
    work.move();
  }
  work.place();
  work.measure();
  return work.fit;
}

class JointWork {
  readonly fit: JointFit;
  private readonly frames: number;
  private readonly matches: Matches;
  /** Which sample each match is. */
  private readonly sampleOf: Int32Array;
  /** Sums that give each feature's place: weight, x, y. */
  private readonly sums: Float64Array;

  constructor(
    private readonly shot: ShotFeatures,
    private readonly options: JointFitOptions,
  ) {
    const { features, starts } = shot;
    this.frames = starts.length - 1;
    let most = 0;
    for (let k = 0; k < this.frames; k++) most = Math.max(most, starts[k + 1] - starts[k]);
    this.matches = {
      count: 0,
      from: new Float64Array(2 * most),
      to: new Float64Array(2 * most),
      weights: new Float64Array(most),
    };
    this.sampleOf = new Int32Array(most);
    this.sums = new Float64Array(3 * features);
    const { from } = options;
    this.fit = {
      matrices: from ? from.matrices.slice() : new Float64Array(9 * this.frames),
      known: from ? from.known.slice() : new Uint8Array(this.frames),
      places: from ? from.places.slice() : new Float64Array(2 * features).fill(NaN),
      residuals: new Float64Array(features).fill(Infinity),
    };
  }

  chain(): void {
    const start = this.fullestFrame();
    const { matrices, known } = this.fit;
    this.sums.fill(0);
    matrices.set(identity, 9 * start);
    known[start] = 1;
    this.take(start);
    for (const step of [1, -1]) {
      let last: Mat3 = identity;
      for (let k = start + step; k >= 0 && k < this.frames; k += step) {
        const fitted = this.fitFrame(k, last, true);
        if (fitted) last = fitted;
        known[k] = fitted ? 1 : 0;
        matrices.set(last, 9 * k);
        if (fitted) this.take(k);
      }
    }
  }

  /** Each frame's motion anew, for the places there are. */
  move(): void {
    const { matrices, known } = this.fit;
    for (let k = 0; k < this.frames; k++) {
      const fitted = this.fitFrame(k, matrixAt(matrices, k), false);
      known[k] = fitted ? 1 : 0;
      if (fitted) matrices.set(fitted, 9 * k);
    }
  }

  /** Each feature's place anew, for the motion there is; with `weighted`, of those only that count. */
  place(weighted = false): void {
    this.sums.fill(0);
    for (let k = 0; k < this.frames; k++) if (this.fit.known[k]) this.add(k, weighted);
    this.settle();
  }

  private take(k: number): void {
    this.add(k);
    this.settle(k);
  }

  measure(): void {
    const { shot, fit } = this;
    const squares = new Float64Array(shot.features);
    const counts = new Int32Array(shot.features);
    for (let k = 0; k < this.frames; k++) {
      if (!fit.known[k]) continue;
      const m = matrixAt(fit.matrices, k);
      for (let s = shot.starts[k], end = shot.starts[k + 1]; s < end; s++) {
        const f = shot.feature[s];
        squares[f] += distanceSquared(m, fit.places, f, shot.places, s);
        counts[f]++;
      }
    }
    for (let f = 0; f < shot.features; f++)
      fit.residuals[f] =
        counts[f] > 0 && !Number.isNaN(squares[f]) ? Math.sqrt(squares[f] / counts[f]) : Infinity;
  }

  private fullestFrame(): number {
    const { shot, options } = this;
    let [best, most] = [0, -1];
    for (let k = 0; k < this.frames; k++) {
      let sum = 0;
      for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
        const f = shot.feature[s];
        sum += options.weights[f] * Math.min(shot.seen[f], 60);
      }
      if (sum > most) [best, most] = [k, sum];
    }
    return best;
  }

  /** The motion of one frame by the features whose places are known; null where none are. */
  private fitFrame(k: number, guess: Mat3, fromAfar: boolean): Mat3 | null {
    const { shot, matches, sampleOf, fit } = this;
    const { model, weights, scale } = this.options;
    let count = 0;
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      const f = shot.feature[s];
      if (!(weights[f] > 0) || Number.isNaN(fit.places[2 * f])) continue;
      matches.from[2 * count] = fit.places[2 * f];
      matches.from[2 * count + 1] = fit.places[2 * f + 1];
      matches.to[2 * count] = shot.places[2 * s];
      matches.to[2 * count + 1] = shot.places[2 * s + 1];
      sampleOf[count++] = s;
    }
    matches.count = count;
    if (count === 0) return null;
    const weigh = (m: Mat3 | null, width: number): void => {
      for (let i = 0; i < count; i++) {
        const s = sampleOf[i];
        const f = shot.feature[s];
        matches.weights[i] =
          m === null
            ? weights[f]
            : weights[f] * gemanMcClure(distanceSquared(m, fit.places, f, shot.places, s), width);
      }
    };
    if (scale === undefined) {
      weigh(null, 0);
      return fitModel(model, matches);
    }
    let m: Mat3 | null = fromAfar ? shifted(guess, matches) : guess;
    for (let round = fromAfar ? chainRounds : 1; round > 0; round--) {
      weigh(m, scale * 2 ** (round - 1));
      // Perspective is let in when the rest is settled.
      m = fitModel(round > 1 && model === 'perspective' ? 'similarity' : model, matches);
      if (!m) return null;
    }
    return m;
  }

  /** Lets the samples of a frame say where their features are: the best place by where the motion takes it. */
  private add(k: number, weighted = false): void {
    const { shot, sums, fit } = this;
    const { weights } = this.options;
    const { starts, feature, places } = shot;
    const m = matrixAt(fit.matrices, k);
    const [a, b, c, d, e, f, g, h, i] = invert(m);
    // What a pixel of the start frame measures here.
    const area = Math.abs(m[0] * m[4] - m[1] * m[3]);
    for (let s = starts[k], end = starts[k + 1]; s < end; s++) {
      const n = feature[s];
      if (weighted && !(weights[n] > 0)) continue;
      const x = places[2 * s];
      const y = places[2 * s + 1];
      const share = area / (g * x + h * y + i);
      sums[3 * n] += area;
      sums[3 * n + 1] += share * (a * x + b * y + c);
      sums[3 * n + 2] += share * (d * x + e * y + f);
    }
  }

  /** Puts the features of a frame, or all, where their samples have them in the mean. */
  private settle(k?: number): void {
    const { shot, sums, fit } = this;
    const put = (n: number): void => {
      if (sums[3 * n] === 0) return;
      fit.places[2 * n] = sums[3 * n + 1] / sums[3 * n];
      fit.places[2 * n + 1] = sums[3 * n + 2] / sums[3 * n];
    };
    if (k === undefined) for (let n = 0; n < shot.features; n++) put(n);
    else for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) put(shot.feature[s]);
  }
}

/** A guess moved so that the middle one of the points, each way, is met. */
function shifted(guess: Mat3, { count, from, to }: Matches): Mat3 {
  const [xs, ys] = [new Float64Array(count), new Float64Array(count)];
  for (let i = 0; i < count; i++) {
    const [x, y] = [from[2 * i], from[2 * i + 1]];
    const z = guess[6] * x + guess[7] * y + guess[8];
    xs[i] = to[2 * i] - (guess[0] * x + guess[1] * y + guess[2]) / z;
    ys[i] = to[2 * i + 1] - (guess[3] * x + guess[4] * y + guess[5]) / z;
  }
  const [dx, dy] = [xs.sort()[count >> 1], ys.sort()[count >> 1]];
  const [a, b, c, d, e, f, g, h, i] = guess;
  return [a + dx * g, b + dx * h, c + dx * i, d + dy * g, e + dy * h, f + dy * i, g, h, i];
}

function distanceSquared(m: Mat3, from: Float64Array, f: number, to: Float64Array, s: number): number {
  const [x, y] = [from[2 * f], from[2 * f + 1]];
  const z = m[6] * x + m[7] * y + m[8];
  const dx = (m[0] * x + m[1] * y + m[2]) / z - to[2 * s];
  const dy = (m[3] * x + m[4] * y + m[5]) / z - to[2 * s + 1];
  return dx * dx + dy * dy;
}
