import { fromSquarePixels, multiply, toSquarePixels, translation, type Mat3 } from '../../geometry/mat3.js';
import { parsePixelAspect } from '../../geometry/pixel-aspect.js';
import { poseOf } from '../../geometry/pose.js';
import { quadFromQuad, type Quad } from '../../geometry/quad.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { fitModel } from '../../solve/fit-model.js';
import type { Place } from '../samples.js';
import { isConvex, type Region } from './region.js';

/**
 * Where a region stands when its quad's corners lie at some places: exactly in perspective, else as near as its model comes.
 * Null where the corners do not go round.
 */
export function placeOfCorners(
  { quad, centre }: Pick<Region, 'quad' | 'centre'>,
  corners: Quad,
  model: WarpModel,
  { pixelAspect }: { pixelAspect: string },
): Place | null {
  if (!isConvex(corners)) return null;
  const aspect = parsePixelAspect(pixelAspect);
  const matrix = motionBetween(quad, corners, model, aspect);
  if (!matrix) return null;
  const square = toSquarePixels(multiply(matrix, translation(centre.x, centre.y)), aspect);
  const place = poseOf(square);
  return { ...place, x: place.x / aspect };
}

function motionBetween(quad: Quad, corners: Quad, model: WarpModel, aspect: number): Mat3 | null {
  if (model === 'homography' || model === 'affine') return quadFromQuad(corners, quad);
  const square = (corners: Quad): Float64Array =>
    Float64Array.from(corners.flatMap(({ x, y }) => [x * aspect, y]));
  const word = model === 'translation' ? 'shift' : model === 'euclidean' ? 'rotation' : 'similarity';
  const weights = new Float64Array(4).fill(1);
  const fit = fitModel(word, { count: 4, from: square(quad), to: square(corners), weights });
  return fit && fromSquarePixels(fit, aspect);
}
