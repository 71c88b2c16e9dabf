import { expect, test } from '@jest/globals';
import type { TrackView } from '@lurn/contract';
import { SampleState, type SampleState as State } from '@lurn/core';
import { TrackSamples } from '../state/track-samples.js';
import { boxAt, pathsOf, type ShownTrack } from './crowd.js';
import type { PaneGeometry } from './panes.js';

const pane = { scaleX: 0.5, scaleY: 0.5, shiftX: 10, shiftY: 20 } as PaneGeometry;

/** A track on one frame, its box 40 pixels wide and 20 high. */
function shown(
  id: string,
  position: number,
  x: number,
  y: number,
  state: State = SampleState.tracked,
): ShownTrack {
  const sample = { x, y, confidence: 1, rotation: 0, scale: 1, state };
  const own = TrackSamples.empty(1).with(state === SampleState.none ? [] : [[0, sample]]);
  return { track: { id, position, template: { width: 40, height: 20 } } as TrackView, own };
}

test('boxes of one colour and state are one path, the chosen ones on top', () => {
  const tracks = [
    shown('plate', 0, 100, 100),
    shown('ring', 0, 200, 100),
    shown('sign', 1, 300, 100, SampleState.lost),
    shown('gone', 1, 300, 200, SampleState.none),
  ];
  const paths = pathsOf(tracks, new Set(['plate']), 0, pane);
  expect(paths.map(({ chosen, lost }) => [chosen, lost])).toEqual([
    [false, false],
    [false, true],
    [true, false],
  ]);
  // The plate's middle is drawn at (60, 70), 20 by 10.
  expect(paths[2].d).toBe('M50.0 65.0h20.0v10.0h-20.0zM55.0 70.0h10m-5 -5v10');
  const all = pathsOf(tracks.slice(0, 2), new Set(['plate', 'ring']), 0, pane);
  expect(all.map(({ d }) => d.match(/z/g)?.length)).toEqual([2]);
});

test('the box under the pointer is the one whose middle is nearest', () => {
  const tracks = [shown('plate', 0, 100, 100), shown('ring', 1, 120, 100)];
  expect(boxAt(tracks, 0, pane, { x: 61, y: 70 })).toBe('plate');
  expect(boxAt(tracks, 0, pane, { x: 66, y: 70 })).toBe('ring');
  expect(boxAt(tracks, 0, pane, { x: 51, y: 74 })).toBe('plate');
  expect(boxAt(tracks, 0, pane, { x: 61, y: 76 })).toBeNull();
});
