import { expect, test } from '@jest/globals';
import { LayerRecord } from './layer/layer.js';
import { idsIn, mapIds, withoutIds } from './references.js';
import { TrackRecord } from './track.js';

const spline = { knots: [] };
const carrier = { kind: 'tracks', trackIds: ['plate', 'ring'] };
const layer = {
  carrier,
  shape: { carrier: { ...carrier, trackIds: ['ring'] }, parts: [] },
  content: { kind: 'clip', clip: 'quay' },
  matte: { keep: 'outside', regionId: 'board', feather: 2 },
  keys: [],
};
const track = {
  id: 'board',
  region: {
    holdOuts: [
      { frame: 0, spline, trackId: 'pole' },
      { frame: 0, spline },
    ],
  },
};

test('every name of another record is found, whatever it lies in', () => {
  expect(idsIn(LayerRecord, layer)).toEqual(['plate', 'ring', 'quay', 'ring', 'board']);
  expect(idsIn(TrackRecord, track)).toEqual(['pole']);
});

test('names are put in place of others, and nothing else is touched', () => {
  const mapped = mapIds(LayerRecord, layer, (id) => `${id}-2`);
  expect(mapped).toEqual({
    ...layer,
    carrier: { ...carrier, trackIds: ['plate-2', 'ring-2'] },
    shape: { parts: [], carrier: { ...carrier, trackIds: ['ring-2'] } },
    content: { kind: 'clip', clip: 'quay-2' },
    matte: { ...layer.matte, regionId: 'board-2' },
  });
  expect(mapIds(TrackRecord, track, (id) => `${id}-2`).region.holdOuts).toEqual([
    { frame: 0, spline, trackId: 'pole-2' },
    { frame: 0, spline },
  ]);
  // The clip itself has no name; tracks that become one are named once.
  expect(mapIds(LayerRecord, { content: { kind: 'clip', clip: '' } }, () => 'x').content.clip).toBe('');
  expect(mapIds(LayerRecord, { carrier }, () => 'one').carrier.trackIds).toEqual(['one']);
});

test('what is gone is named no more: what must name it goes, what rides on others goes on', () => {
  const left = withoutIds(LayerRecord, layer, new Set(['ring', 'board']));
  expect(left.carrier.trackIds).toEqual(['plate']);
  expect(left.matte).toBeNull();
  // It rides on nothing that there is, and says so still.
  expect(left.shape.carrier.trackIds).toEqual(['ring']);
  expect(withoutIds(TrackRecord, track, new Set(['pole'])).region.holdOuts[0]).toEqual({ frame: 0, spline });
});
