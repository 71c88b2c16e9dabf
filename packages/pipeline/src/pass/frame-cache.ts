import {
  frameBytes,
  readFrames,
  type Clip,
  type ClipIndex,
  type ReadFrame,
  type ReadOptions,
  type ReadPlanes,
} from '@lurn/media';

/** Bytes of pictures kept. */
export const budget = 100e6;
/** A miss reads so many frames on from the one asked for. */
const stretch = 24;
/** Frames kept ready on either side of where a person is at work. */
const behind = 8;
const ahead = 16;

interface Wanted {
  promise: Promise<Uint8Array>;
  resolve: (data: Uint8Array) => void;
  reject: (error: Error) => void;
}

/** Decoded frames kept at hand, so that a step by hand need not wait for a decoder to start. */
export class FrameCache {
  /** Least lately used first. */
  private readonly kept = new Map<string, Uint8Array>();
  private readonly pending = new Map<string, Wanted>();
  private bytes = 0;

  /** As `readFrames`, from memory where it can; frames are lent, not copied into slots. */
  readonly read = (clip: Clip, options: ReadOptions): AsyncGenerator<ReadFrame> => this.lend(clip, options);

  private async *lend(clip: Clip, options: ReadOptions): AsyncGenerator<ReadFrame> {
    const { first, last, index, planes } = options;
    if (!index || last === undefined) {
      yield* readFrames(clip, options);
      return;
    }
    for (let frame = first; frame <= last; frame++)
      yield { frame, data: await this.get(clip, index, frame, planes) };
  }

  get(clip: Clip, index: ClipIndex, frame: number, planes: ReadPlanes): Promise<Uint8Array> {
    const name = nameOf(clip, frame, planes);
    const data = this.kept.get(name);
    if (data) {
      this.kept.delete(name);
      this.kept.set(name, data);
      return Promise.resolve(data);
    }
    if (!this.pending.has(name)) {
      const room = Math.max(1, Math.floor(budget / frameBytes(clip, planes)) - 1);
      this.fetch(clip, index, frame, frame + Math.min(stretch, room) - 1, planes);
    }
    return (this.pending.get(name) as Wanted).promise;
  }

  /** Reads what is missing about a frame. Resolves when the frame itself is there. */
  async warm(clip: Clip, index: ClipIndex, frame: number, planes: ReadPlanes): Promise<void> {
    const missing = (k: number): boolean => {
      const name = nameOf(clip, k, planes);
      return !this.kept.has(name) && !this.pending.has(name);
    };
    // Of large pictures fewer, so that none is read only to be let go again.
    const room = Math.floor(budget / frameBytes(clip, planes)) / (behind + 1 + ahead);
    const share = Math.min(1, Math.max(0, room - 0.1));
    let first = Math.max(0, frame - Math.floor(behind * share));
    let last = Math.min(index.pts.length - 1, frame + Math.floor(ahead * share));
    while (first <= last && !missing(first)) first++;
    while (last >= first && !missing(last)) last--;
    if (first <= last) this.fetch(clip, index, first, last, planes);
    await this.get(clip, index, frame, planes);
  }

  private fetch(clip: Clip, index: ClipIndex, first: number, last: number, planes: ReadPlanes): void {
    const to = Math.min(last, index.pts.length - 1);
    const bytes = frameBytes(clip, planes);
    const wanted = new Map<number, Wanted>();
    for (let frame = first; frame <= to; frame++) {
      const name = nameOf(clip, frame, planes);
      if (this.pending.has(name) || this.kept.has(name)) continue;
      const entry = promised();
      wanted.set(frame, entry);
      this.pending.set(name, entry);
    }
    const settle = (frame: number): Wanted | undefined => {
      const entry = wanted.get(frame);
      wanted.delete(frame);
      if (entry) this.pending.delete(nameOf(clip, frame, planes));
      return entry;
    };
    const run = async (): Promise<void> => {
      const slot = (): Uint8Array => new Uint8Array(bytes);
      for await (const { frame, data } of readFrames(clip, { first, last: to, index, planes, slot })) {
        this.keep(nameOf(clip, frame, planes), data);
        settle(frame)?.resolve(data);
      }
    };
    run().catch((error: Error) => [...wanted.keys()].forEach((frame) => settle(frame)?.reject(error)));
  }

  private keep(name: string, data: Uint8Array): void {
    this.bytes += data.length - (this.kept.get(name)?.length ?? 0);
    this.kept.delete(name);
    this.kept.set(name, data);
    for (const [oldest, old] of this.kept) {
      if (this.bytes <= budget || oldest === name) break;
      this.kept.delete(oldest);
      this.bytes -= old.length;
    }
  }
}

const nameOf = (clip: Clip, frame: number, planes: ReadPlanes): string => `${clip.path} ${planes} ${frame}`;

function promised(): Wanted {
  let resolve!: Wanted['resolve'];
  let reject!: Wanted['reject'];
  const promise = new Promise<Uint8Array>((yes, no) => {
    resolve = yes;
    reject = no;
  });
  // Frames read ahead may never be asked for.
  promise.catch(() => undefined);
  return { promise, resolve, reject };
}
