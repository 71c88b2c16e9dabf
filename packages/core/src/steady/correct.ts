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
import { smoothInTime } from './smooth.js';

/** What is taken out. */
export interface Channels {
  x: boolean;
  y: boolean;
  rotation: boolean;
  scale: boolean;
  /** Shear and perspective; taken out when left out. */
  perspective?: boolean;
}

export interface SteadyOptions {
  /** `hold` takes all motion out; `smooth` keeps the intended move and takes out the shake. */
  mode: 'hold' | 'smooth';
  /** Standard deviation of the smoothing; only for `smooth`. */
  smoothSeconds: number;
  times: FrameTimes;
  channels: Channels;
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
 * it: nothing when holding, the smoothed motion when smoothing. Scale is smoothed as its logarithm.
 */
export function correct(motion: Motion, options: SteadyOptions): Correction {
  const { channels, mode } = options;
  const { frames, pivot } = motion;
  const found = curvesOf(motion);
  const [removed, left] = [stillCurves(frames), stillCurves(frames)];
  const intended = { ...found };
  for (const name of curveNames) {
    if (!isChosen(channels, name)) continue;
    removed[name] = found[name];
    if (mode === 'smooth')
      left[name] =
        name === 'scale'
          ? smoothInTime(found.scale.map(Math.log), options.smoothSeconds, options.times).map(Math.exp)
          : smoothInTime(found[name], options.smoothSeconds, options.times);
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
