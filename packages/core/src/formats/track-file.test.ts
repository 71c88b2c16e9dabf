import { expect, test } from '@jest/globals';
import { Reason } from '../track/sample-reason.js';
import { Samples, SampleState } from '../track/samples.js';
import { FormatError } from './format-error.js';
import { readTracksJson, writeTracksCsv, writeTracksJson } from './track-file.js';

const clip = {
  name: 'quay.mp4',
  width: 1920,
  height: 1080,
  frameRate: { numerator: 30000, denominator: 1001 },
  frames: 12,
};

function track(): Samples {
  const samples = new Samples(12);
  samples.set(4, { x: 10.5, y: 20.25, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
  samples.set(5, {
    x: 11.12345678,
    y: 20,
    confidence: 0.75,
    rotation: 0.01,
    scale: 1.5,
    state: SampleState.tracked,
    reason: Reason.covered,
  });
  return samples;
}

test('JSON says what was promised and reads back', () => {
  const text = writeTracksJson(clip, [{ name: 'plate', samples: track() }]);
  expect(JSON.parse(text)).toMatchObject({
    format: 'lurn-tracks',
    version: 1,
    clip: { name: 'quay.mp4', width: 1920, height: 1080, frameRate: '30000/1001', frames: 12 },
    tracks: [
      {
        name: 'plate',
        kind: 'point',
        samples: [
          { frame: 4, x: 10.5, y: 20.25, confidence: 1, state: 'placed' },
          { frame: 5, x: 11.1235, y: 20, confidence: 0.75, state: 'tracked', reason: 'covered' },
        ],
      },
    ],
  });
  const [back] = readTracksJson(text, clip);
  expect(back.name).toBe('plate');
  expect(back.samples.keys()).toEqual([4]);
  expect(back.samples.get(5)?.x).toBeCloseTo(11.1235, 9);
  expect([4, 5].map((k) => back.samples.get(k)?.reason)).toEqual([Reason.none, Reason.covered]);
});

test('a pose that is slanted and tilted comes back, and takes no room where there is none', () => {
  const slanted = { stretch: 0.03, shear: -0.02, tiltX: 1.25e-5, tiltY: -2e-6 };
  const samples = track();
  samples.set(6, {
    ...slanted,
    x: 1,
    y: 2,
    confidence: 1,
    rotation: 0,
    scale: 1,
    state: SampleState.tracked,
  });
  const text = writeTracksJson(clip, [{ name: 'sign', samples }]);
  const [back] = readTracksJson(text, clip);
  const found = back.samples.get(6);
  // Columns are of single precision.
  for (const name of ['stretch', 'shear', 'tiltX', 'tiltY'] as const)
    expect(found?.[name]).toBe(Math.fround(slanted[name]));
  expect(text.match(/"tiltX"/g)).toHaveLength(1);
  expect(writeTracksCsv([{ name: 'sign', samples }])).toContain(',0.03,-0.02,0.0000125,-0.000002');
});

test('CSV quotes names that need it', () => {
  const lines = writeTracksCsv([{ name: 'left, "upper"', samples: track() }]).split('\r\n');
  expect(lines[0]).toBe('track,frame,x,y,confidence,state,rotation,scale,reason,stretch,shear,tiltX,tiltY');
  expect(lines[1]).toBe('"left, ""upper""",4,10.5,20.25,1,placed,0,1,,,,,');
  expect(lines[2].endsWith(',tracked,0.01,1.5,covered,,,,')).toBe(true);
});

test.each([
  ['not JSON', '{', /not valid JSON/],
  ['another format', '{"format":"other"}', /not a track file/],
  ['a later version', '{"format":"lurn-tracks","version":7}', /version 7/],
  [
    'another clip',
    '{"format":"lurn-tracks","version":1,"clip":{"width":640,"height":480},"tracks":[]}',
    /640×480/,
  ],
  ['no list', '{"format":"lurn-tracks","version":1,"clip":{"width":1920,"height":1080}}', /no list "tracks"/],
  [
    'a frame outside',
    '{"format":"lurn-tracks","version":1,"clip":{"width":1920,"height":1080},"tracks":[{"name":"a","kind":"point","samples":[{"frame":12,"x":1,"y":1}]}]}',
    /frames 0 to 11/,
  ],
  [
    'no position',
    '{"format":"lurn-tracks","version":1,"clip":{"width":1920,"height":1080},"tracks":[{"name":"a","kind":"point","samples":[{"frame":1,"x":"left","y":1}]}]}',
    /no position/,
  ],
])('refuses %s with a sentence', (_, text, reason) => {
  expect(() => readTracksJson(text, clip)).toThrow(FormatError);
  expect(() => readTracksJson(text, clip)).toThrow(reason);
});
