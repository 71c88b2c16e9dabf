import type { AcceptedSpan, TrackView } from '@lurn/contract';
import {
  apply,
  frameFromReference,
  invert,
  SampleState,
  sure,
  type Mat3,
  type Motion,
  type SteadyResult,
} from '@lurn/core';
import type { TrackSamples } from './track-samples';

/** Whether a sample is worth a look: lost, bridged or doubtful. */
export const isTrouble = (state: number, confidence: number): boolean =>
  state === SampleState.lost ||
  state === SampleState.bridged ||
  (state === SampleState.tracked && confidence < sure);

/** Stretches of frames, both ends included, first frame first. */
type Stretch = [first: number, last: number];

const known = new WeakMap<TrackSamples, Stretch[]>();

/** The stretches in which a track is lost, bridged or doubtful; worked out once for samples that do not change. */
export function stretches(samples: TrackSamples): Stretch[] {
  const before = known.get(samples);
  if (before) return before;
  const found: Stretch[] = [];
  samples.pages.forEach((page, number) => {
    if (!page) return;
    const from = number * page.frames;
    for (let i = 0; i < page.frames; i++) {
      if (!isTrouble(page.state[i], page.confidence[i])) continue;
      const last = found.at(-1);
      if (last && last[1] === from + i - 1) last[1] = from + i;
      else found.push([from + i, from + i]);
    }
  });
  known.set(samples, found);
  return found;
}

/** First frames of the stretches in which a track is lost, bridged or doubtful. */
export const troubles = (samples: TrackSamples | undefined): number[] =>
  samples ? stretches(samples).map(([first]) => first) : [];

/**
 * `lost`, `doubtful`, `bridged`: as its samples say. `apart`: the track goes another way than the others that make the
 * motion. `jump`: its point leaps and no other says so.
 */
export type TroubleKind = 'lost' | 'doubtful' | 'bridged' | 'apart' | 'jump';

/** One thing to be looked at. */
export interface Trouble {
  trackId: string;
  kind: TroubleKind;
  first: number;
  last: number;
  /** The frame where it is worst. */
  worst: number;
  /** Larger is worse. */
  weight: number;
  /** How far apart from the others, or how far it leaps, pixels. */
  pixels?: number;
}

/** Doubtful frames in which something is wrong weigh as much as this many in which it is merely not certain. */
const weightOf = { lost: 3, doubtful: 2, bridged: 0.6 };

function ofSamples(samples: TrackSamples): Omit<Trouble, 'trackId'>[] {
  return stretches(samples).map(([first, last]) => {
    let [worst, most, sum] = [first, -1, 0];
    let kind: 'lost' | 'doubtful' | 'bridged' = 'bridged';
    for (let k = first; k <= last; k++) {
      const state = samples.state(k);
      const own =
        state === SampleState.lost ? 'lost' : state === SampleState.bridged ? 'bridged' : 'doubtful';
      const bad = weightOf[own] * (1.01 - (own === 'doubtful' ? samples.confidence(k) : 0));
      sum += bad;
      if (bad > most) [worst, most, kind] = [k, bad, own];
    }
    return { kind, first, last, worst, weight: most + Math.log2(1 + sum) };
  });
}

/** From so many pixels on, and so many times what is usual for a track, it goes another way than the others. */
const apartFrom = 2;
const timesUsual = 6;
/** Below so many tracks none is known to be the one that is wrong. */
const leastToCompare = 3;

const middle = (values: ArrayLike<number>): number => {
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1] ?? 0;
};

const inverses = new WeakMap<Motion, Mat3[]>();

/** Per frame the way back to the reference frame; worked out once for a motion. */
function backTo(motion: Motion): Mat3[] {
  const before = inverses.get(motion);
  if (before) return before;
  const all = Array.from({ length: motion.frames }, (_, k) => invert(frameFromReference(motion, k)));
  inverses.set(motion, all);
  return all;
}

/** Where a track that has a say goes another way than the motion that all make together. */
function apart(samples: TrackSamples, { motion }: SteadyResult): Omit<Trouble, 'trackId'>[] {
  const frames: number[] = [];
  for (let k = 0; k < samples.frames; k++) if (samples.found(k) && motion.support[k] > 0) frames.push(k);
  if (frames.length < 8) return [];
  const back = backTo(motion);
  const inReference = frames.map((k) => apply(back[k], samples.x(k), samples.y(k)));
  const home = { x: middle(inReference.map((p) => p.x)), y: middle(inReference.map((p) => p.y)) };
  const off = inReference.map((p) => Math.hypot(p.x - home.x, p.y - home.y));
  const limit = Math.max(apartFrom, timesUsual * middle(off));
  return runs(frames, off, limit).map(([first, last, worst, pixels]) => ({
    ...{ kind: 'apart' as const, first, last, worst, pixels },
    weight: 1.5 + Math.log2(1 + pixels / apartFrom) + Math.log2(1 + (last - first)) / 4,
  }));
}

/** A point that leaps by more pixels than this, and so many times what it usually does, has jumped. */
const leastJump = 12;

