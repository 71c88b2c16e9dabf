import { apply, multiply, type Mat3 } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Patch } from '../image/patch.js';
import type { PixelSet } from '../template/pixel-set.js';

/** Where a registration has come to, and what it has left in the kernels' memory. */
export interface RegistrationResult {
  /** From the box to the area's own pixels. */
  pose: Mat3;
  gain: number;
  bias: number;
  /** Of the weighted residuals, in the template's grey levels squared. */
  variance: number;
  /** The normal matrix, n×n, and the sum of weights it was gathered with. */
  normal: ArrayLike<number>;
  n: number;
  gathered: number;
  /** Addresses of what was seen and how far it was believed, a float for each pixel of the grid. */
  seen: number;
  weight: number;
}

/** Noise makes a dip of the cost where the fit has settled: three deviations of how deep it may be, for each pixel. */
const noiseDeviations = 8.8;
/** What codecs have made of noise hangs together over some four pixels. */
const together = 4;

/**
 * How much the misfit truly grows both ways along a motion, which takes the registered pose to `moved`: grain of the template
 * is not in the picture, and adds nothing. The misfit is the sum of the weighted squared residuals, in the template's
 * grey levels.
 */
export function costCurvature(
  kernels: TrackKernels,
  pixelSet: PixelSet,
  area: Patch,
  result: RegistrationResult,
  moved: readonly Mat3[],
): number {
  const { width, height, count, spacing, level } = pixelSet;
  const { gain, bias, weight } = result;
  const { left, top, right, bottom } = area.bounds;
  const sums = kernels.scratch('sums', 8 * 80);
  const there = kernels.scratch('seen there', 4 * count);
  const misfit = (seen: number): number => {
    kernels.moments(level, seen, weight, count, bias, sums);
    const [ll, ls, ss] = [kernels.double(sums, 3), kernels.double(sums, 4), kernels.double(sums, 5)];
    return ll - (2 * ls) / gain + ss / gain ** 2;
  };
  const here = misfit(result.seen);
  return moved.reduce((sum, pose) => {
    const m = multiply(pose, [spacing, 0, 0, 0, spacing, 0, 0, 0, 1]);
    // prettier-ignore
    kernels.samplePatch(
      area.at, area.stride, left, top, right, bottom, width, height,
      m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], 1, there,
    );
    return sum + misfit(there) - here;
  }, 0);
}

/** How deep a dip of the cost white noise may make by luck. */
export const noiseFloor = ({ width, height }: PixelSet, { variance }: RegistrationResult): number =>
  noiseDeviations * Math.sqrt(width * height) * variance;

/**
 * How deep a dip of the cost may be for all that a codec has made of the noise, and for what interpolation evens out of the picture's
 * grain where the box lies more than where it is moved.
 */
export const codecNoiseFloor = (
  pixelSet: PixelSet,
  result: RegistrationResult,
  moved: readonly Mat3[],
): number =>
  Math.sqrt(together) * noiseFloor(pixelSet, result) +
  moved.reduce((sum, pose) => {
    const calmer = interpolationSmoothing(pixelSet, result.pose) - interpolationSmoothing(pixelSet, pose);
    return sum + Math.max(calmer, 0) * result.variance * result.gathered;
  }, 0);

/**
 * How much of the picture's grain its interpolation takes away where a box lies, as a share of the residuals' variance: half of
 * that is the picture's. Between pixels it is most.
 */
function interpolationSmoothing({ width, height, spacing }: PixelSet, pose: Mat3): number {
  const [across, down] = [width, height].map((size) => spacing * Math.round(size / 3));
  let left = 0;
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      const { x, y } = apply(pose, i * across, j * down);
      left += passes(x) * passes(y);
    }
  return (1 - left / 9) / 2;
}

/** The part of white grain's variance that gets through Catmull and Rom's cubic at a place between pixels' centres. */
function passes(place: number): number {
  const t = place - 0.5 - Math.floor(place - 0.5);
  const u = 1 - t;
  const [before, after] = [2 - 5 * t * t + 3 * t * t * t, 2 - 5 * u * u + 3 * u * u * u];
  return ((t * u * u) ** 2 + before * before + after * after + (u * t * t) ** 2) / 4;
}
