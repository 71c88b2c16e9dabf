import type { Point } from '../../geometry/mat3.js';
import type { MotionModel } from '../../solve/fit-model.js';
import type { Readout } from '../../solve/rolling-shutter.js';

/** A motion of a group by one model. */
export interface GroupMotion {
  /** RMS distance of the group's features from it, pixels. */
  residual: number;
  /** Nine numbers a frame of the shot: from the shot's first frame to each; square pixels. */
  matrices: Float64Array;
}

/** Features that move alike. */
export interface MotionGroup {
  /** Features of the shot, by number; those kept out of every solve are not among them. */
  members: Int32Array;
  /** Features that move alike, too, in the cells that are kept out. */
  heldOut: Int32Array;
  /** How much of the picture it covers, over the shot, 0 to 1. */
  share: number;
  /** First and last frame of the clip on which it is seen. */
  first: number;
  last: number;
  /** The middle of where it is seen, on the shot's first frame, square pixels. */
  middle: Point;
  models: Record<MotionModel, GroupMotion>;
  /** The simplest model that explains it. */
  proposed: MotionModel;
  /** How far it slides against the first group, RMS pixels. */
  slide: number;
  /**
   * Where the camera travels, how deep it lies, as a share of the way from the first group to the one that slides most; null
   * for what moves by itself, or where there is no depth.
   */
  depth: number | null;
}

/** Where the camera travels: how far each frame shifts what lies a depth of 1 from the first group; x, y. */
export type DepthPath = Float64Array;

/** Frames of a clip, both ends included. */
export interface FrameSpan {
  first: number;
  last: number;
}

/** The motion groups of one shot, the one an editor would hold first. */
export interface ShotGroups extends FrameSpan {
  groups: MotionGroup[];
  depthPath: DepthPath | null;
  /** 1 for each frame on which nothing was followed, and the motion is bridged. */
  bridged: Uint8Array;
  /** How long the sensor takes from the first row to the last; null where the shot does not tell. */
  readout: Readout | null;
}

export interface PictureExtent {
  /** Square pixels. */
  width: number;
  height: number;
}
