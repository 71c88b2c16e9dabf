import { between } from '../point/place-curve.js';
import { noSample, SampleState, type Samples } from '../samples.js';

/**
 * Moves a hand-placed key to another frame, its place with it. The frame it leaves is carried between its neighbours
 * where both are there, and is empty otherwise. Returns false, and changes nothing, where there is no key at `from`.
 */
export function moveKey(samples: Samples, from: number, to: number): boolean {
  const key = samples.get(from);
  if (key?.state !== SampleState.placed || from === to) return false;
  samples.clear(from);
  samples.set(to, key);
  const [before, after] = [from - 1, from + 1];
  if (before >= 0 && after < samples.frames && samples.found(before) && samples.found(after))
    samples.set(from, {
      ...noSample,
      ...between(
        { frame: before, place: samples.place(before) },
        { frame: after, place: samples.place(after) },
        from,
      ),
      confidence: 0.5,
      state: SampleState.bridged,
    });
  return true;
}
