import type { FrameTimes } from '../geometry/frame-times.js';
import { fromSquarePixels, invert, multiply } from '../geometry/mat3.js';
import {
  curveNames,
  curvesOf,
  motionMatrix,
  poseAt,
  stillCurves,
  type Curves,
  type Motion,
} from '../solve/motion.js';
import { withSpans, type SteadySpan } from './spans.js';
import { smoothInTime, smoothScale } from './smooth.js';
import { drawIn, type WanderArea } from './wander.js';

/** What is taken out. */
export interface Channels {
  x: boolean;
  y: boolean;
  rotation: boolean;
  scale: boolean;
  /** Shear and perspective; taken out when left out. */
  perspective?: boolean;
}

/** How much of each is taken out, 0 to 1. */
export interface Strength {
  x: number;
  y: number;
  rotation: number;
  scale: number;
  /** Shear and perspective. */
  perspective: number;
}

export const fullStrength: Strength = { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 };

export interface SteadyOptions {
  /** `hold` takes all motion out; `smooth` keeps the intended move and takes out the shake. */
  mode: 'hold' | 'smooth';
  /** Standard deviation of the smoothing; only for `smooth`. */
  smoothSeconds: number;
  times: FrameTimes;
  channels: Channels;
  /** All of it when left out. */
  strength?: Strength;
  /** Stretches of frames that something else is done to. */
  spans?: readonly SteadySpan[];
  /** Where the motion's pivot may wander, on frames of the range; only for `smooth`. */
  within?: WanderArea | null;
  range?: { first: number; last: number };
}

export interface Correction {
  /** Nine numbers a frame: frame k → steadied picture, before framing, clip pixels. */
  matrices: Float64Array;
  /** The motion as it was found, and as it will be seen in the steadied picture, square pixels. */
  found: Curves;
  intended: Curves;
}

/**
 * What undoes a motion: Cₖ = Sₖ·Mₖ⁻¹, with M the motion in the chosen channels and S what is to be left of
 * it: nothing when holding, the smoothed motion when smoothing, in stretches what those ask for. Scale is smoothed as its
 * logarithm.
 */
export function correct(motion: Motion, options: SteadyOptions): Correction {
  const found = curvesOf(motion);
  const still = stillCurves(motion.frames);
  const wanted = { ...still };
  if (options.mode === 'smooth')
    for (const name of curveNames)
      wanted[name] = (name === 'scale' ? smoothScale : smoothInTime)(
        found[name],
        options.smoothSeconds,
        options.times,
      );
  if (options.mode === 'smooth' && options.within) {
    const { left, top, right, bottom } = options.within;
    const { range = { first: 0, last: motion.frames - 1 } } = options;
    const { pivot, pixelAspect } = motion;
    wanted.x = drawIn(wanted.x, pivot.x, [left * pixelAspect, right * pixelAspect], range);
    wanted.y = drawIn(wanted.y, pivot.y, [top, bottom], range);
  }
  // Where some stretches are held, the rest is left as it is.
  const { spans = [], mode } = options;
  const isPartly = mode === 'hold' && spans.some(({ kind }) => kind === 'hold');
  const rest = isPartly ? found : wanted;
  const ends = mode === 'smooth' ? wanted : found;
  return correctTo(motion, withSpans(rest, found, spans, motion.referenceFrame, ends), options);
}

/**
 * What has a motion look as is wanted, in the channels that are chosen, each as far as its strength: between what was found
 * and what is wanted; of scale the logarithm is taken.
 */
export function correctTo(
  motion: Motion,
  wanted: Curves,
  { channels, strength = fullStrength }: Pick<SteadyOptions, 'channels' | 'strength'>,
): Correction {
  const { frames, pivot } = motion;
  const found = curvesOf(motion);
  const [removed, left] = [stillCurves(frames), stillCurves(frames)];
  const intended = { ...found };
  for (const name of curveNames) {
    if (!isChosen(channels, name)) continue;
    const share = strength[channelOf(name)];
    removed[name] = found[name];
    left[name] =
      share === 1
        ? wanted[name]
        : name === 'scale'
          ? found.scale.map((v, k) => v * (wanted.scale[k] / v) ** share)
          : found[name].map((v, k) => v + share * (wanted[name][k] - v));
    intended[name] = left[name];
  }
  const matrices = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) {
    const back = invert(motionMatrix(poseAt(removed, k), pivot));
    const correction = multiply(motionMatrix(poseAt(left, k), pivot), back);
    matrices.set(fromSquarePixels(correction, motion.pixelAspect), 9 * k);
  }
  return { matrices, found, intended };
}

const channelOf = (name: keyof Curves): keyof Strength =>
  name === 'x' || name === 'y' || name === 'rotation' || name === 'scale' ? name : 'perspective';

function isChosen({ x, y, rotation, scale, perspective = true }: Channels, name: keyof Curves): boolean {
  return {
    x,
    y,
    rotation,
    scale,
    stretch: perspective,
    shear: perspective,
    tiltX: perspective,
    tiltY: perspective,
  }[name];
}
