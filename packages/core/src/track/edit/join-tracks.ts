import { type Samples } from '../samples.js';

const median = (values: number[]): number => {
  const sorted = values.sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
};

/**
 * Adds to a track what another one of the same feature found where the first has nothing. Where both have found it the
 * second is moved by the median of what they differ by, so that the path does not jump: two boxes are never placed on
 * quite the same spot. Returns how far that is, pixels; null where they never met, and the second's places stand as they are.
 */
export function joinTracks(into: Samples, other: Samples): { x: number; y: number } | null {
  const both = Array.from({ length: into.frames }, (_, k) => k).filter(
    (k) => into.found(k) && other.found(k),
  );
  const offset =
    both.length === 0
      ? null
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
