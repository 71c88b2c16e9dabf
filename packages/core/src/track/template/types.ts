import type { Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';
import type { PixelSet } from './pixel-set.js';
import type { WarpModel } from '../../geometry/warp-model.js';

/**
 * A way of moving, other than a shift, of which a template's texture tells little: how a round mark turns, or how a lone
 * corner grows.
 */
export interface WeakMode {
  /**
   * A number for each parameter of the shape, with the shift that goes best with it, of such a size that as much texture
   * running in all directions would add 1 to the misfit's half second derivative.
   */
  motion: Float64Array;
  /** What makes a normal matrix stiff against it, a number for each parameter after those of shift; times `motion` it is 1. */
  stiffness: Float64Array;
  /** What the texture was found to tell of it, as a share of what it would tell running in all directions. */
  share: number;
  /** What the last picture said of that. */
  latest: number;
  /** As much again the template's grain seems to tell. */
  grainShare: number;
}

/**
 * What a track looks for: the pixels of its box on one frame, ready for search and registration. The box is
 * cut at whole pixels so that nothing is interpolated.
 */
export interface Template {
  /** Odd, so that the centre falls on a pixel's centre. */
  width: number;
  height: number;
  /** The box's centre on its frame, corner-origin clip pixels. */
  centre: { x: number; y: number };
  model: WarpModel;
  /** Half the box's diagonal: the length that parameters of motion are counted in. */
  reach: number;
  /** A pixel's width over its height. */
  aspect: number;
  mean: number;
  /** Variance of its noise, at most: fine texture counts as noise. */
  grain: number;
  /** What grain puts into the squared gradients of each direction. */
  gradientNoise: number;
  /** Ways of moving that its texture may not tell, and how far its middle goes along, pixels a radian or a share of its size. */
  weakModes: WeakMode[];
  weakModeDrift: number;
  /** How far from its middle what holds it lies, pixels. */
  centroidOffset: number;
  /** Pictures since it was cut, and how often its grain has been looked for in what is left over, which had so much of it. */
  age: number;
  noiseEstimates: number;
  measuredGradientNoise: number;
  /** Where there is grain: what the template was seen like since, from which its slopes are taken anew. */
  runningSum: { sum: Float32Array; times: number } | null;
  /** What a copy of it has been blurred by, as a picture is. */
  blur: Point | null;
  full: PixelSet;
  /** Enough of them to find the way by; all of a small box. */
  subsample: PixelSet;
  /** Where most is to be seen; all of a small box. */
  gradientRuns: PixelSet;
  /** The box with a margin, from which turned copies are drawn. */
  surround: Patch;
  margin: number;
  /** Its memory. */
  start: number;
  bytes: number;
}

export const freeTemplate = (kernels: TrackKernels, { start, bytes }: Template): void =>
  kernels.free(start, bytes);
