import { expect, test } from '@jest/globals';
import { SampleState } from '@lurn/core';
import { TrackSamples } from '../state/track-samples.js';
import { layOut, toStage, wholePicture } from './panes.js';
import { rideOn, riding } from './ride.js';

const frames = 20;
const sample = { confidence: 1, rotation: 0, scale: 1, state: SampleState.tracked };
/** Goes seven pixels right and two up a frame; not seen from 8 to 11. */
const track = TrackSamples.empty(frames).with(
  Array.from({ length: frames }, (_, k) => k)
    .filter((k) => k < 8 || k > 11)
    .map((k) => [k, { ...sample, x: 100 + 7 * k, y: 300 - 2 * k }] as const),
);

test('the point stands still on the source and on the steadied picture, at any zoom', () => {
  const placements = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) placements.set([2, 0, -5 * k, 0, 2, 3 * k, 0, 0, 1], 9 * k);
  const ride = rideOn(track, { placements, rows: null }, 4);
  for (const zoom of [1, 6]) {
    const look = { ...wholePicture, zoom };
    const panes = layOut(
      'twin',
      { width: 900, height: 300 },
      { width: 960, height: 540, pixelAspect: 1 },
      { source: look, steadied: look, held: look },
      0.5,
    );
    for (const pane of panes) {
      const at = (k: number) => {
        const [x, y] = [100 + 7 * k, 300 - 2 * k];
        const p = pane.kind === 'source' ? { x, y } : { x: 2 * x - 5 * k, y: 2 * y + 3 * k };
        return toStage(riding(pane, ride, k), p);
      };
      const still = at(4);
      for (let k = 0; k < frames; k++) {
        expect(at(k).x).toBeCloseTo(still.x, 6);
        expect(at(k).y).toBeCloseTo(still.y, 6);
      }
    }
  }
  expect(rideOn(TrackSamples.empty(frames), null, 0)).toBeNull();
});
