import type { Plane } from './plane.js';
import type { PlaneAt } from '../../kernels/kernels.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';

/** A rectangle of a picture in the kernels' memory. Where it hangs over the border the nearest pixel is repeated. */
export interface Patch extends PlaneAt {
  /** Where its top-left pixel lies in the picture. */
  left: number;
  top: number;
  /** The part that is real picture, in the area's own corner-origin pixels, two pixels from its borders. */
  bounds: { left: number; top: number; right: number; bottom: number };
}

/** Pixels that sampling needs around a position. */
const reach = 2;

/** Bytes an area takes, with room for reading a little past its end. */
export const patchBytes = (width: number, height: number): number => width * height + 64;

/** A plane that may lie in the kernels' memory as a whole, at `heldAt`, with rows as long as its own. */
export interface MappedPlane extends Plane {
  wasmAddress?: number;
}

/** Copies a whole plane in; it stays until the next one is held in the same room. */
export function mapPlane<P extends MappedPlane>(
  kernels: TrackKernels,
  plane: P,
  scratch = 'held plane',
): P & { wasmAddress: number } {
  const bytes = plane.stride * plane.height;
  const wasmAddress = kernels.scratch(scratch, patchBytes(plane.stride, plane.height));
  kernels.copyIn(wasmAddress, plane.data, 0, bytes);
  return { ...plane, wasmAddress };
}

/**
 * A rectangle of `picture`: of one that is held it is looked at where it lies, if nothing of it hangs over the
 * border; else it is copied to `at`, where there must be `areaBytes` of room.
 */
export function cutPatch(
  kernels: TrackKernels,
  picture: MappedPlane,
  left: number,
  top: number,
  width: number,
  height: number,
  at: number,
): Patch {
  const { data, stride, wasmAddress } = picture;
  const inside = left >= 0 && top >= 0 && left + width <= picture.width && top + height <= picture.height;
  if (wasmAddress !== undefined && inside) {
    const bounds = { left: reach, top: reach, right: width - reach, bottom: height - reach };
    return { at: wasmAddress + top * stride + left, width, height, stride, left, top, bounds };
  }
  const from = Math.min(Math.max(-left, 0), width);
  const to = Math.max(Math.min(picture.width - left, width), from);
  for (let y = 0; y < height; y++) {
    const row = Math.min(Math.max(top + y, 0), picture.height - 1) * stride;
    const out = at + y * width;
    if (to > from) kernels.copyIn(out + from, data, row + left + from, to - from);
    if (from > 0) kernels.fill(out, from, data[row]);
    if (to < width) kernels.fill(out + to, width - to, data[row + picture.width - 1]);
  }
  const bounds = {
    left: Math.max(reach, -left),
    top: Math.max(reach, -top),
    right: Math.min(width - reach, picture.width - left),
    bottom: Math.min(height - reach, picture.height - top),
  };
  return { at, width, height, stride: width, left, top, bounds };
}
