import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  kernelHeap,
  makeKernelMemory,
  pictureBytes,
  spacedBytes,
  startKernels,
  type YuvFormat,
} from '@lurn/core';
import {
  frameBytes,
  pictureFormat,
  readFrames,
  startMovie,
  workingBits,
  zipFolder,
  type Clip,
  type ClipIndex,
  type Encoding,
  type Words,
} from '@lurn/media';
import { kernelModule } from '../kernels.js';
import { planStep, type PlannedStep, type StepOrder } from './steps.js';

export interface ExportOptions {
  clip: Clip;
  index: ClipIndex;
  /** A clip whose frames run beside: its frame `first` with frame `from` of the range, or with the first of it, as far as there are any. */
  beside?: { clip: Clip; index: ClipIndex; first: number; from?: number };
  /** Words written into the pictures. */
  words?: readonly Words[];
  /** What is done to each picture, in order. */
  steps: readonly StepOrder[];
  /** The exported range, both included. */
  first: number;
  last: number;
  encoding: Encoding;
  path: string;
  /** Told the number of frames written so far. */
  onProgress?: (frames: number) => void;
  signal?: AbortSignal;
}

/** Pictures on their way to the encoder. */
const outgoing = 4;

/**
 * Writes a movie: exact rate, sound kept. Pictures go from the decoder into the kernels'
 * memory, through the steps, and from there to the encoder, in a ring of slots. The file
 * appears under its name only when it is whole; pictures by themselves come as a zip, or, where the path ends with a slash, as a
 * folder, which must not be there yet or be empty. Throws a MediaError, or a CancelledError
 * when called off.
 */
export async function exportMovie(options: ExportOptions): Promise<void> {
  const { clip, index, first, last, path, encoding, signal } = options;
  const bits = workingBits(encoding, options.steps.some(isSeenThrough));
  const source = pictureFormat(clip, bits);
  const { beside } = options;
  // Pictures that are shown together are of one kind.
  const besideFormat: YuvFormat = {
    ...source,
    ...(beside ? { width: beside.clip.width, height: beside.clip.height } : {}),
  };
  const steps: PlannedStep[] = [];
  for (const order of options.steps)
    steps.push(planStep(order, steps.at(-1)?.format ?? source, besideFormat, source));
  const made: YuvFormat = steps.at(-1)?.format ?? source;
  const incomingBytes = frameBytes(clip, 'exported', bits);
  const outgoingBytes = pictureBytes(made);
  // Between steps pictures lie in two slots by turns.
  const passing = steps.slice(0, -1).map(({ format }) => spacedBytes(pictureBytes(format)));
  const between = passing.length > 0 ? Math.max(...passing) : 0;
  const besideBytes = beside ? pictureBytes(besideFormat) : 0;
  // Frames before and after a frame are kept at hand where a step asks for them.
  const reach = Math.max(0, ...steps.map((step) => step.reach ?? 0));
  const kept = 2 * reach + 1;
  const frameAt = (frame: number): number => kernelHeap + (frame % kept) * spacedBytes(incomingBytes);
  const besideAt = kernelHeap + kept * spacedBytes(incomingBytes);
  const outgoingAt = besideAt + spacedBytes(besideBytes);
  const betweenAt = outgoingAt + outgoing * spacedBytes(outgoingBytes);
  let end = betweenAt + Math.min(passing.length, 2) * between;
  const scratches = steps.map(({ scratch }) => {
    const at = end;
    end += spacedBytes(scratch);
    return at;
  });
  const memory = makeKernelMemory(end);
  const kernels = startKernels(kernelModule(), memory);
  const aside = new Uint8Array(memory.buffer, besideAt, besideBytes);
  const slotAt = (turn: number): number => outgoingAt + turn * spacedBytes(outgoingBytes);
  const written: Promise<void>[] = Array.from({ length: outgoing }, () => Promise.resolve());
  const rendering = steps.map(({ start }, i) => start(kernels, scratches[i], signal));
  const span = { first: Math.max(0, first - reach), last: Math.min(index.pts.length - 1, last + reach) };
  let arrived = span.first - 1;
  const around = (frame: number): number | null =>
    frame >= span.first && frame > arrived - kept && frame <= arrived ? frameAt(frame) : null;
  const render = (frame: number, to: number): void => {
    let from = frameAt(frame);
    rendering.forEach(({ make }, i) => {
      const next = i === rendering.length - 1 ? to : betweenAt + (i % 2) * between;
      make(frame, from, next, besideAt, around);
      from = next;
    });
    if (rendering.length === 0) new Uint8Array(memory.buffer).copyWithin(to, from, from + incomingBytes);
  };

  const partial = `${path.replace(/\/$/, '')}.partial`;
  const isLoose = encoding.container === 'png';
  const folder = `${partial}.d`;
  if (isLoose) await mkdir(folder, { recursive: true });
  const isAlone = !options.steps.some(({ kind }) => kind === 'pair');
  const movie = startMovie({
    path: isLoose ? join(folder, '%06d.png') : partial,
    ...{ clip, index, first, last, signal, encoding, picture: made },
    words: options.words,
    pixelAspect: isAlone && options.steps.some((step) => isResized(step, source)) ? '1:1' : clip.pixelAspect,
  });
  const from = beside?.from ?? first;
  const lastBeside = beside ? Math.min(beside.first + last - from, beside.index.pts.length - 1) : 0;
  const others = beside
    ? readFrames(beside.clip, {
        ...{ first: beside.first, last: lastBeside, index: beside.index, signal, bits },
        planes: 'exported',
        as: source,
        slot: () => aside,
      })
    : null;
  try {
    const frames = readFrames(clip, {
      ...{ ...span, index, signal, bits },
      planes: 'exported',
      slot: () => new Uint8Array(memory.buffer, frameAt(arrived + 1), incomingBytes),
    });
    const produce = async (frame: number): Promise<void> => {
      if (others && frame >= from) await others.next();
      const turn = (frame - first) % outgoing;
      await written[turn];
      for (const { prepare } of rendering) await prepare?.(frame);
      render(frame, slotAt(turn));
      written[turn] = movie.write(new Uint8Array(memory.buffer, slotAt(turn), outgoingBytes));
      // Its failure is looked at when the slot comes round again, or at the end.
      written[turn].catch(() => undefined);
      options.onProgress?.(frame - first + 1);
    };
    let next = first;
    for await (const { frame } of frames) {
      arrived = frame;
      while (next <= last && next + reach <= frame) await produce(next++);
    }
    // The last frames have none after them.
    while (next <= last) await produce(next++);
    await Promise.all(written);
    await movie.finish();
    if (path.endsWith('/')) await rename(folder, path);
    else {
      if (isLoose) await zipFolder(folder, partial);
      await rename(partial, path);
    }
  } catch (error) {
    await movie.abandon();
    await rm(partial, { force: true });
    throw error;
  } finally {
    // What runs beside has not come to its own end.
    await others?.return(undefined);
    for (const { close } of rendering) await close?.();
    if (isLoose) await rm(folder, { recursive: true, force: true });
  }
}

/** Whether what a step makes has an alpha. */
const isSeenThrough = (step: StepOrder): boolean =>
  (step.kind === 'place' && step.edge === 'transparent') || (step.kind === 'dress' && step.only === 'layers');

/** An output of its own size has square pixels; beside its source it is fitted to that one's. */
const isResized = (step: StepOrder, source: YuvFormat): boolean =>
  step.kind === 'place' && (step.size.width !== source.width || step.size.height !== source.height);
