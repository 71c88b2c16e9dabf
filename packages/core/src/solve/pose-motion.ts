import { multiply, translation } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import type { Samples } from '../track/samples.js';
import { interpolate } from './interpolate.js';
import { unwrap, type Motion } from './motion.js';

/**
 * Gives a motion that one track alone has told the track's own turn, and its growth too where `grows`: as its box was found
 * turned and grown. Frames it is not found on lie between their neighbours. The motion's reference frame stays as it is.
 */
export function takePose(motion: Motion, track: Samples, grows: boolean): void {
  const { frames, referenceFrame, pivot } = motion;
  const rotation = Float64Array.from({ length: frames }, (_, k) => track.rotation[k]);
  const growth = Float64Array.from({ length: frames }, (_, k) => Math.log(track.scale[k] || 1));
  const known = (k: number): boolean => track.found(k);
  interpolate(rotation, known);
  interpolate(growth, known);
  unwrap(rotation);
  const [turned, grown] = [rotation[referenceFrame], growth[referenceFrame]];
  for (let k = 0; k < frames; k++) {
    const own = {
      x: 0,
      y: 0,
      rotation: rotation[k] - turned,
      scale: grows ? Math.exp(growth[k] - grown) : 1,
    };
    const [dx, dy] = [motion.matrices[9 * k + 2], motion.matrices[9 * k + 5]];
    motion.matrices.set(multiply(translation(dx, dy), similarityMatrix(own, pivot)), 9 * k);
  }
  motion.model = grows ? 'similarity' : 'euclidean';
}
