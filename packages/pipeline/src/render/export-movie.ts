import { rename, rm } from 'node:fs/promises';
import { kernelHeap, makeKernelMemory, startKernels, type YuvFormat } from '@lurn/core';
import { exportBits, frameBytes, readFrames, startMovie, type Clip, type ClipIndex } from '@lurn/media';
import { kernelModule } from '../kernels.js';
import { makeStep, type StepOrder } from './steps.js';

export interface ExportOptions {
  clip: Clip;
  index: ClipIndex;
  /** What is done to each picture, in order. */
  steps: readonly StepOrder[];
  /** The exported range, both included. */
  first: number;
  last: number;
  path: string;
  /** Told the number of frames written so far. */
  onProgress?: (frames: number) => void;
  signal?: AbortSignal;
}

/** Pictures on their way to the encoder. */
const outgoing = 4;

/**
 * Writes a movie: full size, exact rate, sound kept. Pictures go from the decoder into the kernels'
 * memory, through the steps, and from there to the encoder, in a ring of slots. The file
 * appears under its name only when it is whole. Throws a MediaError, or a CancelledError when called off.
 */
export async function exportMovie(options: ExportOptions): Promise<void> {
  const { clip, index, steps, first, last, path, signal } = options;
  const bytes = frameBytes(clip, 'exported');
  // Kernels may read a little past a plane, hence the space between slots.
  const step = (bytes + 127) & ~63;
  // Between steps pictures lie in two slots by turns.
  const between = Math.min(Math.max(steps.length - 1, 0), 2);
  const memory = makeKernelMemory(kernelHeap + step * (1 + outgoing + between));
  const kernels = startKernels(kernelModule(), memory);
  const slotAt = (i: number): number => kernelHeap + i * step;
  const slot = (i: number): Uint8Array => new Uint8Array(memory.buffer, slotAt(i), bytes);
  const incoming = slot(0);
  const written: Promise<void>[] = Array.from({ length: outgoing }, () => Promise.resolve());
  const range = clip.colour.range === 'pc' ? 'full' : 'limited';
  const format: YuvFormat = { ...clip, range, bits: exportBits(clip) };
  const rendering = steps.map((order) => makeStep(order, { kernels, format }));
  const render = (frame: number, to: number): void => {
    let from = slotAt(0);
    rendering.forEach((make, i) => {
      const next = i === rendering.length - 1 ? to : slotAt(1 + outgoing + (i % 2));
      make(frame, from, next);
      from = next;
    });
    if (rendering.length === 0) new Uint8Array(memory.buffer).copyWithin(to, from, from + bytes);
  };

  const partial = `${path}.partial`;
  const movie = startMovie({ path: partial, clip, index, first, last, signal });
  try {
    const source = readFrames(clip, { first, last, index, signal, planes: 'exported', slot: () => incoming });
    for await (const { frame } of source) {
      const turn = (frame - first) % outgoing;
      await written[turn];
      render(frame, slotAt(1 + turn));
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
