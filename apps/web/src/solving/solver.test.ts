import { expect, test } from '@jest/globals';
import { evenTimes, pageLength, SampleState, type SteadySettings } from '@lurn/core';
import { TrackSamples } from '../state/track-samples.js';
import { SampleKeeper } from './sample-keeper.js';
import { isSame, orderFor, type Problem } from './solver.js';

const frames = 2 * pageLength + 10;
const settings = { mode: 'hold' } as SteadySettings;
const times = evenTimes(frames, 25);
const sample = { y: 2, confidence: 0.5, rotation: 0, scale: 1, state: SampleState.tracked };
const at = (...places: [number, number][]): TrackSamples =>
  TrackSamples.empty(frames).with(places.map(([frame, x]) => [frame, { ...sample, x }]));
const problem = (tracks: Record<string, TrackSamples>): Problem => ({
  tracks: Object.entries(tracks).map(([id, samples]) => ({ id, samples, region: null })),
  settings,
  scene: null,
  clip: { width: 9, height: 9, pixelAspect: '1:1', times },
});

test('what nothing has changed of is not solved again', () => {
  const plate = at([3, 1]);
  const before = problem({ plate });
  expect(isSame(null, before)).toBe(false);
  expect(isSame(before, problem({ plate }))).toBe(true);
  expect(isSame(before, problem({ plate: plate.with([[4, { ...sample, x: 1 }]]) }))).toBe(false);
  expect(isSame(before, problem({ plate, ring: plate }))).toBe(false);
  expect(isSame(before, { ...before, settings: { ...settings } })).toBe(false);
});

test('a worker that keeps the samples is told the pages that have changed, and has them all', () => {
  const keeper = new SampleKeeper();
  const plate = at([3, 1], [pageLength + 5, 2]);
  const first = problem({ plate, ring: at([0, 7]) });
  const take = (before: Problem | null, next: Problem) => {
    const order = structuredClone(orderFor(before, next));
    return { order, kept: keeper.take(order.tracks, frames) };
  };
  expect(take(null, first).kept.map((s) => [s.x[3], s.x[pageLength + 5], s.x[0]])).toEqual([
    [1, 2, 0],
    [0, 0, 7],
  ]);
  const moved = problem({ plate: plate.with([[3, { ...sample, x: 9 }]]) });
  const second = take(first, moved);
  expect(second.order.tracks).toMatchObject([{ id: 'plate', fresh: false, pages: [{ from: 0 }] }]);
  expect(second.kept.map((s) => [s.x[3], s.x[pageLength + 5], s.confidence[3]])).toEqual([[9, 2, 0.5]]);
  // A page that has become empty; and a track that comes back is told whole.
  const emptied = problem({ ring: at([0, 7]), plate: moved.tracks[0].samples.withPage(1, null) });
  const third = take(moved, emptied);
  expect(third.order.tracks.map(({ fresh, pages }) => [fresh, pages.length])).toEqual([
    [true, 3],
    [false, 1],
  ]);
  expect(third.kept[1].found(pageLength + 5)).toBe(false);
  expect([third.kept[0].found(0), third.kept[1].x[3]]).toEqual([true, 9]);
});
