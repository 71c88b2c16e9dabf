import { expect, test } from '@jest/globals';
import { SampleState } from '@lurn/core';
import { TrackSamples } from '../state/track-samples.js';
import { curveOf, extentOf, keyAt } from './curve-columns.js';

const sample = { confidence: 0.5, rotation: Math.PI / 2, scale: 1.25, state: SampleState.tracked };
const samples = TrackSamples.empty(300).with([
  [10, { ...sample, x: 4, y: 1 }],
  [11, { ...sample, x: 7, y: 5 }],
  [12, { ...sample, x: 0, y: 0, state: SampleState.lost }],
  [280, { ...sample, x: 9, y: 9 }],
]);

test('numbers come in the units that people read, and none where there is no place', () => {
  const at = (name: Parameters<typeof curveOf>[1], k: number) => curveOf(samples, name)[k];
  expect([at('x', 11), at('speed', 11), at('rotation', 10), at('scale', 10), at('confidence', 10)]).toEqual([
    7,
    5,
    expect.closeTo(90, 4),
    125,
    50,
  ]);
  expect([at('x', 12), at('speed', 10), at('y', 9)]).toEqual([NaN, NaN, NaN]);
  expect(curveOf(samples, 'x')).toBe(curveOf(samples, 'x'));
  expect(extentOf([curveOf(samples, 'x')], 0, 299)).toEqual([4, 9]);
  expect(extentOf([curveOf(samples, 'x')], 20, 200)).toBeNull();
});

test('the nearest key in reach is the one that is meant', () => {
  const place = (frame: number) => ({ x: 10 * frame, y: 50 });
  expect([keyAt([1, 2, 5], place, { x: 18, y: 53 }), keyAt([1, 2], place, { x: 40, y: 50 })]).toEqual([
    2,
    null,
  ]);
});
