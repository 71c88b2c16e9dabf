import { matrixAt, type Mat3 } from '../geometry/mat3.js';
import { frameFromReference, type Motion } from '../solve/motion.js';
import { clipHeader, type ClipFacts } from './clip-facts.js';

/**
 * A motion and the placement made of it as open JSON: format `lurn-motion`, version 1. Matrices are
 * row-major with corner-origin pixels; only frames `first` to `last` are listed.
 */
export function writeMotionJson(
  clip: ClipFacts,
  motion: Motion,
  placements: Float64Array,
  first: number,
  last: number,
): string {
  const frames: { frame: number; frameFromReference: Mat3; outputFromFrame: Mat3 }[] = [];
  for (let frame = first; frame <= last; frame++) {
    frames.push({
      frame,
      frameFromReference: frameFromReference(motion, frame),
      outputFromFrame: matrixAt(placements, frame),
    });
  }
  return JSON.stringify(
    {
      format: 'lurn-motion',
      version: 1,
      clip: clipHeader(clip),
      referenceFrame: motion.referenceFrame,
      model: motion.model,
      frames,
    },
    null,
    1,
  );
}
