import { expect, test } from '@jest/globals';
import { SampleState } from '@lurn/core';
import { TrackSamples } from './track-samples.js';
import { nextStop, troubles } from './troubles.js';

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
