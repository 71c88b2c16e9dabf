import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Analysis, TrackPicture } from '../image/analysis.js';
import { patchBytes } from '../image/patch.js';
import { readPatch } from '../image/read-patch.js';

/** A part of a picture, halved some times: pixels of `scale` clip pixels, whose first lies at (left, top) in them. Bounds are real picture, in its own pixels. */
export interface PictureLevel {
  at: number;
  stride: number;
  width: number;
  height: number;
  scale: number;
  left: number;
  top: number;
  bounds: { left: number; top: number; right: number; bottom: number };
}

/** Sampling takes so many pixels beside a position. */
const reach = 2;

/** A box of a picture, clip pixels, at so many levels, each half the one before, finest first; `scratch` names the room it lies in until the next one. */
export function pictureLevels(
  kernels: TrackKernels,
  picture: TrackPicture,
  analysis: Analysis,
  box: { left: number; top: number; right: number; bottom: number },
  count: number,
  scratch: string,
): PictureLevel[] {
  const coarsest = 2 ** (count - 1);
  const aligned = (value: number): number => Math.floor(value / coarsest) * coarsest;
  const left = aligned(Math.max(box.left, 0));
  const top = aligned(Math.max(box.top, 0));
  const width = Math.max(Math.ceil(Math.min(box.right, picture.width)) - left, 8 * coarsest);
  const height = Math.max(Math.ceil(Math.min(box.bottom, picture.height)) - top, 8 * coarsest);
  const at = kernels.scratch(`${scratch} 0`, patchBytes(width, height));
  const patch = readPatch(kernels, picture, analysis, left, top, width, height, at);
  const { bounds } = patch;
  const levels: PictureLevel[] = [
    { at: patch.at, stride: patch.stride, width, height, scale: 1, left, top, bounds },
  ];
  for (let k = 1; k < count; k++) {
    const finer = levels[k - 1];
    const [w, h] = [finer.width >> 1, finer.height >> 1];
    const to = kernels.scratch(`${scratch} ${k}`, patchBytes(w, h));
    kernels.halvePlane(finer.at, finer.stride, finer.width, finer.height, to);
    const scale = 2 ** k;
    levels.push({
      at: to,
      stride: w,
      width: w,
      height: h,
      scale,
      left: left / scale,
      top: top / scale,
      bounds: {
        left: Math.max(reach, bounds.left / scale),
        top: Math.max(reach, bounds.top / scale),
        right: Math.min(w - reach, bounds.right / scale),
        bottom: Math.min(h - reach, bounds.bottom / scale),
      },
    });
  }
  return levels;
}
