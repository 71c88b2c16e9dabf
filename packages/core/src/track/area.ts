import type { Plane } from '../image/plane.js';
import type { PlaneAt } from '../kernels/kernels.js';
import type { TrackKernels } from '../kernels/track-kernels.js';

/** A rectangle of a picture in the kernels' memory. Where it hangs over the border the nearest pixel is repeated. */
export interface Area extends PlaneAt {
  /** Where its top-left pixel lies in the picture. */
  left: number;
  top: number;
  /** The part that is real picture, in the area's own corner-origin pixels, two pixels from its borders. */
  bounds: { left: number; top: number; right: number; bottom: number };
}

/** Pixels that sampling needs around a position. */
const reach = 2;

/** Bytes an area takes, with room for reading a little past its end. */
export const areaBytes = (width: number, height: number): number => width * height + 64;

/** Copies a rectangle of `picture` to `at`, where there must be `areaBytes` of room. */
export function cutArea(
  kernels: TrackKernels,
  picture: Plane,
  left: number,
  top: number,
  width: number,
  height: number,
  at: number,
): Area {
  const { data, stride } = picture;
  const from = Math.min(Math.max(-left, 0), width);
  const to = Math.max(Math.min(picture.width - left, width), from);
  for (let y = 0; y < height; y++) {
    const row = Math.min(Math.max(top + y, 0), picture.height - 1) * stride;
    const out = at + y * width;
    if (to > from) kernels.copyIn(out + from, data, row + left + from, to - from);
    if (from > 0) kernels.fill(out, from, data[row]);
    if (to < width) kernels.fill(out + to, width - to, data[row + picture.width - 1]);
  }
  return {
    ...{ at, width, height, stride: width, left, top },
    bounds: {
      left: Math.max(reach, -left),
      top: Math.max(reach, -top),
      right: Math.min(width - reach, picture.width - left),
      bottom: Math.min(height - reach, picture.height - top),
    },
  };
}
