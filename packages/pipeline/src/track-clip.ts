import {
  fusePasses,
  noSample,
  Samples,
  SampleState,
  type FollowOptions,
  type Offset,
  type Sample,
} from '@lurn/core';
import {
  CancelledError,
  frameBytes,
  IndexBuilder,
  readFrames,
  type Clip,
  type ClipIndex,
  type ReadFrame,
  type ReadOptions,
} from '@lurn/media';
import { Crew, type Lent } from './crew.js';
import type { Finding, Leg } from './legs.js';
import { pictureFormat, planesFor, type Planes } from './track-picture.js';

/** One track to follow: it starts at `from`, where it must have a usable sample. */
export interface TrackRun {
  samples: Samples;
  options: FollowOptions;
  from: number;
  offsets?: readonly Offset[];
}

/** A sample that tracking has found; `run` counts in the order the runs were given. */
export interface FoundSample extends Sample {
  run: number;
  frame: number;
}

export interface TrackClipOptions {
  clip: Clip;
  /** Needed unless every run starts from a key. */
  index?: ClipIndex;
  runs: readonly TrackRun[];
  direction: 'forwards' | 'backwards' | 'both';
  /** The frames that may be tracked, both included; `last` may be left out to go on to the clip's end. */
  first: number;
  last?: number;
  /** Where frames come from; from the file when left out. */
  read?: (clip: Clip, options: ReadOptions) => AsyncGenerator<ReadFrame>;
  /** Hears of samples, in batches, as they are found. */
  onSamples?: (found: FoundSample[]) => void;
  /** Told the number of frames looked at so far, and how many there will be. */
  onProgress?: (frames: number, total: number) => void;
  signal?: AbortSignal;
}

/** Bytes of pictures held at once while going backwards. */
const heldBytes = 96e6;
/** Pictures on their way to the trackers. */
const ring = 6;

/**
 * Follows points through a clip, all of them in one decoding pass a direction, and writes what it finds
 * into the runs' samples. Samples placed by hand are never overwritten: passing one, the tracker takes its
 * template anew there. Between two keys both directions are followed and joined. Returns the clip's index,
 * built on the way when there was none.
 */
export async function trackClip(options: TrackClipOptions): Promise<ClipIndex | undefined> {
  const work = new TrackingWork(options);
  try {
    return await work.run();
  } finally {
    work.end();
  }
}

type Direction = 1 | -1;

/** What the passes have found of one run, apart from each other until they are joined. */
interface Passes {
  paths: Record<Direction, Samples>;
  arrivals: Record<Direction, Map<number, Sample>>;
}

class TrackingWork {
  private readonly crew: Crew;
  private readonly batch: Batch;
  private readonly passes: Passes[];
  private readonly planes: Planes;
  private index: ClipIndex | undefined;
  private direction: Direction = 1;
  /** On the way back between keys: what is found counts once it is joined. */
  private returning = false;
  private looked = 0;
  private total = 0;
  /** Room for pictures on their way, from one pass to the next. */
  private readonly slots: Uint8Array[] = [];

  constructor(private readonly options: TrackClipOptions) {
    const { runs, onSamples } = options;
    this.index = options.index;
    this.crew = new Crew(runs.length);
    this.batch = new Batch(onSamples);
    this.planes = runs.some((run) => planesFor(run.options.analysis) === 'all') ? 'all' : 'luma';
    this.passes = runs.map(({ samples: { frames } }) => ({
      paths: { [1]: new Samples(frames), [-1]: new Samples(frames) },
      arrivals: { [1]: new Map<number, Sample>(), [-1]: new Map<number, Sample>() },
    }));
  }

