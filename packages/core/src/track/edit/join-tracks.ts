import type { Point } from '../../geometry/mat3.js';
import { sure } from '../certainty/confidence.js';
import { SampleState, type Samples } from '../samples.js';

const median = (values: number[]): number => {
  const sorted = values.sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
};

/** Frames on which two tracks were both found; those where both are certain, where there are any. */
function meetings(one: Samples, other: Samples): number[] {
  const isSure = (s: Samples, k: number): boolean =>
    s.state[k] === SampleState.placed || (s.state[k] === SampleState.tracked && s.confidence[k] >= sure);
  const both = Array.from({ length: one.frames }, (_, k) => k).filter((k) => one.found(k) && other.found(k));
  const certain = both.filter((k) => isSure(one, k) && isSure(other, k));
  return certain.length > 0 ? certain : both;
}

/** Whether two tracks were both found on some frame. */
export const haveMet = (one: Samples, other: Samples): boolean => meetings(one, other).length > 0;

/**
 * Adds to a track what another one of the same feature found where the first has nothing. Two boxes are never placed on
 * quite the same spot: the second is moved by the median of what they differ by where both were found, so that the path
 * does not jump; where they never met, by `apart`, if that is known. Returns how far that was, pixels; null where the
 * second's places stand as they are.
 */
export function joinTracks(into: Samples, other: Samples, apart: Point | null = null): Point | null {
  const both = meetings(into, other);
  const offset =
    both.length === 0
      ? apart
      : {
          x: median(both.map((k) => into.x[k] - other.x[k])),
          y: median(both.map((k) => into.y[k] - other.y[k])),
        };
  for (let k = 0; k < into.frames; k++) {
    const sample = other.get(k);
    if (!sample || into.found(k) || (into.state[k] && !other.found(k))) continue;
    into.set(k, { ...sample, x: sample.x + (offset?.x ?? 0), y: sample.y + (offset?.y ?? 0) });
  }
  return offset;
}
