import { normalised, type Point } from '../geometry/mat3.js';
import { quadFromQuad, type Quad } from '../geometry/quad.js';
import { expectedErrorAt } from '../track/certainty/confidence.js';
import { Samples } from '../track/samples.js';
import { interpolate } from './interpolate.js';
import { stillMotion, type Motion } from './motion.js';

/** The paths of a flat thing's corners, as points that were followed, in square pixels. */
export function cornerPaths(track: Samples, aspect: number): Samples[] {
  const paths = (track.corners ?? []).map(() => {
    const path = new Samples(track.frames);
    path.state.set(track.state);
    path.confidence.set(track.confidence);
    return path;
  });
  for (let k = 0; k < track.frames; k++)
    if (track.state[k] !== 0)
      track.cornersAt(k, aspect).forEach(({ x, y }, i) => {
        paths[i].x[k] = x * aspect;
        paths[i].y[k] = y;
      });
  return paths;
}

/**
 * A flat thing's own motion, in full perspective: its matrix on each frame, exactly as it was found. Where it was not, its
 * corners go on between the frames that have it, and stay beyond them.
 */
export function quadMotion(
  track: Samples,
  { frames, referenceFrame, pixelAspect }: { frames: number; referenceFrame: number; pixelAspect: number },
): Motion {
  const paths = cornerPaths(track, pixelAspect);
  const found = (k: number): boolean => track.found(k);
  for (const path of paths) for (const column of [path.x, path.y]) interpolate(column, found);
  const cornersOn = (k: number): Quad =>
    paths.map(({ x, y }): Point => ({ x: x[k], y: y[k] })) as unknown as Quad;
  const origin = cornersOn(referenceFrame);
  const pivot = {
    x: origin.reduce((sum, { x }) => sum + x, 0) / 4,
    y: origin.reduce((sum, { y }) => sum + y, 0) / 4,
  };
  const motion = stillMotion(frames, referenceFrame, pivot);
  if (!quadFromQuad(origin, origin)) return motion;
  motion.model = 'homography';
  for (let k = 0; k < frames; k++) {
    const m = quadFromQuad(cornersOn(k), origin);
    if (!m) continue;
    motion.matrices.set(normalised(m), 9 * k);
    if (!found(k)) continue;
    motion.support[k] = 1;
    motion.expectedError[k] = expectedErrorAt(track.confidence[k]);
  }
  return motion;
}
