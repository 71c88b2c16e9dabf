import { axesOf, type Axes } from '../../geometry/axes.js';
import { multiply, translation } from '../../geometry/mat3.js';
import { deflation, exposureRows } from '../../kernels/layout.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import {
  affineBiasOf,
  sensitivityOf,
  varianceInflation,
  mostBlocks,
  parallaxOf,
  clusterRobustError,
} from './block-statistics.js';
import type { Patch } from '../image/patch.js';
import type { PixelSet } from '../template/pixel-set.js';
import { costCurvature, noiseFloor, type RegistrationResult } from './cost-probes.js';
import { Reason } from '../sample-reason.js';
import type { Template } from '../template/types.js';

/** How exactly a box is held where it was registered. */
export interface PositionUncertainty {
  /**
   * Expected error of the position along its least certain direction, pixels: large where it can slide. The larger
   * of the Cramér-Rao bound for residuals of this variance (Robinson & Milanfar 2004) and of how the blocks scatter.
   */
  error: number;
  /**
   * How far apart parts of the box would have gone, squared, less what noise makes of it, square pixels: large where it
   * shows things at two depths, below nothing where noise alone usually does more.
   */
  parallax: number;
  /** How far the box as a whole may have been moved, unseen, by a codec that finds a change too small to tell, pixels. */
  codecBias: number;
  /** The direction of the error, radians clockwise from the x axis. */
  slide: number;
  /** What the error is made by. */
  cause: Reason;
}

/**
 * What is left over beyond the grain of two pictures is what a codec, motion blur or light has made of them: it hangs together over
 * about so many pixels, and does not average out within them as grain does.
 */
const together = 8;
/** So does what rounding and codecs make of smooth shade, unseen, over more of them; where there is grain it is shaken out. */
const rounding = 1 / 12;
const smoothTogether = 64;
/** What a codec leaves out goes wrong as one over so many of them. */
const codecBiasPixels = 1000;
/** Where this share of what holds the box may be its own grain, how it is held is tried out, so many pixels aside. */
const grainy = 0.05;
const probeDistance = 2;
/** Held to so many pixels across a direction, and by this share of that along it, it slides. */
const firmly = 0.14;
const slippery = 0.06;
/** Noise alone parts a box by so much of the expected error, and bends it by so much. */
const parallaxByNoise = 0.75;
const affineBiasByNoise = 1.5;

export function positionUncertainty(
  kernels: TrackKernels,
  template: Template,
  pixelSet: PixelSet,
  area: Patch,
  result: RegistrationResult,
): PositionUncertainty {
  const { height, count, level, descent } = pixelSet;
  const { gain, bias, variance, normal, n, gathered, seen, weight } = result;
  const [across, down] = [Math.min(mostBlocks, count / height / 4), Math.min(mostBlocks, height)];
  const sums = kernels.scratch('sums of blocks', 8 * (n + 3) * across * down);
  const scratch = kernels.scratch('errors', 4 * count);
  // prettier-ignore
  kernels.blockSums(
    descent, n, count, height, across, down, level, seen, gain, bias, weight, scratch, sums,
  );
  const blocks = { across, down, sums: kernels.takeDoubles(sums, (n + 3) * across * down) };
  // The template's grain makes gradients where there is nothing to hold on to: half its variance in each.
  const grain = Math.min(
    template.gradientNoise,
    (template.gradientNoise / template.grain) * (variance / 2) || 0,
  );
  const { least, most, angle } = axesOfHold(normal, n, gathered * grain);
  const slide = angle + Math.PI / 2;
  const doubtful = gathered * template.gradientNoise > grainy * least;
  const proven = (): number => {
    const [x, y] = [probeDistance * Math.cos(slide), probeDistance * Math.sin(slide)];
    const moved = [translation(x, y), translation(-x, -y)].map((m) => multiply(m, result.pose));
    const deep = costCurvature(kernels, pixelSet, area, result, moved) - noiseFloor(pixelSet, result);
    return deep / (2 * probeDistance * probeDistance);
  };
  const sensitivity = sensitivityOf(normal, n, exposureRows);
  const stiffness = doubtful ? Math.min(least, proven()) : least;
  // Taking grain off takes as much off either direction.
  const held = sensitivity
    ? stiffness / varianceInflation(sensitivity, least + gathered * grain, exposureRows)
    : 0;
  // What a blurred template's grain does goes along with the motion blur, and is not left over.
  const unseen = template.blur ? template.grain : 0;
  const bound = held > 0 ? Math.sqrt((deflation * (variance + unseen)) / held) : Infinity;
  const unlike = Math.max(variance - 2 * template.grain, 0);
  const rounded = rounding * Math.min(rounding / template.grain, 1);
  const drawn = held > 0 ? Math.sqrt((together * unlike + smoothTogether * rounded) / held) : Infinity;
  const beyond = (seen: number, byNoise: number): number => seen ** 2 - (byNoise * bound) ** 2;
  const affineBias = Math.sqrt(Math.max(beyond(affineBiasOf(blocks, n, exposureRows), affineBiasByNoise), 0));
  const clustered = sensitivity ? clusterRobustError(blocks, sensitivity, n) : 0;
  const firm = deflation * variance < firmly ** 2 * most;
  const weak = firm && stiffness < slippery * most ? Reason.slides : Reason.faint;
  return {
    error: sensitivity ? Math.hypot(Math.max(bound, clustered), drawn, affineBias) : Infinity,
    // What nothing holds says nothing of its parts.
    parallax: held > 0 ? beyond(parallaxOf(blocks, n, exposureRows), parallaxByNoise) : 0,
    codecBias: held > 0 ? Math.sqrt((codecBiasPixels * rounded) / held) : Infinity,
    slide,
    cause: Math.hypot(clustered, affineBias) > Math.hypot(bound, drawn) ? Reason.parted : weak,
  };
}

/** The axes of the normal matrix's part for shift, `grain` taken off. */
function axesOfHold(normal: ArrayLike<number>, n: number, grain: number): Axes {
  const [x, y] = [exposureRows, exposureRows + 1];
  return axesOf(normal[x * n + x] - grain, normal[x * n + y], normal[y * n + y] - grain);
}
