import {
  MediaError,
  CancelledError,
  frameBytes,
  IndexBuilder,
  readFrames,
  type Clip,
  type ClipIndex,
  type ReadFrame,
  type ReadOptions,
} from '@lurn/media';
import type { Analysis, SharedAnalysis } from './analyser.js';
import { pictureFormat, type Planes } from './pass-picture.js';
import { PassThreads } from './threads.js';

export type Direction = 1 | -1;

/** A stretch of frames, both ends included. */
export interface FrameRange {
  first: number;
  last: number;
}

export interface PassesOptions {
  clip: Clip;
  /** Needed to begin elsewhere than at the start, and to go backwards. */
  index?: ClipIndex;
  /** The planes that the analysers look at. */
  planes: Planes;
  /** How many threads are worth it. */
  threads: number;
  /** Where frames come from; from the file when left out. */
  read?: (clip: Clip, options: ReadOptions) => AsyncGenerator<ReadFrame>;
  /** Told of every picture that has been looked at. */
  onLooked?: () => void;
  signal?: AbortSignal;
}

/** Bytes of pictures held at once while going backwards. */
const heldBytes = 96e6;
/** Pictures on their way to the analysers. */
const ring = 6;

/**
 * Passes over one clip: frames are decoded once a pass, in order or against it, and given to any number of analysers,
 * here or spread over threads. It knows nothing of what they do.
 */
export class Passes {
  private readonly threads: PassThreads;
  /** Room for pictures on their way, from one pass to the next. */
  private readonly slots: Uint8Array[] = [];
  /** Built on the way by a pass through the whole clip when there was none. */
  index: ClipIndex | undefined;

  constructor(private readonly options: PassesOptions) {
    this.index = options.index;
    this.threads = new PassThreads(options.threads);
  }

  /** Lets the threads go. */
  end(): void {
    this.threads.dismiss();
  }

  /** A copy of one picture, where other threads can look at it if there are any. */
  async picture(frame: number): Promise<Uint8Array> {
    for await (const { data } of this.frames(frame, frame, () => this.heldBuffer())) return data;
    throw new MediaError(`The clip has no frame ${frame}.`);
  }

  /**
   * Has analysers look at the frames of some ranges, which rise and do not overlap. Without an index the whole clip is
   * read, for the index; `last` then ends it early.
   */
  async run(
    direction: Direction,
    ranges: readonly FrameRange[],
    analyses: readonly Analysis[],
    shared: SharedAnalysis | null = null,
    last?: number,
  ): Promise<void> {
    const { clip, planes } = this.options;
    await this.threads.begin(direction, pictureFormat(clip, planes), analyses, shared);
    if (!this.index) await this.readOn(0, last);
    else if (direction > 0) for (const range of ranges) await this.readOn(range.first, range.last);
    else for (const range of [...ranges].reverse()) await this.readBack(range.first, range.last);
  }

  private get bytes(): number {
    return frameBytes(this.options.clip, this.options.planes);
  }

  /** Room for a picture of many that are held, where others can look at it if there are any. */
  private heldBuffer(): Uint8Array {
    return new Uint8Array(
      this.threads.apart ? new SharedArrayBuffer(this.bytes) : new ArrayBuffer(this.bytes),
    );
  }

  private frames(
    first: number,
    last: number | undefined,
    slot: () => Uint8Array | Promise<Uint8Array>,
    builder?: IndexBuilder,
  ) {
    const { clip, planes, signal, read = readFrames } = this.options;
    return read(clip, { first, last, index: this.index, builder, signal, planes, slot });
  }

  private async readOn(first: number, last: number | undefined): Promise<void> {
    const builder = this.index ? undefined : new IndexBuilder();
    const looking = new Map<number, Promise<void>>();
    let next = first;
    const slot = async (): Promise<Uint8Array> => {
      // A picture is looked at once more beside the next one.
      await looking.get(next - ring + 1);
      return (this.slots[next++ % ring] ??= this.threads.buffer(this.bytes));
    };
    for await (const { frame, data } of this.frames(first, last, slot, builder)) {
      const look = this.look(data, frame);
      looking.set(frame, look);
      look.catch(() => undefined);
      if (!this.threads.apart) await look;
      looking.delete(frame - ring);
      // Without an index the pass goes on to the end, for the index.
      if (this.index && !this.threads.busy) break;
    }
    await Promise.all(looking.values());
    this.requireWanted();
    if (builder && last === undefined) this.index = builder.build();
  }

  /** Decoders only run forwards, so the clip is taken in stretches, each read forwards and looked at backwards. */
  private async readBack(first: number, last: number): Promise<void> {
    const length = Math.min(Math.max(Math.floor(heldBytes / this.bytes), 4), 64);
    // Two sets by turns: the last picture of a stretch is looked at once more beside the next one.
    const held: Uint8Array[][] = [[], []];
    for (let to = last, turn = 0; to >= first; to -= length, turn = 1 - turn) {
      const from = Math.max(first, to - length + 1);
      let next = 0;
      const slot = (): Uint8Array => (held[turn][next++] ??= this.heldBuffer());
      const pictures: Uint8Array[] = [];
      for await (const { data } of this.frames(from, to, slot)) pictures.push(data);
      const looking: Promise<void>[] = [];
      for (let frame = to; frame >= from; frame--) {
        const look = this.look(pictures[frame - from], frame);
        look.catch(() => undefined);
        if (this.threads.apart) looking.push(look);
        else await look;
        // Lets a cancel be heard between frames.
        if (frame % 8 === 0) await new Promise(setImmediate);
        this.requireWanted();
      }
      await Promise.all(looking);
      if (!this.threads.busy) return;
    }
  }

  private async look(data: Uint8Array, frame: number): Promise<void> {
    await this.threads.look(data, frame);
    this.options.onLooked?.();
  }

  private requireWanted(): void {
    if (this.options.signal?.aborted) throw new CancelledError();
  }
}
