import type { Mat3 } from './mat3.js';

/**
 * How what lies about a point has turned, grown and been slanted: with u an offset from the point where all began,
 * p(u) = (t + (L + t·gᵀ)·u) / (1 + g·u), with t the point's place, g = (tiltX, tiltY) a pixel, and
 * L = scale · R(rotation) · [1 + stretch, shear; shear, 1 − stretch]. Offsets and places are in square pixels.
 */
export interface Pose {
  x: number;
  y: number;
  /** Radians, clockwise on screen. */
  rotation: number;
  scale: number;
  /** How much longer along x than along y, and how far slanted, before it was turned; 0 for a similarity. */
  stretch: number;
  shear: number;
  /** Perspective: how much smaller things become, a pixel to the right and down; 0 for an affine motion. */
  tiltX: number;
  tiltY: number;
}

export const identityPose: Readonly<Pose> = {
  x: 0,
  y: 0,
  rotation: 0,
  scale: 1,
  stretch: 0,
  shear: 0,
  tiltX: 0,
  tiltY: 0,
};

/** The matrix that takes offsets from the point to where they stand. */
export function poseMatrix(pose: Readonly<Pose>): Mat3 {
  const { x, y, stretch, shear, tiltX, tiltY } = pose;
  const c = pose.scale * Math.cos(pose.rotation);
  const s = pose.scale * Math.sin(pose.rotation);
  const [along, across] = [1 + stretch, 1 - stretch];
  return [
    c * along - s * shear + x * tiltX,
    c * shear - s * across + x * tiltY,
    x,
    s * along + c * shear + y * tiltX,
    s * shear + c * across + y * tiltY,
    y,
    tiltX,
    tiltY,
    1,
  ];
}

/** The pose that a matrix stands for; exact, as both have eight numbers. The rotation lies within half a turn. */
export function poseOf(m: Mat3): Pose {
  const w = m[8];
  const [x, y, tiltX, tiltY] = [m[2] / w, m[5] / w, m[6] / w, m[7] / w];
  const [a, b] = [m[0] / w - x * tiltX, m[1] / w - x * tiltY];
  const [c, d] = [m[3] / w - y * tiltX, m[4] / w - y * tiltY];
  // A linear map is a turn with growth and one after a reflection: the second is what is stretched and slanted.
  const [p, q] = [(a + d) / 2, (c - b) / 2];
  const [r, s] = [(a - d) / 2, (b + c) / 2];
  const squared = p * p + q * q;
  return {
    x,
    y,
    rotation: Math.atan2(q, p),
    scale: Math.sqrt(squared),
    stretch: (r * p + s * q) / squared,
    shear: (s * p - r * q) / squared,
    tiltX,
    tiltY,
  };
}
