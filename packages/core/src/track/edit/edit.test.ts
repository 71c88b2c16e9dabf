import { expect, test } from '@jest/globals';
import { noSample, Samples, SampleState } from '../samples.js';
import { carryMotion } from './carry-motion.js';
import { haveMet, joinTracks } from './join-tracks.js';
import { moveKey } from './move-key.js';
import { smoothSamples } from './smooth-samples.js';

const { placed, tracked, bridged, lost } = SampleState;

/** A track that goes three pixels right and one down a frame. */
function going(first: number, last: number, off = { x: 0, y: 0 }, key = first): Samples {
  const samples = new Samples(60);
  for (let k = first; k <= last; k++)
    samples.set(k, {
      ...noSample,
      x: 3 * k + off.x,
      y: k + off.y,
      confidence: 0.9,
      state: k === key ? placed : tracked,
    });
  return samples;
}

test('a key goes to another frame, and the one it left is carried between its neighbours', () => {
  const samples = going(0, 30, { x: 0, y: 0 }, 10);
  expect(moveKey(samples, 11, 20)).toBe(false);
  expect(moveKey(samples, 10, 20)).toBe(true);
  expect(samples.keys()).toEqual([20]);
  expect(samples.get(20)).toMatchObject({ x: 30, y: 10 });
  expect(samples.get(10)).toMatchObject({ x: 30, y: 10, state: bridged });
  const alone = new Samples(60);
  alone.set(5, { ...noSample, x: 1, y: 2, state: placed });
  moveKey(alone, 5, 7);
  expect([alone.get(5), alone.keys()]).toEqual([null, [7]]);
});

test('two pieces of one feature become one path without a step', () => {
  const into = going(0, 24);
  into.set(25, { ...noSample, state: lost });
  const offset = joinTracks(into, going(20, 50, { x: 2.25, y: -1.5 }));
  expect(offset).toEqual({ x: -2.25, y: 1.5 });
  for (let k = 0; k <= 50; k++) expect(into.get(k)).toMatchObject({ x: 3 * k, y: k });
  const apart = going(0, 10);
  expect(joinTracks(apart, going(20, 30, { x: 2, y: 0 }))).toBeNull();
  expect([apart.found(15), apart.x[20]]).toEqual([false, 62]);
  const known = going(0, 10);
  expect(joinTracks(known, going(20, 30, { x: 2, y: 0 }), { x: -2, y: 0 })).toEqual({ x: -2, y: 0 });
  expect([haveMet(known, going(5, 6)), known.x[20]]).toEqual([true, 60]);
});

test("another's motion is a start from the nearest key, where nothing was found", () => {
  const samples = new Samples(60);
  samples.set(10, { ...noSample, x: 500, y: 400, confidence: 1, state: placed });
  samples.set(11, { ...noSample, x: 777, y: 400, confidence: 1, state: tracked });
  expect(carryMotion(samples, going(5, 40))).toBe(34);
  expect(samples.get(40)).toMatchObject({ x: 590, y: 430, state: bridged });
  expect([samples.x[11], samples.found(4)]).toEqual([777, false]);
  expect(carryMotion(new Samples(60), going(5, 40))).toBe(0);
});

test('smoothing takes trembling out, leaves a steady move and passes through the keys', () => {
  const straight = going(0, 59);
  smoothSamples(straight, 10, 50, 3);
  for (let k = 0; k < 60; k++) expect(straight.x[k]).toBeCloseTo(3 * k, 9);
  const shaky = going(0, 59, { x: 0, y: 0 }, 30);
  for (let k = 0; k < 60; k++) if (k !== 30) shaky.x[k] += k % 2 ? 1 : -1;
  const before = shaky.x.slice();
  smoothSamples(shaky, 10, 50, 3);
  expect([shaky.x[30], shaky.x[9], shaky.x[51]]).toEqual([90, before[9], before[51]]);
  // Of a one-pixel tremble from frame to frame such a window leaves next to nothing.
  for (let k = 14; k <= 46; k++) expect(Math.abs(shaky.x[k] - 3 * k)).toBeLessThan(0.35);
});
