import { blend, noChange } from './place-curve.js';
import { sure } from '../certainty/confidence.js';
import { Reason } from '../sample-reason.js';
import {
  isFound,
  noSample,
  SampleState,
  type Sample,
  type Samples,
  placeIn,
  type Place,
} from '../samples.js';

/** One direction's way through a span between two keys. */
export interface Pass {
  path: Samples;
  /** What it found on the frame of the key at its far end, if it got there. */
  arrival: Sample | undefined;
}

/** Passes this close, in pixels, tell the same; farther apart one of them has slipped. */
const agreeing = 1.5;
/** From one pass to the other the path goes over so many frames, where they tell the same. */
const handOver = 4;
/** Two passes so far apart, in pixels, are worth a half. */
const halfDisagreement = 0.7;
/** Going from one pass to the other across so many pixels is worth as much as one frame's whole confidence. */
const worthAFrame = 6;
/** What going over costs at least, and what being far from the own key does, so that it is not done for nothing. */
const leastCost = 0.2;
const farness = 1e-3;

/**
 * Joins the pass forwards from the key at `first` with the pass backwards from the key at `last`: the path
 * leaves the one key and reaches the other, and follows the texture between. Each pass is first led to the
 * key it came to; where they agree each counts by its nearness. Where one has slipped the path goes with the surer one,
 * and goes over where they are close. Writes the frames between the keys into `out`.
 */
export function fusePasses(out: Samples, first: number, last: number, forwards: Pass, backwards: Pass): void {
  const length = last - first;
  const ahead = led(forwards, first, last, out.place(last));
  const back = led(backwards, last, first, out.place(first));
  const frames = Array.from({ length: length - 1 }, (_, i) => first + 1 + i);
  const both = frames.map((frame): Both => [ahead(frame), back(frame)]);
  const gaps = both.map(([a, b]) => (a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0));
  const agreed = Math.max(0, ...gaps) <= agreeing;
  const surer = agreed ? [] : surest(both, gaps);
  frames.forEach((frame, i) => {
    const [a, b] = both[i];
    if (!a || !b) {
      out.set(frame, a ?? b ?? forwards.path.get(frame) ?? backwards.path.get(frame) ?? noSample);
      return;
    }
    const t = agreed ? (frame - first) / length : gaps[i] <= agreeing ? meanAbout(surer, i) : surer[i];
    // Where one has slipped, it is the other's word that counts.
    const doubt = t > 0 && t < 1 ? 1 / (1 + (gaps[i] / halfDisagreement) ** 2) : 1;
    const tracked = a.state === SampleState.tracked || b.state === SampleState.tracked;
    const seen = (1 - t) * a.confidence + t * b.confidence;
    const confidence = seen * doubt;
    const { reason } = (1 - t) * (1 - a.confidence) > t * (1 - b.confidence) ? a : b;
    out.set(frame, {
      ...blend((c) => (1 - t) * a[c] + t * b[c]),
      confidence,
      state: tracked ? SampleState.tracked : SampleState.bridged,
      reason: confidence >= sure ? Reason.none : doubt < seen ? Reason.passes : reason,
    });
  });
}

type Placed = Sample & Place;
type Both = readonly [Placed | null, Placed | null];

/**
 * Which pass to go with on each frame, 0 forwards, 1 backwards: of all ways from the one to the other the one with most
 * confidence, less what going over costs where they are apart (Viterbi 1967).
 */
function surest(both: readonly Both[], gaps: readonly number[]): number[] {
  const cost = [0, Infinity];
  const from: (readonly number[])[] = [];
  const overAt = (i: number): number => leastCost + gaps[i] / worthAFrame;
  both.forEach((samples, i) => {
    const over = overAt(i);
    const [fromAhead, fromBack] = cost;
    const came = [fromBack + over < fromAhead ? 1 : 0, fromAhead + over < fromBack ? 0 : 1];
    from.push(came);
    const t = (i + 1) / (both.length + 1);
    const alone = samples.some((sample) => sample === null) && samples.some((sample) => sample !== null);
    [0, 1].forEach((way) => {
      const sample = samples[way];
      const doubt = sample ? 1 - sample.confidence : alone ? both.length : 0;
      cost[way] =
        Math.min(way ? fromBack : fromAhead, (way ? fromAhead : fromBack) + over) +
        doubt +
        farness * Math.abs(t - way);
    });
  });
  const ways: number[] = [];
  const end = both.length - 1;
  for (let i = end, way = cost[0] + overAt(end) < cost[1] ? 0 : 1; i >= 0; way = from[i--][way])
    ways[i] = way;
  return ways;
}

/** The mean over the frames of a going over about the one at `at`. */
function meanAbout(ways: readonly number[], at: number): number {
  const near = ways.slice(Math.max(at - handOver / 2, 0), at + handOver / 2 + 1);
  return near.reduce((sum, way) => sum + way, 0) / near.length;
}

/** A pass led to the key at its end: what it is off by there grows evenly along the way. A slip is not shared out. */
function led(
  { path, arrival }: Pass,
  from: number,
  to: number,
  key: Place,
): (frame: number) => Placed | null {
  const off = arrival && Math.hypot(key.x - arrival.x, key.y - arrival.y);
  const drift =
    arrival && isFound(arrival.state) && (off as number) < 4 * agreeing
      ? blend((c) => key[c] - placeIn(arrival)[c])
      : noChange;
  return (frame) => {
    if (!path.found(frame)) return null;
    const sample = path.get(frame) as Placed;
    const t = (frame - from) / (to - from);
    return { ...sample, ...blend((c) => sample[c] + t * drift[c]) };
  };
}
