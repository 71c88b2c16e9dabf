import { between, speedThrough, type Knot } from './place-curve.js';
import { SampleState, type Samples } from '../samples.js';

export const interpolations = ['linear', 'smooth'] as const;
export type KeyInterpolation = (typeof interpolations)[number];

/** Half sure: a person has placed the ends, nobody has looked between. */
const confidence = 0.5;

/**
 * Fills the frames between hand-placed keys that lie within `first` to `last` by a curve through the keys:
 * straight from each to the next, or smooth through all. What lies outside the outermost keys stays.
 */
export function interpolateKeys(
  samples: Samples,
  how: KeyInterpolation,
  first = 0,
  last = samples.frames - 1,
): void {
  const knots: Knot[] = samples
    .keys()
    .filter((k) => k >= first && k <= last)
    .map((frame) => ({ frame, place: samples.place(frame) }));
  if (how === 'smooth')
    for (let i = 1; i + 1 < knots.length; i++)
      knots[i].speed = speedThrough(knots[i - 1], knots[i], knots[i + 1]);
  for (let i = 0; i + 1 < knots.length; i++)
    for (let frame = knots[i].frame + 1; frame < knots[i + 1].frame; frame++)
      samples.set(frame, {
        ...between(knots[i], knots[i + 1], frame),
        confidence,
        state: SampleState.bridged,
      });
}
