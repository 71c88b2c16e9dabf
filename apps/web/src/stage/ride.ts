import { outputPlace, type Placing, type Point } from '@lurn/core';
import type { TrackSamples } from '../state/track-samples';
import { shiftedBy, type PaneGeometry } from './panes';

/** Per frame, two numbers each: how far each picture is moved, its own pixels, so that a point stands still. */
export interface Ride {
  source: Float64Array;
  steadied: Float64Array;
}

/**
 * What keeps a track's point where it was on frame `from`, on the source and on the steadied picture. Where the track is
 * not found it is carried between the nearest frames where it is. Null where it is found nowhere.
 */
export function rideOn(samples: TrackSamples, placing: Placing | null, from: number): Ride | null {
  const { frames } = samples;
  const found = Array.from({ length: frames }, (_, k) => k).filter((k) => samples.found(k));
  if (found.length === 0) return null;
  const place = (k: number, next: number): Point => {
    const [a, b] = [found[Math.max(next - 1, 0)], found[Math.min(next, found.length - 1)]];
    const t = b > a ? Math.min(Math.max((k - a) / (b - a), 0), 1) : 0;
    return {
      x: samples.x(a) + t * (samples.x(b) - samples.x(a)),
      y: samples.y(a) + t * (samples.y(b) - samples.y(a)),
    };
  };
  const ride = { source: new Float64Array(2 * frames), steadied: new Float64Array(2 * frames) };
  let next = 0;
  for (let k = 0; k < frames; k++) {
    while (next < found.length && found[next] < k) next++;
    const p = found[next] === k ? { x: samples.x(k), y: samples.y(k) } : place(k, next);
    const q = placing ? outputPlace(placing, k, p) : p;
    ride.source.set([p.x, p.y], 2 * k);
    ride.steadied.set([q.x, q.y], 2 * k);
  }
  for (const places of [ride.source, ride.steadied]) {
    const [x, y] = [places[2 * from], places[2 * from + 1]];
    for (let k = 0; k < frames; k++) places.set([x - places[2 * k], y - places[2 * k + 1]], 2 * k);
  }
  return ride;
}

/** A pane as it is on a frame of a ride. */
export const riding = (pane: PaneGeometry, ride: Ride | null, frame: number): PaneGeometry =>
  ride && pane.kind !== 'held' && frame >= 0 && 2 * frame < ride.source.length
    ? shiftedBy(pane, { x: ride[pane.kind][2 * frame], y: ride[pane.kind][2 * frame + 1] })
    : pane;
