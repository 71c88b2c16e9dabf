import { blend, type Place } from './curve.js';
import { isFound, noSample, SampleState, type Sample, type Samples } from './samples.js';

/** One direction's way through a span between two keys. */
export interface Pass {
  path: Samples;
  /** What it found on the frame of the key at its far end, if it got there. */
  arrival: Sample | undefined;
}

/** Passes this close, in pixels, tell the same; farther apart one of them has slipped. */
const agreeing = 1.5;
/** At a slip one pass gives way to the other over so many frames. */
const handOver = 4;
/** Two passes so far apart, in pixels, are worth a half. */
const halfDisagreement = 0.7;

/**
 * Joins the pass forwards from the key at `first` with the pass backwards from the key at `last`: the path
 * leaves the one key and reaches the other, and follows the texture between. Each pass is first led to the
 * key it came to; where they agree each counts by its nearness, where one has slipped the other takes over at
 * the frame at which they are closest. Writes the frames between the keys into `out`.
 */
export function joinPasses(out: Samples, first: number, last: number, forwards: Pass, backwards: Pass): void {
  const length = last - first;
  const ahead = led(forwards, first, last, out.place(last));
  const back = led(backwards, last, first, out.place(first));
  const gapAt = (frame: number): number | null => {
    const [a, b] = [ahead(frame), back(frame)];
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : null;
  };
  let closest = (first + last) / 2;
  let least = Infinity;
  let widest = 0;
  for (let frame = first + 1; frame < last; frame++) {
    const gap = gapAt(frame);
    if (gap === null) continue;
    widest = Math.max(widest, gap);
    // Among frames as close the one in the middle.
    const worth = gap + 1e-6 * Math.abs(frame - (first + last) / 2);
    if (worth < least) [least, closest] = [worth, frame];
  }
  const share = (frame: number): number =>
    widest <= agreeing
      ? (frame - first) / length
      : Math.min(Math.max(0.5 + (frame - closest) / handOver, 0), 1);
  for (let frame = first + 1; frame < last; frame++) {
    const [a, b] = [ahead(frame), back(frame)];
    if (a && b) {
      const t = share(frame);
      const gap = gapAt(frame) as number;
      const agreement = 1 / (1 + (gap / halfDisagreement) ** 2);
      // Where one has slipped, it is the other's word that counts.
      const doubt = widest <= agreeing ? agreement : Math.abs(frame - closest) < handOver ? agreement : 1;
      const tracked = a.state === SampleState.tracked || b.state === SampleState.tracked;
      out.set(frame, {
        ...blend((c) => (1 - t) * a[c] + t * b[c]),
        confidence: ((1 - t) * a.confidence + t * b.confidence) * doubt,
        state: tracked ? SampleState.tracked : SampleState.bridged,
      });
    } else {
      const only = a ?? b;
      if (only) out.set(frame, only);
      else out.set(frame, forwards.path.get(frame) ?? backwards.path.get(frame) ?? noSample);
    }
  }
}

/** A pass led to the key at its end: what it is off by there grows evenly along the way. A slip is not shared out. */
function led(
  { path, arrival }: Pass,
  from: number,
  to: number,
  key: Place,
): (frame: number) => Sample | null {
  const off = arrival && Math.hypot(key.x - arrival.x, key.y - arrival.y);
  const drift =
    arrival && isFound(arrival.state) && (off as number) < 4 * agreeing
      ? blend((c) => key[c] - arrival[c])
      : { x: 0, y: 0, rotation: 0, scale: 0 };
  return (frame) => {
    if (!path.found(frame)) return null;
    const sample = path.get(frame) as Sample;
    const t = (frame - from) / (to - from);
    return { ...sample, ...blend((c) => sample[c] + t * drift[c]) };
  };
}
