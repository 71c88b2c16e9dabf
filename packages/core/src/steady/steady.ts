import type { FrameTimes } from '../geometry/frame-times.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import { bareEdges, place, type BareEdge, type Framing, type PictureSize } from '../framing/framing.js';
import { fitFraming, type FramingFit } from '../framing/fit-framing.js';
import type { Motion } from '../solve/motion.js';
import { solveMotion } from '../solve/solve-motion.js';
import type { Samples } from '../track/samples.js';
import { correct, type Channels, type Correction } from './correct.js';

/** All a person chooses about steadying one clip. */
export interface SteadySettings {
  mode: 'hold' | 'smooth';
  /** Standard deviation of the Gaussian for `smooth`, in seconds. */
  smoothSeconds: number;
  channels: Channels;
  referenceFrame: number;
  /** First and last frame that matter, both included. */
  range: { first: number; last: number };
  framing: Framing;
}

export interface SteadyClip extends PictureSize {
  times: FrameTimes;
  /** A pixel's width over its height, like "16:11". */
  pixelAspect: string;
}

export interface SteadyResult {
  motion: Motion;
  correction: Correction;
  /** Nine numbers a frame: frame k → output pixel. */
  placements: Float64Array;
  /** The smallest zoom that hides every bare edge in the range; null when there is none. */
  fit: FramingFit | null;
  /** The bare edges of the settings' own framing, one a frame, worst first. */
  bare: BareEdge[];
}

/**
 * From tracks to placements: solve, correct, frame. Light enough to run again for every slider move. What turns
 * keeps its shape only where pixels are square: the motion is solved there, placements are in clip pixels again.
 */
export function steady(tracks: readonly Samples[], clip: SteadyClip, settings: SteadySettings): SteadyResult {
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  const square = pixelAspect === 1 ? tracks : tracks.map((track) => widened(track, pixelAspect));
  const motion = solveMotion(square, {
    frames: clip.times.frames,
    referenceFrame: settings.referenceFrame,
    fallbackPivot: { x: (clip.width * pixelAspect) / 2, y: clip.height / 2 },
  });
  return steadyMotion({ ...motion, pixelAspect }, clip, settings);
}

function widened(track: Samples, by: number): Samples {
  const wide = track.copy();
  wide.x.forEach((x, i) => (wide.x[i] = x * by));
  return wide;
}

/** The part of `steady` after the solving, for a motion that is known already. */
export function steadyMotion(motion: Motion, clip: SteadyClip, settings: SteadySettings): SteadyResult {
  const { first, last } = settings.range;
  const correction = correct(motion, {
    mode: settings.mode,
    smoothSeconds: settings.smoothSeconds,
    times: clip.times,
    channels: settings.channels,
  });
  const placements = place(correction.matrices, settings.framing, clip);
  return {
    motion,
    correction,
    placements,
    fit: fitFraming(correction.matrices, first, last, clip),
    bare: bareEdges(placements, first, last, clip),
  };
}
