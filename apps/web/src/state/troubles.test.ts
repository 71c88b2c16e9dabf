import { expect, test } from '@jest/globals';
import { SampleState } from '@lurn/core';
import { TrackSamples } from './track-samples.js';
import type { TrackView } from '@lurn/contract';
import { markOf, nextStop, troubleList, troubles } from './troubles.js';

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
  const samples = TrackSamples.empty(rows.length).with(
    rows.flatMap(([state, confidence], frame) =>
      state === none
        ? []
        : [
            [
              frame,
              { x: 1, y: 1, rotation: 0, scale: 1, confidence, state: state as typeof placed },
            ] as const,
          ],
    ),
  );
  expect(troubles(samples)).toEqual([2, 6, 8]);
  expect(troubles(TrackSamples.empty(5))).toEqual([]);
  expect(troubles(undefined)).toEqual([]);
});

test('the next frame of several tracks is the next in time, whichever has it, round and round', () => {
  const tracks = [
    { id: 'plate', frames: [4, 12] },
    { id: 'ring', frames: [4, 8] },
    { id: 'sign', frames: [] },
  ];
  const walk = (step: 1 | -1): string[] => {
    let at = { id: 'plate', frame: 0 };
    return Array.from({ length: 5 }, () => {
      at = nextStop(tracks, at, step) as typeof at;
      return `${at.id} ${at.frame}`;
    });
  };
  expect(walk(1)).toEqual(['plate 4', 'ring 4', 'ring 8', 'plate 12', 'plate 4']);
  expect(walk(-1)).toEqual(['plate 12', 'ring 8', 'ring 4', 'plate 4', 'plate 12']);
  expect(nextStop([{ id: 'sign', frames: [] }], { id: 'sign', frame: 3 }, 1)).toBeNull();
});

const trackOf = (id: string, accepted: TrackView['accepted'] = []): TrackView =>
  ({ id, name: id, used: true, position: 0, accepted }) as unknown as TrackView;

/** A steady walk, with some samples changed. */
function walk(
  changed: Record<number, Partial<{ x: number; state: number; confidence: number }>> = {},
): TrackSamples {
  return TrackSamples.empty(60).with(
    Array.from({ length: 60 }, (_, k) => [
      k,
      {
        ...{ x: 3 * k, y: k, rotation: 0, scale: 1, confidence: 0.95 },
        state: k === 0 ? placed : tracked,
        ...changed[k],
      } as {
        x: number;
        y: number;
        rotation: number;
        scale: number;
        confidence: number;
        state: typeof placed;
      },
    ]),
  );
}

test('the worst comes first over all tracks; a leap is trouble although the track is sure', () => {
  const bad = walk({ 20: { state: lost, confidence: 0 }, 21: { state: lost, confidence: 0 } });
  const faint = walk({ 40: { confidence: 0.7 } });
  const leapt = walk({ 30: { x: 300 } });
  const samples = new Map([
    ['faint', faint],
    ['bad', bad],
    ['leapt', leapt],
  ]);
  const found = troubleList(
    ['faint', 'bad', 'leapt'].map((id) => trackOf(id)),
    samples,
    null,
  );
  expect(found.map(({ trackId, kind, first, last }) => [trackId, kind, first, last])).toEqual([
    ['leapt', 'jump', 29, 31],
    ['bad', 'lost', 20, 21],
    ['faint', 'doubtful', 40, 40],
  ]);
});

test('what was waved through is left out until its samples change', () => {
  const faint = walk({ 40: { confidence: 0.7 } });
  const accepted = [{ first: 40, last: 40, mark: markOf(faint, { first: 40, last: 40 }) }];
  const track = trackOf('faint', accepted);
  expect(troubleList([track], new Map([['faint', faint]]), null)).toEqual([]);
  const moved = walk({ 40: { confidence: 0.7, x: 121 } });
  expect(troubleList([track], new Map([['faint', moved]]), null)).toHaveLength(1);
});

test('a track that goes another way than the others is told, with how far', () => {
  const frames = 60;
  const motion = {
    ...{ frames, referenceFrame: 0, pixelAspect: 1, model: 'translation', pivot: { x: 0, y: 0 } },
    matrices: Float64Array.from(
      Array.from({ length: frames }, (_, k) => [1, 0, 3 * k, 0, 1, k, 0, 0, 1]).flat(),
    ),
    support: new Uint16Array(frames).fill(3),
  };
  const result = { motion } as unknown as Parameters<typeof troubleList>[2];
  const strays = Object.fromEntries([30, 31, 32].map((k) => [k, { x: 3 * k + 9 }]));
  const samples = new Map([
    ['a', walk()],
    ['b', walk()],
    ['c', walk(strays)],
  ]);
  const found = troubleList(
    ['a', 'b', 'c'].map((id) => trackOf(id)),
    samples,
    result,
  );
  expect(found).toMatchObject([{ trackId: 'c', kind: 'apart', first: 30, last: 32, pixels: 9 }]);
  // Of two nobody knows which is wrong.
  expect(
    troubleList(
      ['a', 'c'].map((id) => trackOf(id)),
      samples,
      result,
    ),
  ).toEqual([]);
});
