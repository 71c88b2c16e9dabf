import { expect, test } from '@jest/globals';
import { Reason } from './sample-reason.js';
import { pageLength, Samples, SampleState } from './samples.js';

test('pages come back as they went, and empty ones are nothing', () => {
  const samples = new Samples(pageLength + 40);
  samples.set(3, { x: 1.25, y: -7.5, confidence: 0.5, rotation: 0.125, scale: 2, state: SampleState.placed });
  const lost = { x: 9, y: 8, confidence: 1, rotation: 0, scale: 1, state: SampleState.lost };
  samples.set(pageLength + 39, { ...lost, reason: Reason.outside });
  const copy = new Samples(samples.frames);
  for (let page = 0; page < samples.pages; page++) copy.unpackPage(page, samples.packPage(page));
  expect(copy.get(3)).toEqual(samples.get(3));
  expect(copy.get(pageLength + 39)).toEqual(samples.get(pageLength + 39));
  expect(copy.get(pageLength + 39)).toEqual({ ...lost, reason: Reason.outside });
  expect(copy.get(4)).toBeNull();
  expect(new Samples(10).packPage(0)).toBeNull();
  expect(() => copy.unpackPage(0, new Uint8Array(5))).toThrow(RangeError);
});

test('extent and keys look at what can be used', () => {
  const samples = new Samples(10);
  expect(samples.extent()).toBeNull();
  const sample = { x: 0, y: 0, confidence: 1, rotation: 0, scale: 1 };
  samples.set(2, { ...sample, state: SampleState.tracked });
  samples.set(5, { ...sample, state: SampleState.placed });
  samples.set(8, { ...sample, state: SampleState.lost });
  expect(samples.extent()).toEqual({ first: 2, last: 5 });
  expect(samples.keys()).toEqual([5]);
});

test('pages from before reasons were told are read without any', () => {
  const samples = new Samples(4);
  for (const state of [SampleState.placed, SampleState.tracked, SampleState.bridged, SampleState.lost])
    samples.set(state - 1, { x: 1, y: 2, confidence: 0.5, rotation: 0, scale: 1, state });
  // The state was alone in its byte.
  const page = samples.packPage(0) as Uint8Array;
  expect([...page.subarray(28 * pageLength, 28 * pageLength + 4)]).toEqual([1, 2, 3, 4]);
});
