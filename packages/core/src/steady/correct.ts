import type { FrameTimes } from '../geometry/frame-times.js';
import { fromSquarePixels, invert, multiply } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import type { Motion } from '../solve/motion.js';
import { smoothInTime } from './smooth.js';

export interface Channels {
  x: boolean;
  y: boolean;
  rotation: boolean;
  scale: boolean;
}

export interface SteadyOptions {
  /** `hold` takes all motion out; `smooth` keeps the intended move and takes out the shake. */
  mode: 'hold' | 'smooth';
  /** Standard deviation of the smoothing; only for `smooth`. */
  smoothSeconds: number;
  times: FrameTimes;
  channels: Channels;
}

/** One value per frame and channel: shift in pixels, rotation in radians, scale as a factor. */
export interface Curves {
  x: Float64Array;
  y: Float64Array;
  rotation: Float64Array;
  scale: Float64Array;
}

export interface Correction {
  /** Nine numbers a frame: frame k → steadied picture, before framing, clip pixels. */
  matrices: Float64Array;
  /** The motion as it will be seen in the steadied picture, square pixels. */
  intended: Curves;
}

/**
 * What undoes a motion: Cₖ = Sₖ·Mₖ⁻¹, with M the motion in the chosen channels and S what is to be left of
 * it: nothing when holding, the smoothed motion when smoothing. Scale is smoothed as its logarithm.
 */
export function correct(motion: Motion, options: SteadyOptions): Correction {
  const { channels } = options;
  const still = new Float64Array(motion.frames);
  const removed = {
    x: channels.x ? motion.x : still,
    y: channels.y ? motion.y : still,
    rotation: channels.rotation ? motion.rotation : still,
    logScale: channels.scale ? motion.scale.map(Math.log) : still,
  };
  const smooth = (column: Float64Array): Float64Array =>
    options.mode === 'hold' ? still : smoothInTime(column, options.smoothSeconds, options.times);
  const left = {
    x: smooth(removed.x),
    y: smooth(removed.y),
    rotation: smooth(removed.rotation),
    logScale: smooth(removed.logScale),
  };
  const matrices = new Float64Array(9 * motion.frames);
  for (let k = 0; k < motion.frames; k++) {
    const m = similarityMatrix(
      {
        x: removed.x[k],
        y: removed.y[k],
        rotation: removed.rotation[k],
        scale: Math.exp(removed.logScale[k]),
      },
      motion.pivot,
    );
    const s = similarityMatrix(
      { x: left.x[k], y: left.y[k], rotation: left.rotation[k], scale: Math.exp(left.logScale[k]) },
      motion.pivot,
    );
    matrices.set(fromSquarePixels(multiply(s, invert(m)), motion.pixelAspect), 9 * k);
  }
  return {
    matrices,
    intended: {
      x: channels.x ? left.x : motion.x,
      y: channels.y ? left.y : motion.y,
      rotation: channels.rotation ? left.rotation : motion.rotation,
      scale: channels.scale ? left.logScale.map(Math.exp) : motion.scale,
    },
  };
}