/** Single frames where a track's speed changes as it never else does. */
function jumps(samples: TrackSamples): Omit<Trouble, 'trackId'>[] {
  const frames: number[] = [];
  const bends: number[] = [];
  for (let k = 1; k + 1 < samples.frames; k++) {
    if (!samples.found(k - 1) || !samples.found(k) || !samples.found(k + 1)) continue;
    const dx = samples.x(k + 1) - 2 * samples.x(k) + samples.x(k - 1);
    const dy = samples.y(k + 1) - 2 * samples.y(k) + samples.y(k - 1);
    frames.push(k);
    bends.push(Math.hypot(dx, dy));
  }
  const limit = Math.max(leastJump, timesUsual * middle(bends));
  return runs(frames, bends, limit).map(([first, last, worst, pixels]) => ({
    ...{ kind: 'jump' as const, first, last, worst, pixels },
    weight: 1.5 + Math.log2(1 + pixels / leastJump),
  }));
}

/** Runs of frames whose value is beyond a limit, each with its worst frame and that one's value. */
function runs(frames: readonly number[], values: readonly number[], limit: number) {
  const found: [first: number, last: number, worst: number, value: number][] = [];
  frames.forEach((frame, i) => {
    if (values[i] <= limit) return;
    const last = found.at(-1);
    if (!last || frame - last[1] > 2) found.push([frame, frame, frame, values[i]]);
    else {
      last[1] = frame;
      if (values[i] > last[3]) [last[2], last[3]] = [frame, values[i]];
    }
  });
  return found;
}

/** Tells a stretch of samples from any other, so that what was said of it lapses when they change (FNV-1a, 32 bits). */
export function markOf(samples: TrackSamples, { first, last }: { first: number; last: number }): number {
  let hash = 0x811c9dc5;
  const add = (value: number): void => {
    hash = Math.imul(hash ^ (Math.round(value * 64) & 0xffff), 0x01000193);
  };
  for (let k = first; k <= last; k++) {
    add(samples.x(k));
    add(samples.y(k));
    add(samples.state(k));
  }
  return hash >>> 0;
}

/** Whether a trouble lies in a stretch that was looked at and found right, and that has not changed since. */
const isAccepted = (
  trouble: Pick<Trouble, 'first' | 'last'>,
  samples: TrackSamples,
  accepted: readonly AcceptedSpan[],
): boolean =>
  accepted.some(
    (span) => span.first <= trouble.first && trouble.last <= span.last && span.mark === markOf(samples, span),
  );

const alone = new WeakMap<TrackSamples, Omit<Trouble, 'trackId'>[]>();
const together = new WeakMap<TrackSamples, { motion: Motion; found: Omit<Trouble, 'trackId'>[] }>();

/** What is worth a look of one track; worked out once for samples, and a motion, that do not change. */
export function troublesOf(track: TrackView, samples: TrackSamples, result: SteadyResult | null): Trouble[] {
  const own = alone.get(samples) ?? [...ofSamples(samples), ...jumps(samples)];
  alone.set(samples, own);
  let others: Omit<Trouble, 'trackId'>[] = [];
  if (result && track.used) {
    const kept = together.get(samples);
    others = kept?.motion === result.motion ? kept.found : apart(samples, result);
    together.set(samples, { motion: result.motion, found: others });
  }
  // What its samples say already need not be said again.
  const fresh = others.filter((one) => !own.some((a) => a.first <= one.worst && one.worst <= a.last));
  return [...own, ...fresh]
    .map((trouble) => ({ ...trouble, trackId: track.id }))
    .filter((trouble) => !isAccepted(trouble, samples, track.accepted));
}

/** The result to compare tracks by; null where there are too few to know which is wrong. */
export const comparable = (tracks: readonly TrackView[], result: SteadyResult | null): SteadyResult | null =>
  tracks.filter(({ used }) => used).length >= leastToCompare ? result : null;

/** All that is worth a look, the worst first. What was waved through is left out. */
export function troubleList(
  tracks: readonly TrackView[],
  samples: ReadonlyMap<string, TrackSamples>,
  result: SteadyResult | null,
): Trouble[] {
  const common = comparable(tracks, result);
  return tracks
    .flatMap((track) => {
      const own = samples.get(track.id);
      return own ? troublesOf(track, own, common) : [];
    })
    .sort((a, b) => b.weight - a.weight);
}

/** A frame of one of several tracks. */
export interface Stop {
  id: string;
  frame: number;
}

/**
 * Of some frames of several tracks the one that comes next, or came last before, round and round: by frame, and on a frame
 * in the order of the tracks. Null where there is none.
 */
export function nextStop(
  tracks: readonly { id: string; frames: readonly number[] }[],
  from: Stop,
  step: 1 | -1,
): Stop | null {
  const order = new Map(tracks.map(({ id }, i) => [id, i]));
  const inOrder = (a: Stop, b: Stop): number =>
    a.frame - b.frame || (order.get(a.id) ?? 0) - (order.get(b.id) ?? 0);
  const all = tracks.flatMap(({ id, frames }) => frames.map((frame) => ({ id, frame }))).sort(inOrder);
  if (step > 0) return all.find((one) => inOrder(one, from) > 0) ?? all[0] ?? null;
  return all.findLast((one) => inOrder(one, from) < 0) ?? all.at(-1) ?? null;
}
