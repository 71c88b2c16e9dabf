import type { ShotFeatures } from '../track/scene/shot-features.js';
import { BetweenFrames } from './between-frames.js';
import { gemanMcClure } from './fit-model.js';
import { fitJointly, type JointFit } from './joint-fit.js';
import { mostReadout } from './row-motion.js';

/** What a rolling shutter did to features, and the motion without it. */
export interface ReadoutFit {
  readout: Readout;
  /** The features where they would have been in the middle of their frames, and their motion. */
  shot: ShotFeatures;
  fit: JointFit;
}

/** How long a sensor takes from the first row to the last, as a share of a frame, and how sure that is. */
export interface Readout {
  share: number;
  /** Standard deviation. */
  error: number;
  /** Whether the clip tells it: without shake every readout looks alike. */
  isTold: boolean;
}

const rounds = 8;
const settled = 1e-3;
/** Pixels off at which a sample hardly counts. */
const robustness = 1.2;
/** Known to less than this, it is not told. */
const mostError = 0.06;
const fewestFrames = 12;
const fewestFeatures = 8;

/**
 * The readout that explains best where features of one motion are: each was seen when its own row was read, before or after
 * the middle of the frame. By turns: the motion for samples brought to the middle of their frames, and a Gauss-Newton step of
 * the share on what is left, with the motion between frames by polynomials through eight of them. Null where there is too little to ask.
 */
export function estimateReadout(own: ShotFeatures, height: number): ReadoutFit | null {
  const frames = own.starts.length - 1;
  if (frames < fewestFrames || own.features < fewestFeatures) return null;
  const weights = new Float64Array(own.features).fill(1);
  const options = { model: 'similarity' as const, weights, scale: 2 };
  let fit = fitJointly(own, { ...options, rounds: 4 });
  let shot = own;
  let share = 0;
  let error = Infinity;
  for (let round = 0; round < rounds; round++) {
    const step = readoutStep(own, fit, height, share);
    if (!step) return null;
    share = Math.min(Math.max(share + step.change, -mostReadout), mostReadout);
    error = step.error;
    shot = atMiddles(own, fit, height, share);
    fit = fitJointly(shot, { ...options, rounds: 2, from: fit });
    if (Math.abs(step.change) < settled) break;
  }
  return { readout: { share, error, isTold: error < mostError }, shot, fit };
}

/** A shot with its samples where they would have been in the middle of their frames. */
export function atMiddles(shot: ShotFeatures, fit: JointFit, height: number, share: number): ShotFeatures {
  const places = shot.places.slice();
  const way = new Way(fit);
  for (let k = 0; k + 1 < shot.starts.length; k++)
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      const f = shot.feature[s];
      const [u, v] = [fit.places[2 * f], fit.places[2 * f + 1]];
      const tau = share * (shot.places[2 * s + 1] / height - 0.5);
      if (Number.isNaN(u) || !way.at(k, tau, u, v)) continue;
      const [x, y] = [way.x, way.y];
      way.at(k, 0, u, v);
      places[2 * s] += way.x - x;
      places[2 * s + 1] += way.y - y;
    }
  return { ...shot, places };
}

function readoutStep(shot: ShotFeatures, fit: JointFit, height: number, share: number) {
  const way = new Way(fit);
  let [along, across, squares, weight] = [0, 0, 0, 0];
  const small = 0.02;
  for (let k = 3; k + 4 < shot.starts.length; k++)
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      const f = shot.feature[s];
      const [u, v] = [fit.places[2 * f], fit.places[2 * f + 1]];
      if (Number.isNaN(u)) continue;
      const row = shot.places[2 * s + 1] / height - 0.5;
      const tau = share * row;
      if (!way.at(k, tau + small, u, v)) continue;
      const [ax, ay] = [way.x, way.y];
      way.at(k, tau - small, u, v);
      const dx = ((ax - way.x) / (2 * small)) * row;
      const dy = ((ay - way.y) / (2 * small)) * row;
      way.at(k, tau, u, v);
      const [ex, ey] = [shot.places[2 * s] - way.x, shot.places[2 * s + 1] - way.y];
      const w = gemanMcClure(ex * ex + ey * ey, robustness);
      along += w * (ex * dx + ey * dy);
      across += w * (dx * dx + dy * dy);
      squares += w * (ex * ex + ey * ey);
      weight += w;
    }
  if (!(across > 0)) return null;
  // Samples of a frame are off together: they count as one.
  const together = Math.sqrt(shot.feature.length / (shot.starts.length - 1));
  return { change: along / across, error: together * Math.sqrt(squares / weight / across) };
}

/** Where a motion takes places between its frames. */
class Way {
  x = 0;
  y = 0;
  private readonly between: BetweenFrames;

  constructor(private readonly fit: JointFit) {
    this.between = new BetweenFrames(0, fit.known.length - 1);
  }

  /** Sets x and y to where a place is `tau` of a frame after frame `k`; false where frames about it are missing. */
  at(k: number, tau: number, u: number, v: number): boolean {
    const { matrices, known } = this.fit;
    const { between } = this;
    between.seek(k, tau);
    [this.x, this.y] = [0, 0];
    for (let i = 0; i < between.weights.length; i++) {
      const frame = between.from + i;
      if (!known[frame]) return false;
      const at = 9 * frame;
      this.x += between.weights[i] * (matrices[at] * u + matrices[at + 1] * v + matrices[at + 2]);
      this.y += between.weights[i] * (matrices[at + 3] * u + matrices[at + 4] * v + matrices[at + 5]);
    }
    return true;
  }
}
