import { expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { carryLayers } from '../dress/film.js';
import { layerOf } from '../testing/layer-of.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { roundTrip } from './round-trip.js';

const [width, height] = [160, 100];
/** Waves so many pixels long. */
const waves = (long: number) => {
  const rgba = new Uint8Array(4 * width * height).fill(255);
  for (let i = 0; i < width * height; i++)
    rgba.fill(128 + 100 * Math.sin((2 * Math.PI * (i % width)) / long), 4 * i, 4 * i + 3);
  return { width, height, rgba };
};

function carried() {
  const strokes = [{ how: 'colour', points: [60, 50, 1, 100, 52, 1], width: 30 }];
  const layer = layerOf({ name: 'Mark', content: { kind: 'repair', strokes } }, 3);
  const carriers = {
    clip: { width, height, pixelAspect: '1:1', times: evenTimes(3, 25) },
    ...{ tracks: new Map(), scene: null },
  };
  return carryLayers([layer], carriers, new Map())[0];
}

test('where nothing moves nothing is lost; half a pixel aside what is fine loses most', async () => {
  const one = carried();
  const there = async (long: number) => roundTrip(one, 1, () => Promise.resolve(waves(long)));
  expect((await there(6))?.rms).toBe(0);
  expect((await there(6))?.psnr).toBe(Infinity);
  one.carriage.frameFromLayer.set(
    similarityMatrix({ x: 0.5, y: 0, rotation: 0, scale: 1 }, { x: 0, y: 0 }),
    9,
  );
  const [fine, coarse] = [await there(6), await there(40)];
  // A mean of two neighbours takes cos(π/long) of a wave, there and back the square of it: of 71 levels RMS a quarter and a 160th.
  expect(fine?.rms).toBeCloseTo(70.7 * (1 - Math.cos(Math.PI / 6) ** 2), 0);
  expect(coarse?.rms).toBeCloseTo(70.7 * (1 - Math.cos(Math.PI / 40) ** 2), 0);
  expect(coarse?.psnr).toBeGreaterThan((fine?.psnr ?? 0) + 25);
  one.carriage.frameFromLayer.set(
    similarityMatrix({ x: 900, y: 0, rotation: 0, scale: 1 }, { x: 0, y: 0 }),
    9,
  );
  expect(await there(6)).toBeNull();
});
