import {
  fromSquarePixels,
  identity,
  matrixAt,
  multiply,
  scaleAbout,
  translation,
  type Mat3,
  type Point,
} from '../geometry/mat3.js';
import { poseMatrix, poseOf, type Pose } from '../geometry/pose.js';
import { InputError } from '../input-error.js';
import type { WarpModel } from '../geometry/warp-model.js';

/** A shot of a motion, which leaves a frame of its own alone, and the point its view is taken about. */
export interface MotionShot {
  first: number;
  last: number;
  referenceFrame: number;
  pivot: Point;
}

/**
 * Per frame, where the points of the reference frame stand: nine numbers each, row-major, in square pixels. The reference
 * frame's matrix is the identity. Position, rotation, scale, shear and perspective are a view of it (`curvesOf`).
 */
export interface Motion {
  frames: number;
  referenceFrame: number;
  /** A clip pixel's width over its height. */
  pixelAspect: number;
  /** The least that all of its matrices fit in: `translation` when never more than one track was seen at once. */
  model: WarpModel;
  matrices: Float64Array;
  /** The point of the reference frame that the view is taken about: where the tracks are, square pixels. */
  pivot: Point;
  /** Where the clip has several shots, or may have: each by itself. Nothing is smoothed from one to the next. */
  shots?: MotionShot[];
  /** How long its frames were read out, as a share of a frame, where their rows are put right; none when left out. */
  readout?: number;
  /** How many tracks spoke for each frame; 0 where the motion is carried over from the nearest frames. */
  support: Uint16Array;
  /** RMS distance in pixels between tracks and motion at each frame; 0 with fewer than two tracks. */
  residual: Float64Array;
  /** How far off the motion is expected to be at the tracks, pixels; infinite where none spoke. */
  expectedError: Float64Array;
}

/** A motion that stands still. */
export function stillMotion(frames: number, referenceFrame: number, pivot: Point): Motion {
  const matrices = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) matrices.set(identity, 9 * k);
  return {
    frames,
    referenceFrame,
    pixelAspect: 1,
    model: 'translation',
    matrices,
    pivot,
    support: new Uint16Array(frames),
    residual: new Float64Array(frames),
    expectedError: new Float64Array(frames).fill(Infinity),
  };
}

/** A motion that comes to a point or a line on a frame: nothing can be held still by it. */
export class CollapsedMotion extends InputError {
  override name = 'CollapsedMotion';
  /** `names` are the tracks that tell it on the frame, where they are known. */
  constructor(
    readonly frame: number,
    names: readonly string[] = [],
  ) {
    const told =
      names.length > 0 ? `what ${names.map((name) => `"${name}"`).join(', ')} tell` : 'what is followed';
    super(
      `On frame ${frame} ${told} comes to a point or a line, which cannot be undone: put a track right there, or leave it out.`,
    );
  }
}

/** Whether what is so much larger, or smaller, can be made as it was. */
export const isUndoable = (scale: number): boolean => scale > 1e-4 && scale < 1e4;

/** The first frame on which a motion cannot be undone; null where it can on all. */
export function collapsedOn({ matrices, pivot, frames }: Pick<Motion, 'matrices' | 'pivot' | 'frames'>) {
  for (let k = 0; k < frames; k++) if (!isUndoable(scaleAbout(matrixAt(matrices, k), pivot))) return k;
  return null;
}

/** The matrix that takes a point of the reference frame to where it stands in `frame`, clip pixels both. */
export const frameFromReference = (motion: Pick<Motion, 'matrices' | 'pixelAspect'>, frame: number): Mat3 =>
  fromSquarePixels(matrixAt(motion.matrices, frame), motion.pixelAspect);

/** A column of a motion's view for each number of a pose; x and y are how far the pivot has gone, square pixels. */
export type Curves = Record<keyof Pose, Float64Array>;

export const curveNames = ['x', 'y', 'rotation', 'scale', 'stretch', 'shear', 'tiltX', 'tiltY'] as const;

/** Columns that stand still. */
export function stillCurves(frames: number): Curves {
  const [x, y, rotation, stretch, shear, tiltX, tiltY] = Array.from(
    { length: 7 },
    () => new Float64Array(frames),
  );
  return { x, y, rotation, scale: new Float64Array(frames).fill(1), stretch, shear, tiltX, tiltY };
}

/** A motion as curves about its pivot; rotation goes on beyond half a turn. Exact: `motionMatrix` leads back. */
export function curvesOf({ frames, matrices, pivot }: Pick<Motion, 'frames' | 'matrices' | 'pivot'>): Curves {
  const curves = stillCurves(frames);
  const atPivot = translation(pivot.x, pivot.y);
  for (let k = 0; k < frames; k++) {
    const pose = poseOf(multiply(matrixAt(matrices, k), atPivot));
    pose.x -= pivot.x;
    pose.y -= pivot.y;
    for (const name of curveNames) curves[name][k] = pose[name];
  }
  unwrap(curves.rotation);
  return curves;
}

export const poseAt = (curves: Curves, frame: number): Pose => ({
  x: curves.x[frame],
  y: curves.y[frame],
  rotation: curves.rotation[frame],
  scale: curves.scale[frame],
  stretch: curves.stretch[frame],
  shear: curves.shear[frame],
  tiltX: curves.tiltX[frame],
  tiltY: curves.tiltY[frame],
});

/** The matrix, in square pixels, of a pose about a pivot, as `curvesOf` has them. */
export const motionMatrix = (pose: Readonly<Pose>, pivot: Point): Mat3 =>
  multiply(
    poseMatrix({ ...pose, x: pivot.x + pose.x, y: pivot.y + pose.y }),
    translation(-pivot.x, -pivot.y),
  );

/** Keeps angles from jumping by a whole turn between frames. */
export function unwrap(angles: Float64Array): void {
  for (let k = 1; k < angles.length; k++)
    angles[k] -= 2 * Math.PI * Math.round((angles[k] - angles[k - 1]) / (2 * Math.PI));
}
