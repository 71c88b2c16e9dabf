import type { Kernels } from '../kernels/kernels.js';
import type { PictureAt } from './warp-picture.js';
import { bytesOf, planeLayout } from './yuv-picture.js';

/** Three box blurs come close to a Gaussian. */
const passes = 3;
/** Of luma; chroma planes are blurred by as much of the picture. */
const radius = 3;

/** Blurs a small picture in place. */
export function blurPicture({ memory }: Kernels, { at, format }: PictureAt): void {
  const depth = bytesOf(format.bits);
  const levels = depth === 1 ? new Uint8Array(memory.buffer, at) : new Uint16Array(memory.buffer, at);
  for (const { offset, width, height } of planeLayout(format)) {
    const plane = levels.subarray(offset, offset + width * height);
    const across = Math.max(1, Math.round((radius * width) / format.width));
    const down = Math.max(1, Math.round((radius * height) / format.height));
    for (let pass = 0; pass < passes; pass++) {
      for (let y = 0; y < height; y++) blurLine(plane, y * width, 1, width, across);
      for (let x = 0; x < width; x++) blurLine(plane, x, width, height, down);
    }
  }
}

/** A running mean along a line, whose ends go on beyond it. */
function blurLine(
  levels: Uint8Array | Uint16Array,
  from: number,
  step: number,
  length: number,
  reach: number,
): void {
  const line = Float64Array.from({ length }, (_, i) => levels[from + i * step]);
  const at = (i: number): number => line[i < 0 ? 0 : i >= length ? length - 1 : i];
  let sum = 0;
  for (let i = -reach; i <= reach; i++) sum += at(i);
  for (let i = 0; i < length; i++) {
    levels[from + i * step] = Math.round(sum / (2 * reach + 1));
    sum += at(i + reach + 1) - at(i - reach);
  }
}
