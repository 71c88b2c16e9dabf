import { fromSquarePixels, type Mat3, type Point } from '../geometry/mat3.js';
import { similarityMatrix, type Similarity } from '../geometry/similarity.js';

/**
 * Per frame, where the points of the reference frame stand: as a similarity about `pivot`, a column per
 * parameter. At the reference frame all columns are still (0, 0, 0, 1). Columns and pivot are in square pixels.
 */
export interface Motion {
  frames: number;
  referenceFrame: number;
  /** A clip pixel's width over its height. */
  pixelAspect: number;
  /** `translation` when never more than one track was seen at once. */
  model: 'translation' | 'similarity';
  pivot: Point;
  x: Float64Array;
  y: Float64Array;
  rotation: Float64Array;
  scale: Float64Array;
  /** How many tracks spoke for each frame; 0 where the motion is carried over from the nearest frames. */
  support: Uint16Array;
  /** RMS distance in pixels between tracks and motion at each frame; 0 with fewer than two tracks. */
  residual: Float64Array;
}

/** A motion that stands still. */
export function stillMotion(frames: number, referenceFrame: number, pivot: Point): Motion {
  return {
    frames,
    referenceFrame,
    pixelAspect: 1,
    model: 'translation',
    pivot,
    x: new Float64Array(frames),
    y: new Float64Array(frames),
    rotation: new Float64Array(frames),
    scale: new Float64Array(frames).fill(1),
    support: new Uint16Array(frames),
    residual: new Float64Array(frames),
  };
}

export const motionAt = (motion: Motion, frame: number): Similarity => ({
  x: motion.x[frame],
  y: motion.y[frame],
  rotation: motion.rotation[frame],
  scale: motion.scale[frame],
});

/** The matrix that takes a point of the reference frame to where it stands in `frame`, clip pixels both. */
export const frameFromReference = (motion: Motion, frame: number): Mat3 =>
  fromSquarePixels(similarityMatrix(motionAt(motion, frame), motion.pivot), motion.pixelAspect);
