import { sampleCubic } from './cubic.js';
import type { Plane } from './plane.js';

/** A box in a picture: its centre, and the turn and growth (a, b) that lead from box pixels to picture pixels. */
export interface PatchPose {
  x: number;
  y: number;
  a: number;
  b: number;
}

/**
 * Reads the grey levels of a turned box of `width`×`height` (odd) pixels into `seen`, row by row, with NaN for
 * what lies outside the picture. Returns how many lie inside. `linear` is a quarter of the work of `cubic`.
 */
export function samplePatch(
  picture: Plane,
  { x, y, a, b }: PatchPose,
  width: number,
  height: number,
  interpolation: 'linear' | 'cubic',
  seen: Float32Array,
): number {
  const halfW = width >> 1;
  const halfH = height >> 1;
  const reachX = Math.abs(a) * halfW + Math.abs(b) * halfH + 2;
  const reachY = Math.abs(b) * halfW + Math.abs(a) * halfH + 2;
  const within =
    x - reachX >= 0 && y - reachY >= 0 && x + reachX <= picture.width && y + reachY <= picture.height;
  if (within && interpolation === 'linear') {
    sampleInside(picture, x - 0.5, y - 0.5, a, b, halfW, halfH, seen);
    return width * height;
  }
  let inside = 0;
  for (let v = -halfH, i = 0; v <= halfH; v++) {
    for (let u = -halfW; u <= halfW; u++, i++) {
      const px = x + a * u - b * v;
      const py = y + b * u + a * v;
      if (within || (px >= 0 && py >= 0 && px <= picture.width && py <= picture.height)) {
        seen[i] = sampleCubic(picture, px, py);
        inside++;
      } else {
        seen[i] = NaN;
      }
    }
  }
  return inside;
}

/** Bilinear, for a box with a margin of two pixels all round; positions counted from pixel centres. */
function sampleInside(
  { data, stride }: Plane,
  x: number,
  y: number,
  a: number,
  b: number,
  halfW: number,
  halfH: number,
  seen: Float32Array,
): void {
  for (let v = -halfH, i = 0; v <= halfH; v++) {
    let px = x - a * halfW - b * v;
    let py = y - b * halfW + a * v;
    for (let u = -halfW; u <= halfW; u++, i++, px += a, py += b) {
      const ix = px | 0;
      const iy = py | 0;
      const fx = px - ix;
      const at = iy * stride + ix;
      const top = data[at] + fx * (data[at + 1] - data[at]);
      const bottom = data[at + stride] + fx * (data[at + stride + 1] - data[at + stride]);
      seen[i] = top + (py - iy) * (bottom - top);
    }
  }
}