  async run(): Promise<ClipIndex | undefined> {
    const { direction, runs, first } = this.options;
    for (const { samples, from } of runs) {
      if (!samples.found(from)) throw new RangeError(`There is nothing to track from at frame ${from}.`);
      if (samples.keys().length === 0)
        throw new RangeError('A track without a hand-placed key has no template to look for.');
    }
    const last = this.options.last ?? Math.max(...runs.map((run) => run.samples.frames)) - 1;
    const to = (end: number): Leg[] => runs.map(({ from }, run) => ({ run, start: from, end }));
    const ahead = direction === 'backwards' ? [] : to(last);
    const behind = direction === 'forwards' ? [] : to(first);
    const [back, on] = [this.returns(ahead, 1), this.returns(behind, -1)];
    this.total = [...covered(ahead), ...covered(behind), ...covered(back), ...covered(on)].reduce(
      (sum, range) => sum + 1 + range.last - range.first,
      0,
    );
    if (ahead.length > 0 || !this.index) await this.pass(1, ahead);
    if (behind.length > 0 && this.index) await this.pass(-1, behind);
    this.returning = true;
    if (back.length > 0 && this.index) await this.pass(-1, back);
    if (on.length > 0 && this.index) await this.pass(1, on);
    if (this.index) [...back, ...on].forEach((leg) => this.join(leg));
    return this.index;
  }

  end(): void {
    this.batch.flush();
    this.crew.dismiss();
  }

  /** The ways back: from the last key that each leg comes to, to where it started. */
  private returns(legs: readonly Leg[], direction: Direction): Leg[] {
    return legs.flatMap(({ run, start, end }) => {
      const keys = this.options.runs[run].samples.keys();
      const ahead = keys.filter((k) => (k - start) * direction > 1 && (end - k) * direction >= 0);
      if (ahead.length === 0) return [];
      return [{ run, start: direction > 0 ? Math.max(...ahead) : Math.min(...ahead), end: start }];
    });
  }

  /** Joins the two ways through every span between keys that a way back has walked. */
  private join({ run, start, end }: Leg): void {
    const { paths, arrivals } = this.passes[run];
    const { samples } = this.options.runs[run];
    const [low, high] = [Math.min(start, end), Math.max(start, end)];
    const marks = [...new Set([low, ...samples.keys().filter((k) => k > low && k < high), high])];
    marks.slice(1).forEach((b, i) => {
      const a = marks[i];
      const forwards = { path: paths[1], arrival: arrivals[1].get(b) };
      fusePasses(samples, a, b, forwards, { path: paths[-1], arrival: arrivals[-1].get(a) });
      for (let frame = a + 1; frame < b; frame++)
        this.batch.add({ ...(samples.get(frame) ?? noSample), run, frame });
    });
  }

  /** Walks legs, reading only what they cover; without an index the whole clip, for the index. */
  private async pass(direction: Direction, legs: readonly Leg[]): Promise<void> {
    const { runs, clip } = this.options;
    this.direction = direction;
    const lent = await this.lend(legs);
    const subjects = legs.map((leg) => {
      const { samples, options, offsets = [] } = runs[leg.run];
      return { leg, subject: { path: samples.copy(), options, offsets } };
    });
    await this.crew.begin(direction, pictureFormat(clip, this.planes), subjects, lent);
    const ranges = covered(legs);
    if (!this.index) await this.readOn(0, this.options.last);
    else if (direction > 0) for (const { first, last } of ranges) await this.readOn(first, last);
    else for (const { first, last } of ranges.reverse()) await this.readBack(first, last);
  }

  /** Legs that do not start on a key need the look of the nearest one. */
  private async lend(legs: readonly Leg[]): Promise<Lent[]> {
    const lent: Lent[] = [];
    for (const { run, start } of legs) {
      const { samples } = this.options.runs[run];
      if (samples.state[start] === SampleState.placed) continue;
      const [key] = samples.keys().sort((a, b) => Math.abs(a - start) - Math.abs(b - start));
      for await (const { data } of this.frames(key, key, () => this.roomToHold())) {
        lent.push({ run, key, data });
        break;
      }
    }
    return lent;
  }

