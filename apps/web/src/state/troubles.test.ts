import { expect, test } from '@jest/globals';
import { Samples, SampleState } from '@lurn/core';
import { troubles } from './troubles.js';

const { none, placed, tracked, bridged, lost } = SampleState;

test('each stretch of trouble is told once, by its first frame', () => {
  const rows: [number, number][] = [
    [placed, 1],
    [tracked, 0.95],
    [tracked, 0.7],
    [bridged, 0.5],
    [bridged, 0.5],
    [tracked, 0.9],
    [lost, 0.1],
    [none, 0],
    [lost, 0],
  ];
  const samples = new Samples(rows.length);
  rows.forEach(([state, confidence], frame) => {
    if (state !== none)
      samples.set(frame, { x: 1, y: 1, rotation: 0, scale: 1, confidence, state: state as typeof placed });
  });
  expect(troubles(samples)).toEqual([2, 6, 8]);
  expect(troubles(new Samples(5))).toEqual([]);
  expect(troubles(undefined)).toEqual([]);
});
