import { expect, test } from '@jest/globals';
import { durationOf, evenTimes, frameAt, startOf, unevenTimes } from './frame-times.js';

test('of an even clip time is frames over rate', () => {
  const times = evenTimes(50, 25);
  expect(durationOf(times)).toBe(2);
  expect(startOf(times, 10)).toBe(0.4);
  expect([-1, 0, 0.41, 9].map((t) => frameAt(times, t))).toEqual([0, 0, 10, 49]);
});

test('of an uneven one each frame lasts until the next begins', () => {
  const times = unevenTimes(Float64Array.of(0, 0.5, 0.6, 3, 4));
  expect(times).toMatchObject({ frames: 4, framesPerSecond: 1 });
  expect(durationOf(times)).toBe(4);
  expect([-1, 0, 0.49, 0.5, 0.59, 0.6, 2.9, 3, 99].map((t) => frameAt(times, t))).toEqual([
    0, 0, 0, 1, 1, 2, 2, 3, 3,
  ]);
});