  private get bytes(): number {
    return frameBytes(this.options.clip, this.planes);
  }

  /** Room for a picture of many that are held, where others can look at it if there are any. */
  private roomToHold(): Uint8Array {
    return new Uint8Array(this.crew.apart ? new SharedArrayBuffer(this.bytes) : new ArrayBuffer(this.bytes));
  }

  private frames(
    first: number,
    last: number | undefined,
    slot: () => Uint8Array | Promise<Uint8Array>,
    builder?: IndexBuilder,
  ) {
    const { clip, signal, read = readFrames } = this.options;
    return read(clip, { first, last, index: this.index, builder, signal, planes: this.planes, slot });
  }

  private async readOn(first: number, last: number | undefined): Promise<void> {
    const builder = this.index ? undefined : new IndexBuilder();
    const looking: Promise<void>[] = [];
    let next = first;
    const slot = async (): Promise<Uint8Array> => {
      // A picture is looked at once more beside the next one.
      await looking[next - ring + 1];
      return (this.slots[next++ % ring] ??= this.crew.buffer(this.bytes));
    };
    for await (const { frame, data } of this.frames(first, last, slot, builder)) {
      looking[frame] = this.look(data, frame);
      looking[frame].catch(() => undefined);
      if (!this.crew.apart) await looking[frame];
      delete looking[frame - ring];
      // Without an index the pass goes on to the end, for the index.
      if (this.index && !this.crew.busy) break;
    }
    await Promise.all(Object.values(looking));
    if (this.options.signal?.aborted) throw new CancelledError();
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
      const slot = (): Uint8Array => (held[turn][next++] ??= this.roomToHold());
      const pictures: Uint8Array[] = [];
      for await (const { data } of this.frames(from, to, slot)) pictures.push(data);
      const looking: Promise<void>[] = [];
      for (let frame = to; frame >= from; frame--) {
        const look = this.look(pictures[frame - from], frame);
        if (this.crew.apart) looking.push(look);
        else await look;
        // Lets a cancel be heard between frames.
        if (frame % 8 === 0) await new Promise(setImmediate);
        if (this.options.signal?.aborted) throw new CancelledError();
      }
      await Promise.all(looking);
      if (!this.crew.busy) return;
    }
  }

  private async look(data: Uint8Array, frame: number): Promise<void> {
    for (const finding of await this.crew.look(data, frame)) this.take(finding);
    this.options.onProgress?.(++this.looked, this.total);
  }

  private take(finding: Finding): void {
    const { run, frame } = finding;
    const { paths, arrivals } = this.passes[run];
    if (finding.arrival) {
      arrivals[this.direction].set(frame, finding);
      return;
    }
    paths[this.direction].set(frame, finding);
    if (this.returning) return;
    this.options.runs[run].samples.set(frame, finding);
    this.batch.add(finding);
  }
}

/** The stretches of frames that legs cover, in order. */
function covered(legs: readonly Leg[]): { first: number; last: number }[] {
  const ranges = legs
    .map(({ start, end }) => ({ first: Math.min(start, end), last: Math.max(start, end) }))
    .sort((a, b) => a.first - b.first);
  const merged: { first: number; last: number }[] = [];
  for (const range of ranges) {
    const before = merged[merged.length - 1];
    if (before && range.first <= before.last + 1) before.last = Math.max(before.last, range.last);
    else merged.push({ ...range });
  }
  return merged;
}

/** Sends samples on a few times a second rather than one by one. */
class Batch {
  private found: FoundSample[] = [];
  private sent = performance.now();

  constructor(private readonly send: ((found: FoundSample[]) => void) | undefined) {}

  add(sample: FoundSample): void {
    this.found.push(sample);
    if (performance.now() - this.sent > 60) this.flush();
  }

  flush(): void {
    if (this.found.length > 0) this.send?.(this.found);
    this.found = [];
    this.sent = performance.now();
  }
}
