import { expect, test } from '@jest/globals';
import type { SteadyView, TrackView } from '@lurn/contract';
import { pageLength, Samples, SampleState } from '@lurn/core';
import { overlap, reversed, type Change, type RecordChange } from './change.js';
import { touches } from './touches.js';

/** A page with keys on these frames of the clip. */
function page(number: number, frames: Record<number, number>): Buffer | null {
  const samples = new Samples(pageLength * (number + 1));
  for (const [frame, x] of Object.entries(frames))
    samples.set(Number(frame), { x, y: 1, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
  const packed = samples.packPage(number);
  return packed && Buffer.from(packed);
}

const samplesChange = (trackId: string, number: number, before: object, after: object): Change => ({
  kind: 'track',
  id: trackId,
  column: 'samples',
  page: number,
  before: page(number, before as Record<number, number>),
  after: page(number, after as Record<number, number>),
});
const trackChange = (before: Partial<TrackView> | null, after: Partial<TrackView> | null): RecordChange => ({
  kind: 'track',
  id: 'a',
  before,
  after,
});
const steadyChange = (before: Partial<SteadyView>, after: Partial<SteadyView>): Change => ({
  kind: 'steady',
  id: 'clip',
  before,
  after,
});

const clash = (one: Change, other: Change): boolean => overlap(touches([one]), touches([other]));

test('samples clash frame by frame, not page by page', () => {
  const five = samplesChange('a', 1, { 300: 1 }, { 300: 1, 305: 2 });
  expect(touches([five])).toEqual([{ of: 'a', column: 'samples', ranges: [[305, 305]] }]);
  expect(clash(five, samplesChange('a', 1, { 300: 1 }, { 300: 1, 306: 2 }))).toBe(false);
  expect(clash(five, samplesChange('a', 1, {}, { 305: 9 }))).toBe(true);
  expect(clash(five, samplesChange('b', 1, {}, { 305: 9 }))).toBe(false);
  // Frame 49 of the first page is not frame 49 of the second.
  expect(clash(five, samplesChange('a', 0, {}, { 49: 9 }))).toBe(false);
});

test('settings clash one by one; a track that is gone clashes with all of it', () => {
  const renamed = trackChange({ name: 'x', hidden: false }, { name: 'y', hidden: false });
  expect(clash(renamed, trackChange({ hidden: false }, { hidden: true }))).toBe(false);
  expect(clash(renamed, trackChange({ name: 'x' }, { name: 'z' }))).toBe(true);
  const deleted = trackChange({ name: 'x' }, null);
  expect(clash(deleted, renamed)).toBe(true);
  expect(clash(samplesChange('a', 0, {}, { 3: 1 }), deleted)).toBe(true);
  expect(clash(steadyChange({ mode: 'hold' }, { mode: 'smooth' }), renamed)).toBe(false);
  const zoom = (value: number) => ({ framing: { zoom: value, offsetX: 0, offsetY: 0 } });
  expect(clash(steadyChange(zoom(1), zoom(2)), steadyChange(zoom(1), zoom(3)))).toBe(true);
  expect(clash(steadyChange(zoom(1), zoom(2)), steadyChange({ mode: 'hold' }, { mode: 'smooth' }))).toBe(
    false,
  );
});

test('taken back, changes run the other way, last first', () => {
  const [placed, renamed] = [trackChange(null, { name: 'x' }), trackChange({ name: 'x' }, { name: 'y' })];
  expect(reversed([placed, renamed])).toEqual([
    trackChange({ name: 'y' }, { name: 'x' }),
    trackChange({ name: 'x' }, null),
  ]);
});

test('what an edit touches is told in stretches, over the pages', () => {
  const frames = (from: number, to: number): Record<number, number> =>
    Object.fromEntries(Array.from({ length: to - from + 1 }, (_, i) => [from + i, 1]));
  const run = [
    samplesChange('a', 0, {}, frames(10, 255)),
    samplesChange('a', 1, {}, { ...frames(256, 300), 310: 2 }),
  ];
  expect(touches(run)).toEqual([
    {
      of: 'a',
      column: 'samples',
      ranges: [
        [10, 300],
        [310, 310],
      ],
    },
  ]);
});
