import {
  PointTracker,
  type Plane,
  type PointTrackerOptions,
  type Sample,
  type Samples,
  SampleState,
  TrackKernels,
} from '@lurn/core';
import { CancelledError, frameBytes, IndexBuilder, readFrames, type Clip, type ClipIndex } from '@lurn/media';
import { kernelModule } from './kernels.js';

/** One track to follow: it starts at `from`, where it must have a usable sample. */
export interface TrackRun {
  samples: Samples;
  options: PointTrackerOptions;
  from: number;
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
  /** Hears of samples, in batches, as they are found. */
  onSamples?: (found: FoundSample[]) => void;
  /** Told the number of frames looked at so far. */
  onProgress?: (frames: number) => void;
  signal?: AbortSignal;
}

/** Luma held at once while going backwards, in bytes. */
const heldBytes = 192e6;

/**
 * Follows points through a clip, all of them in one decoding pass a direction, and writes what it finds
 * into the runs' samples. Samples placed by hand are never overwritten: passing one, the tracker takes its
 * template anew there. A run ends where its point is lost. Returns the clip's index, built on the way when
 * there was none.
 */
export async function trackClip(options: TrackClipOptions): Promise<ClipIndex | undefined> {
  const { runs, direction } = options;
  const kernels = new TrackKernels(kernelModule());
  const followers = runs.map((run, i) => new Follower(kernels, run, i));
  let index = options.index;
  for (const follower of followers) await follower.prepare(options.clip, index);
  const batch = new Batch(options.onSamples);
  let looked = 0;
  const passed = (): void => options.onProgress?.(++looked);
  try {
    if (direction !== 'backwards' || !index) {
      index = await forwards(options, direction === 'backwards' ? [] : followers, batch, passed);
    }
    if (direction !== 'forwards' && index) {
      followers.forEach((follower) => follower.restart());
      await backwards(options, index, followers, batch, passed);
    }
  } finally {
    batch.flush();
  }
  return index;
}

async function forwards(
  options: TrackClipOptions,
  followers: readonly Follower[],
  batch: Batch,
  passed: () => void,
): Promise<ClipIndex | undefined> {
  const { clip, index, signal } = options;
  const builder = index ? undefined : new IndexBuilder();
  const slot = new Uint8Array(frameBytes(clip, 'luma'));
  const first = index ? Math.min(...followers.map((f) => f.run.from)) : 0;
  const frames = readFrames(clip, {
    ...{ first, last: options.last, index, builder, signal },
    planes: 'luma',
    slot: () => slot,
  });
  for await (const { frame, data } of frames) {
    const picture: Plane = { data, width: clip.width, height: clip.height, stride: clip.width };
    for (const follower of followers)
      if (frame >= follower.run.from) batch.add(follower.look(picture, frame));
    passed();
    // Without an index the pass goes on to the end, for the index.
    if (index && followers.every((f) => f.ended)) break;
  }
  if (signal?.aborted) throw new CancelledError();
  return index ?? (options.last === undefined ? builder?.build() : undefined);
}

/** Decoders only run forwards, so the clip is taken in stretches, each read forwards and looked at backwards. */
async function backwards(
  options: TrackClipOptions,
  index: ClipIndex,
  followers: readonly Follower[],
  batch: Batch,
  passed: () => void,
): Promise<void> {
  const { clip, signal } = options;
  const bytes = frameBytes(clip, 'luma');
  const length = Math.min(Math.max(Math.floor(heldBytes / bytes), 4), 64);
  const held: Uint8Array[] = [];
  let last = Math.max(...followers.map((f) => f.run.from));
  while (last >= options.first && !followers.every((f) => f.ended)) {
    const first = Math.max(options.first, last - length + 1);
    let next = 0;
    const slot = (): Uint8Array => (held[next++] ??= new Uint8Array(bytes));
    const pictures: Uint8Array[] = [];
    for await (const { data } of readFrames(clip, { first, last, index, signal, planes: 'luma', slot })) {
      pictures.push(data);
    }
    for (let frame = last; frame >= first; frame--) {
      const picture: Plane = {
        data: pictures[frame - first],
        width: clip.width,
        height: clip.height,
        stride: clip.width,
      };
      for (const follower of followers)
        if (frame <= follower.run.from) batch.add(follower.look(picture, frame));
      passed();
      // Lets a cancel be heard between frames.
      if (frame % 8 === 0) await new Promise(setImmediate);
      if (signal?.aborted) throw new CancelledError();
    }
    last = first - 1;
  }
}

/** One run on its way through the clip. */
class Follower {
  private readonly tracker: PointTracker;
  private template: { picture: Plane; key: Sample } | null = null;
  private started = false;
  ended = false;

  constructor(
    kernels: TrackKernels,
    readonly run: TrackRun,
    private readonly number: number,
  ) {
    this.tracker = new PointTracker(kernels, run.options);
  }

  /** A run that starts between keys needs the template of the nearest one. */
  async prepare(clip: Clip, index: ClipIndex | undefined): Promise<void> {
    const { samples, from } = this.run;
    if (!samples.found(from)) throw new RangeError(`There is nothing to track from at frame ${from}.`);
    if (samples.state[from] === SampleState.placed) return;
    const keys = samples.keys().sort((a, b) => Math.abs(a - from) - Math.abs(b - from));
    if (keys.length === 0)
      throw new RangeError('A track without a hand-placed key has no template to look for.');
    const data = new Uint8Array(frameBytes(clip, 'luma'));
    const slot = (): Uint8Array => data;
    for await (const _ of readFrames(clip, { first: keys[0], last: keys[0], index, planes: 'luma', slot }))
      break;
    const picture: Plane = { data, width: clip.width, height: clip.height, stride: clip.width };
    this.template = { picture, key: samples.get(keys[0]) as Sample };
  }

  restart(): void {
    this.started = false;
    this.ended = false;
  }

  look(picture: Plane, frame: number): FoundSample | null {
    if (this.ended) return null;
    const { samples, from } = this.run;
    const here = samples.get(frame);
    if (here?.state === SampleState.placed) {
      this.tracker.setKey(picture, here);
      this.started = true;
      return null;
    }
    if (!this.started) {
      if (!this.template || !here) throw new Error(`The run was to start at frame ${from}.`);
      this.tracker.setKey(this.template.picture, this.template.key);
      this.tracker.resumeFrom(here);
      this.started = true;
      return null;
    }
    const sample = this.tracker.step(picture);
    samples.set(frame, sample);
    if (sample.state === SampleState.lost) this.ended = true;
    return { ...sample, run: this.number, frame };
  }
}

/** Sends samples on a few times a second rather than one by one. */
class Batch {
  private found: FoundSample[] = [];
  private sent = performance.now();

  constructor(private readonly send: ((found: FoundSample[]) => void) | undefined) {}

  add(sample: FoundSample | null): void {
    if (sample) this.found.push(sample);
    if (performance.now() - this.sent > 60) this.flush();
  }

  flush(): void {
    if (this.found.length > 0) this.send?.(this.found);
    this.found = [];
    this.sent = performance.now();
  }
}
