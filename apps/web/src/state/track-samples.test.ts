import { expect, test } from '@jest/globals';
import { pageLength, Samples, SampleState } from '@lurn/core';
import { TrackSamples } from './track-samples.js';

const sample = { x: 5, y: 6, confidence: 0.9, rotation: 0, scale: 1, state: SampleState.tracked };
const key = { ...sample, state: SampleState.placed };

test('what is added makes another, which shares the pages that are as they were', () => {
  const before = TrackSamples.empty(3 * pageLength).with([[4, key]]);
  const after = before.with([
    [pageLength + 1, sample],
    [pageLength + 2, { ...sample, x: 7 }],
  ]);
  expect(before.get(pageLength + 1)).toBeNull();
  expect(after.get(pageLength + 2)).toMatchObject({ x: 7, state: SampleState.tracked });
  expect(after.pages[0]).toBe(before.pages[0]);
  expect(after.pages[1]).not.toBe(before.pages[1]);
  expect(after.pages[2]).toBe(before.pages[2]);
  const moved = after.with([[pageLength + 2, { ...sample, x: 8 }]]);
  expect([after, moved].map((s) => s.x(pageLength + 2))).toEqual([7, 8]);
});

test('pages come as the core packs them, and go', () => {
  const samples = new Samples(2 * pageLength);
  samples.set(pageLength + 9, key);
  const shown = TrackSamples.empty(2 * pageLength).withPage(1, samples.packPage(1));
  expect(shown.keys()).toEqual([pageLength + 9]);
  expect(shown.found(pageLength + 9)).toBe(true);
  expect(shown.confidence(pageLength + 9)).toBeCloseTo(0.9, 6);
  const gone = shown.withPage(1, null);
  expect(gone.keys()).toEqual([]);
  expect([gone.state(pageLength + 9), gone.state(0), gone.found(0)]).toEqual([0, 0, false]);
});

test('what lies beyond the clip is passed over', () => {
  const empty = TrackSamples.empty(10);
  expect(empty.with([[pageLength, sample]]).pages).toHaveLength(1);
  expect(empty.withPage(4, null)).toBe(empty);
});
