import type { Mat3 } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { patchBytes } from '../image/patch.js';
import type { Template } from '../template/types.js';

/** A template drawn for the whole-pixel search, on every level of its pyramid, finest last. */
export interface SearchTemplate {
  levels: { at: number; width: number; height: number }[];
  at: number;
  bytes: number;
}

const smallest = 16;
const mostLevels = 6;

const packedBytes = (width: number, height: number): number =>
  (16 + 2 * ((width + 7) & ~7) * height + 63) & ~63;

/** What the template looks like through `m` (from box to picture; its shift does not count), in bytes at `drawn`. */
function drawTurned(kernels: TrackKernels, template: Template, m: Mat3): number {
  const { width, height, surround, margin, full } = template;
  const seen = kernels.scratch('seen', 4 * full.count);
  const drawn = kernels.scratch('drawn', patchBytes(width, height));
  // The picture's box shows what the inverse of the turn takes it from.
  const [a, b, c, d] = [m[0] / m[8], m[1] / m[8], m[3] / m[8], m[4] / m[8]];
  const det = a * d - b * c;
  const pose = [d / det, -b / det, margin + width / 2, -c / det, a / det, margin + height / 2, 0, 0, 1];
  const { bounds } = surround;
  const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
  kernels.samplePatch(surround.at, surround.stride, ...box, width, height, ...pose, 0, seen);
  kernels.quantise(seen, (width + 3) & ~3, width, height, template.mean, drawn);
  return drawn;
}

/** Draws the template through `m` for the whole-pixel search. Freed by `freeSearchTemplate`. */
export function turnTemplate(kernels: TrackKernels, template: Template, m: Mat3): SearchTemplate {
  const { width, height } = template;
  const sizes = [{ width, height }];
  while (Math.min(sizes[0].width, sizes[0].height) >= smallest && sizes.length < mostLevels) {
    sizes.unshift({ width: sizes[0].width >> 1, height: sizes[0].height >> 1 });
  }
  const bytes = sizes.reduce((sum, s) => sum + packedBytes(s.width, s.height), 0);
  const at = kernels.alloc(bytes);
  const rooms = ['half', 'quarter'].map((name) => kernels.scratch(name, patchBytes(width, height)));
  const levels: SearchTemplate['levels'] = [];
  let next = at + bytes;
  let from = { at: drawTurned(kernels, template, m), stride: width };
  for (let i = sizes.length - 1; i >= 0; i--) {
    const size = sizes[i];
    if (i < sizes.length - 1) {
      const finer = sizes[i + 1];
      const to = rooms[i % 2];
      kernels.halvePlane(from.at, from.stride, finer.width, finer.height, to);
      from = { at: to, stride: size.width };
    }
    next -= packedBytes(size.width, size.height);
    kernels.packTemplate(from.at, from.stride, size.width, size.height, next);
    levels.unshift({ at: next, ...size });
  }
  return { levels, at, bytes };
}

export const freeSearchTemplate = (kernels: TrackKernels, { at, bytes }: SearchTemplate): void =>
  kernels.free(at, bytes);
