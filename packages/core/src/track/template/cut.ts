import type { TrackKernels } from '../../kernels/track-kernels.js';
import { readPatch } from '../image/read-patch.js';
import { plainAnalysis, type TrackPicture } from '../image/analysis.js';
import { patchBytes } from '../image/patch.js';
import {
  grainy,
  layDescentImages,
  meanOf,
  derivativeFilterFor,
  takeLevels,
  takeGradients,
  type TemplatePixels,
} from './gradients.js';
import {
  allOf,
  pixelSetBytes,
  subsampleIn,
  subsampleOf,
  placePixelSet,
  recordPixelSet,
  rowsFor,
  gradientRunsIn,
  gradientRunsOf,
  gradientsOf,
  takePixels,
  type PixelSet,
  type PixelSetSize,
} from './pixel-set.js';
import { noiseVariance } from './noise.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import type { Template } from './types.js';

const odd = (n: number): number => Math.max(3, Math.round(n) | 1);

/**
 * Cuts a template of about `width`×`height` around (x, y), corner-origin pixels, as `analysis` sees the picture.
 * Returned to `freeTemplate`.
 */
export function cutTemplate(
  kernels: TrackKernels,
  picture: TrackPicture,
  { x, y }: { x: number; y: number },
  size: { width: number; height: number },
  model: WarpModel,
  analysis = plainAnalysis,
): Template {
  const width = odd(size.width);
  const height = odd(size.height);
  const halfW = width >> 1;
  const halfH = height >> 1;
  const margin = Math.ceil(Math.max(width, height) * 0.4) + 3;
  const across = width + 2 * margin;
  const down = height + 2 * margin;
  const rows = rowsFor(model);
  const [whole, sparse, best] = [
    allOf(width, height),
    subsampleOf(width, height),
    gradientRunsOf(width, height),
  ];
  const own = pixelSetBytes(whole, rows) + pixelSetBytes(sparse, rows) + pixelSetBytes(best, rows);
  const bytes = own + patchBytes(across, down);
  const start = kernels.alloc(bytes);
  const full = placePixelSet(start, whole, rows);
  const { count, level, descent } = full;
  const columns = count / height;
  const left = Math.floor(x) - halfW - margin;
  const top = Math.floor(y) - halfH - margin;
  const at = start + own;
  // A copy: the template outlives the picture.
  const lent = { ...picture, wasmAddress: undefined };
  const surround = readPatch(kernels, lent, analysis, left, top, across, down, at);

  const pixels = kernels.bytes(surround.at, across * down);
  const reach = Math.hypot(halfW, halfH);
  const aspect = picture.pixelAspect ?? 1;
  const { bounds } = surround;
  const grain = noiseVariance(kernels, surround, margin, width, height);
  const filter = derivativeFilterFor(pixels, across, margin, width, height, grain);
  const seen: TemplatePixels = {
    pixels,
    stride: across,
    margin,
    columns,
    left: Math.max(bounds.left - margin, 0),
    top: Math.max(bounds.top - margin, 0),
    right: Math.min(bounds.right - margin, width),
    bottom: Math.min(bounds.bottom - margin, height),
  };
  const images = kernels.floats(descent, count * rows).fill(0);
  const mean = meanOf(seen);
  takeLevels(seen, mean, kernels.floats(level, count).fill(NaN), images);
  const centre = { x: Math.floor(x) + 0.5, y: Math.floor(y) + 0.5 };
  const part = (at: number, size: PixelSetSize): PixelSet =>
    size.count === count ? full : placePixelSet(at, size, rows);
  const subsample = part(start + pixelSetBytes(whole, rows), sparse);
  const gradientRuns = part(start + pixelSetBytes(whole, rows) + pixelSetBytes(sparse, rows), best);
  const template: Template = {
    width,
    height,
    centre,
    model,
    reach,
    aspect,
    mean,
    grain,
    gradientNoise: filter.passes * grain,
    weakModes: [],
    weakModeDrift: 0,
    centroidOffset: 0,
    age: 0,
    noiseEstimates: 0,
    measuredGradientNoise: 0,
    full,
    subsample,
    gradientRuns,
    surround,
    margin,
    start,
    bytes,
    runningSum: grain > grainy.variance ? { sum: new Float32Array(count), times: 0 } : null,
    blur: null,
  };
  const [alongX, alongY] = gradientsOf(kernels, full);
  takeGradients(seen, filter, alongX, alongY);
  layDescentImages(kernels, template);
  if (subsample !== full) subsample.from = subsampleIn(full, subsample);
  if (gradientRuns !== full) gradientRuns.from = gradientRunsIn(kernels, full, gradientRuns);
  for (const pixelSet of new Set([full, subsample, gradientRuns])) {
    takePixels(kernels, full, pixelSet, rows);
    recordPixelSet(kernels, pixelSet, template);
  }
  return template;
}
