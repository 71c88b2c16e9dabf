import { rename, rm } from 'node:fs/promises';
import {
  kernelHeap,
  makeKernelMemory,
  matrixAt,
  startKernels,
  warpPicture,
  type Interpolation,
  type YuvFormat,
} from '@lurn/core';
import { exportBits, frameBytes, readFrames, startMovie, type Clip, type ClipIndex } from '@lurn/media';
import { kernelModule } from '../kernels.js';

export interface ExportOptions {
  clip: Clip;
  index: ClipIndex;
  /** Nine numbers a frame of the clip: frame k → output pixel. */
  placements: Float64Array;
  /** The exported range, both included. */
  first: number;
  last: number;
  interpolation?: Interpolation;
  path: string;
  /** Told the number of frames written so far. */
  onProgress?: (frames: number) => void;
  signal?: AbortSignal;
}

/** Pictures on their way to the encoder. */
const outgoing = 4;

/**
 * Writes the steadied movie: full size, exact rate, sound kept. Pictures go from the decoder into the
 * kernels' memory, through one resampling, and from there to the encoder, in a ring of slots. The file
 * appears under its name only when it is whole. Throws a MediaError, or a CancelledError when called off.
 */
export async function exportMovie(options: ExportOptions): Promise<void> {
  const { clip, index, placements, first, last, path, signal } = options;
  const bytes = frameBytes(clip, 'exported');
  // Kernels may read a little past a plane, hence the space between slots.
  const step = (bytes + 127) & ~63;
  const memory = makeKernelMemory(kernelHeap + step * (outgoing + 1));
  const kernels = startKernels(kernelModule(), memory);
  const slotAt = (i: number): number => kernelHeap + i * step;
  const slot = (i: number): Uint8Array => new Uint8Array(memory.buffer, slotAt(i), bytes);
  const incoming = slot(0);
  const written: Promise<void>[] = Array.from({ length: outgoing }, () => Promise.resolve());
  const range = clip.colour.range === 'pc' ? 'full' : 'limited';
  const format: YuvFormat = { ...clip, range, bits: exportBits(clip) };

  const partial = `${path}.partial`;
  const movie = startMovie({ path: partial, clip, index, first, last, signal });
  try {
    const source = readFrames(clip, { first, last, index, signal, planes: 'exported', slot: () => incoming });
    for await (const { frame } of source) {
      const turn = (frame - first) % outgoing;
      await written[turn];
      const placement = matrixAt(placements, frame);
      warpPicture(kernels, format, slotAt(0), slotAt(1 + turn), placement, options.interpolation ?? 'cubic');
      written[turn] = movie.write(slot(1 + turn));
      // Its failure is looked at when the slot comes round again, or at the end.
      written[turn].catch(() => undefined);
      options.onProgress?.(frame - first + 1);
    }
    await Promise.all(written);
    await movie.finish();
    await rename(partial, path);
  } catch (error) {
    await movie.abandon();
    await rm(partial, { force: true });
    throw error;
  }
}
