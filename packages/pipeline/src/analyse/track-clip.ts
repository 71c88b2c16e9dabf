import { MediaError } from '@lurn/media';
import {
  fusePasses,
  noSample,
  Samples,
  SampleState,
  type FollowOptions,
  type Offset,
  type Sample,
  type SceneTable,
} from '@lurn/core';
import type { ClipIndex } from '@lurn/media';
import type { Analysis } from '../pass/analyser.js';
import { pictureFormat, planesFor, type Planes } from '../pass/pass-picture.js';
import { Passes, type Direction, type FrameRange, type PassesOptions } from '../pass/pass.js';
import { packSamples } from './packed-samples.js';
import {
  pointModule,
  unpackFindings,
  type Finding,
  type PointOrder,
  type Segment,
  type SegmentOrder,
} from './point.js';
import { SceneAnalysis } from './scene.js';

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

export interface TrackClipOptions extends Pick<PassesOptions, 'clip' | 'read' | 'signal'> {
  /** Needed unless every run starts from a key. */
  index?: ClipIndex;
  runs: readonly TrackRun[];
  direction: 'forwards' | 'backwards' | 'both';
  /** The frames that may be tracked, both included; `last` may be left out to go on to the clip's end. */
  first: number;
  last?: number;
  /** How the whole picture moved, as far as it is known; what is worked out on the way is added. */
  scene?: SceneTable;
  /** Hears of samples, in batches, as they are found. */
  onSamples?: (found: FoundSample[]) => void;
  /** Told the number of frames looked at so far, and how many there will be. */
  onProgress?: (frames: number, total: number) => void;
}

/** Fewer tracks than this are not worth a thread. */
const worthAThread = 8;

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

/** What the passes have found of one run, apart from each other until they are joined. */
interface BothWays {
  paths: Record<Direction, Samples>;
  arrivals: Record<Direction, Map<number, Sample>>;
}

class TrackingWork {
  private readonly passes: Passes;
  private readonly batch: Batch;
  private readonly ways: BothWays[];
  private readonly planes: Planes;
  private readonly scene: SceneAnalysis;
  private direction: Direction = 1;
  /** On the way back between keys: what is found counts once it is joined. */
  private returning = false;
  private looked = 0;
  private total = 0;

  constructor(private readonly options: TrackClipOptions) {
    const { clip, index, runs, read, signal, onSamples, scene } = options;
    this.planes = runs.some((run) => planesFor(run.options.analysis) === 'all') ? 'all' : 'luma';
    const onLooked = (): void => options.onProgress?.(++this.looked, this.total);
    const threads = runs.length < worthAThread ? 1 : Math.max(2, Math.ceil(runs.length / worthAThread));
    this.passes = new Passes({ clip, index, planes: this.planes, threads, read, signal, onLooked });
    this.batch = new Batch(onSamples);
    this.scene = new SceneAnalysis(scene);
    this.ways = runs.map(({ samples: { frames } }) => ({
      paths: { [1]: new Samples(frames), [-1]: new Samples(frames) },
      arrivals: { [1]: new Map<number, Sample>(), [-1]: new Map<number, Sample>() },
    }));
  }

  async run(): Promise<ClipIndex | undefined> {
    const { direction, runs, first } = this.options;
    for (const { samples, from } of runs) {
      if (!samples.found(from)) throw new MediaError(`There is nothing to track from at frame ${from}.`);
      if (samples.keys().length === 0)
        throw new MediaError('A track without a hand-placed key has no template to look for.');
    }
    const { passes } = this;
    const last = this.options.last ?? Math.max(...runs.map((run) => run.samples.frames)) - 1;
    const to = (end: number): Segment[] => runs.map(({ from }, run) => ({ run, start: from, end }));
    const ahead = direction === 'backwards' ? [] : to(last);
    const behind = direction === 'forwards' ? [] : to(first);
    const [back, on] = [this.returns(ahead, 1), this.returns(behind, -1)];
    this.total = [...covered(ahead), ...covered(behind), ...covered(back), ...covered(on)].reduce(
      (sum, range) => sum + 1 + range.last - range.first,
      0,
    );
    if (ahead.length > 0 || !passes.index) await this.pass(1, ahead);
    if (behind.length > 0 && passes.index) await this.pass(-1, behind);
    this.returning = true;
    if (back.length > 0 && passes.index) await this.pass(-1, back);
    if (on.length > 0 && passes.index) await this.pass(1, on);
    if (passes.index) [...back, ...on].forEach((segment) => this.join(segment));
    return passes.index;
  }

  end(): void {
    this.batch.flush();
    this.passes.end();
  }

  /** The ways back: from the last key that each segment comes to, to where it started. */
  private returns(segments: readonly Segment[], direction: Direction): Segment[] {
    return segments.flatMap(({ run, start, end }) => {
      const keys = this.options.runs[run].samples.keys();
      const ahead = keys.filter((k) => (k - start) * direction > 1 && (end - k) * direction >= 0);
      if (ahead.length === 0) return [];
      return [{ run, start: direction > 0 ? Math.max(...ahead) : Math.min(...ahead), end: start }];
    });
  }

  /** Joins the two ways through every span between keys that a way back has walked. */
  private join({ run, start, end }: Segment): void {
    const { paths, arrivals } = this.ways[run];
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

  /** Walks segments, reading only what they cover. */
  private async pass(direction: Direction, segments: readonly Segment[]): Promise<void> {
    this.direction = direction;
    const orders = await this.orders(segments);
    const analysis: Analysis = {
      module: pointModule,
      share: (threads) =>
        Array.from({ length: threads }, (_, thread): PointOrder => ({
          segments: orders.filter(({ segment }) => segment.run % threads === thread),
        })),
      take: (found) => unpackFindings(found as Float64Array).forEach((one) => this.take(one)),
    };
    await this.passes.run(direction, covered(segments), [analysis], this.scene, this.options.last);
  }

  /** Segments that do not start on a key need the look of the nearest one. */
  private async orders(segments: readonly Segment[]): Promise<SegmentOrder[]> {
    const orders: SegmentOrder[] = [];
    const format = pictureFormat(this.options.clip, this.planes);
    for (const segment of segments) {
      const { samples, options, offsets = [] } = this.options.runs[segment.run];
      const { start } = segment;
      const isKey = samples.state[start] === SampleState.placed;
      const [key] = samples.keys().sort((a, b) => Math.abs(a - start) - Math.abs(b - start));
      const lent = isKey ? null : { key, data: await this.passes.picture(key), format };
      orders.push({ segment, path: packSamples(samples), options, offsets, lent });
    }
    return orders;
  }

  private take(finding: Finding): void {
    const { run, frame } = finding;
    const { paths, arrivals } = this.ways[run];
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

/** The stretches of frames that segments cover, in order. */
function covered(segments: readonly Segment[]): FrameRange[] {
  const ranges = segments
    .map(({ start, end }) => ({ first: Math.min(start, end), last: Math.max(start, end) }))
    .sort((a, b) => a.first - b.first);
  const merged: FrameRange[] = [];
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
