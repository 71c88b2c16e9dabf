import { expect, test } from '@jest/globals';
import { Reason } from './sample-reason.js';
import { differingSamples, pageLength, Samples, SampleState } from './samples.js';

test('pages come back as they went, and empty ones are nothing', () => {
  const samples = new Samples(pageLength + 40);
  samples.set(3, { x: 1.25, y: -7.5, confidence: 0.5, rotation: 0.125, scale: 2, state: SampleState.placed });
  const lost = { x: 9, y: 8, confidence: 1, rotation: 0, scale: 1, state: SampleState.lost };
  samples.set(pageLength + 39, { ...lost, reason: Reason.outside });
  const copy = new Samples(samples.frames);
  for (let page = 0; page < samples.pages; page++) copy.unpackPage(page, samples.packPage(page));
  expect(copy.get(3)).toEqual(samples.get(3));
  expect(copy.get(pageLength + 39)).toEqual(samples.get(pageLength + 39));
  expect(copy.get(pageLength + 39)).toMatchObject({ ...lost, reason: Reason.outside });
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

test('the whole pose is kept, and more reasons than there are have room', () => {
  const samples = new Samples(4);
  const pose = {
    rotation: 0.5,
    scale: 1.5,
    stretch: 0.25,
    shear: -0.125,
    tiltX: 2 ** -12,
    tiltY: -(2 ** -11),
  };
  samples.set(1, { x: 1, y: 2, ...pose, confidence: 0.5, state: SampleState.tracked, reason: 200 as Reason });
  const copy = new Samples(4);
  copy.unpackPage(0, samples.packPage(0));
  expect(copy.get(1)).toEqual(samples.get(1));
  expect(copy.place(1)).toEqual({ x: 1, y: 2, ...pose });
  expect(copy.reason[1]).toBe(200);
});

test('pages of the first version are read: state and reason shared a byte', () => {
  const page = new Uint8Array(29 * pageLength);
  const view = new DataView(page.buffer);
  view.setFloat64(8 * 2, 12.5, true);
  view.setFloat64(8 * (pageLength + 2), -3.25, true);
  view.setFloat32(4 * (4 * pageLength + 2), 0.5, true);
  view.setFloat32(4 * (5 * pageLength + 2), 0.75, true);
  view.setFloat32(4 * (6 * pageLength + 2), 2, true);
  page[28 * pageLength + 2] = SampleState.bridged | (Reason.outside << 4);
  const samples = new Samples(4);
  samples.unpackPage(0, page);
  expect(samples.get(1)).toBeNull();
  expect(samples.get(2)).toEqual({
    x: 12.5,
    y: -3.25,
    confidence: 0.5,
    rotation: 0.75,
    scale: 2,
    stretch: 0,
    shear: 0,
    tiltX: 0,
    tiltY: 0,
    state: SampleState.bridged,
    reason: Reason.outside,
  });
  const newer = samples.packPage(0) as Uint8Array;
  newer[0]++;
  expect(() => samples.unpackPage(0, newer)).toThrow(/newer/);
});

test('pages are told apart frame by frame', () => {
  const [a, b] = [new Samples(9), new Samples(9)];
  const sample = { x: 1, y: 2, confidence: 1, rotation: 0, scale: 1, state: SampleState.tracked };
  for (const k of [1, 2, 3]) a.set(k, sample);
  for (const k of [2, 3, 4]) b.set(k, { ...sample, tiltX: k === 3 ? 1e-6 : 0 });
  expect(differingSamples(a.packPage(0), b.packPage(0))).toEqual([1, 3, 4]);
  expect(differingSamples(a.packPage(0), null)).toEqual([1, 2, 3]);
  expect(differingSamples(null, null)).toEqual([]);
});
