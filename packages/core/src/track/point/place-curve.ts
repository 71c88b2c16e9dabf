import type { Place } from '../samples.js';

const columns = ['x', 'y', 'rotation', 'scale', 'stretch', 'shear', 'tiltX', 'tiltY'] as const;

/** What two places that are the same differ by. */
export const noChange: Place = blend(() => 0);

/** A place at a time, and how fast it moves there, per frame; without a speed the curve is straight there. */
export interface Knot {
  frame: number;
  place: Place;
  speed?: Place;
}

/** Combines places number by number. */
export function blend(combine: (column: (typeof columns)[number]) => number): Place {
  return {
    x: combine('x'),
    y: combine('y'),
    rotation: combine('rotation'),
    scale: combine('scale'),
    stretch: combine('stretch'),
    shear: combine('shear'),
    tiltX: combine('tiltX'),
    tiltY: combine('tiltY'),
  };
}

/** The cubic that leaves `a` and reaches `b` with their speeds (Hermite), at a frame between them. */
export function between(a: Knot, b: Knot, frame: number): Place {
  const length = b.frame - a.frame;
  const t = (frame - a.frame) / length;
  return blend((c) => {
    const chord = (b.place[c] - a.place[c]) / length;
    const [from, to] = [a.speed?.[c] ?? chord, b.speed?.[c] ?? chord];
    const h = 1 - t;
    return (
      a.place[c] * h * h * (1 + 2 * t) +
      b.place[c] * t * t * (3 - 2 * t) +
      length * t * h * (h * from - t * to)
    );
  });
}

/** The speed that a curve through three places has at the middle one: chords weighted by nearness. */
export function speedThrough(a: Knot, b: Knot, c: Knot): Place {
  const [before, after] = [b.frame - a.frame, c.frame - b.frame];
  return blend((column) => {
    const first = (b.place[column] - a.place[column]) / before;
    const second = (c.place[column] - b.place[column]) / after;
    return (first * after + second * before) / (before + after);
  });
}
