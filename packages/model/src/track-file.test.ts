import { expect, test } from '@jest/globals';
import {
  cornerKnot,
  cornersFromCentre,
  FormatError,
  Reason,
  regionOn,
  Samples,
  SampleState,
  writeTracksCsv,
  writeTracksJson,
} from '@lurn/core';
import { readTracksJson } from './track-file.js';

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
  expect(writeTracksCsv([{ name: 'sign', samples }], clip)).toContain(',0.03,-0.02,0.0000125,-0.000002');
});

test('CSV quotes names that need it', () => {
  const lines = writeTracksCsv([{ name: 'left, "upper"', samples: track() }], clip).split('\r\n');
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

test('a region tells its matrix and its corners, and is read as it was written', () => {
  const corners = [
    { x: 10, y: 10 },
    { x: 90, y: 10 },
    { x: 90, y: 60 },
    { x: 10, y: 60 },
  ];
  const region = regionOn(0, [{ knots: corners.map(cornerKnot) }]);
  const samples = new Samples(2);
  samples.corners = cornersFromCentre(region);
  const placed = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };
  samples.set(0, { ...region.centre, ...placed });
  samples.set(1, {
    x: 60,
    y: 40,
    rotation: Math.PI / 2,
    scale: 1,
    confidence: 0.9,
    state: SampleState.tracked,
  });
  const named = [{ name: 'board', samples, region }];
  const file = JSON.parse(writeTracksJson(clip, named)) as {
    tracks: { kind: string; samples: { frameFromKey: number[]; corners: number[] }[] }[];
  };
  const [track] = file.tracks;
  expect(track.kind).toBe('region');
  // A quarter turn about the middle (50, 35), which has gone to (60, 40).
  expect(track.samples[1].corners).toEqual([85, 0, 85, 80, 35, 80, 35, 0]);
  const [m] = [track.samples[1].frameFromKey];
  expect([m[0] * 10 + m[1] * 10 + m[2], m[3] * 10 + m[4] * 10 + m[5]].map(Math.round)).toEqual([85, 0]);
  const [again] = readTracksJson(JSON.stringify(file), clip);
  expect(again.region?.quad).toEqual(region.quad);
  // Turns are written to a millionth.
  again.samples.cornersAt(1).forEach(({ x, y }, i) => {
    const { x: wantedX, y: wantedY } = samples.cornersAt(1)[i];
    expect(Math.hypot(x - wantedX, y - wantedY)).toBeLessThan(1e-3);
  });
  const [heading, , line] = writeTracksCsv(named, clip).split('\r\n');
  expect(heading.endsWith('lowerLeftX,lowerLeftY,lowerLeftXPercent,lowerLeftYPercent')).toBe(true);
  expect(line.split(',').slice(-4).map(Number)).toEqual([35, 0, 1.8229, 0]);
});

test.each([
  [{}, 'Region "board": "frame" is a whole number'],
  [{ frame: 0, outlines: [] }, 'Region "board": "outlines" takes 1 or more.'],
  [
    { frame: 0, outlines: [{ frame: 0, splines: [{ knots: [{ x: 1, y: 1 }] }] }] },
    'Region "board": "outlines.0.splines.0.knots" takes 3 or more.',
  ],
])('a region that cannot be read is named: %j', (region, sentence) => {
  const file = {
    format: 'lurn-tracks',
    version: 1,
    clip,
    tracks: [{ name: 'board', kind: 'region', region, samples: [] }],
  };
  expect(() => readTracksJson(JSON.stringify(file), clip)).toThrow(sentence);
});
