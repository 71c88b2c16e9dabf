import { expect, test } from '@jest/globals';
import { durationOf, startOf } from '@lurn/core';
import {
  frameTime,
  frameTimes,
  IndexBuilder,
  keyAtOrBefore,
  parseShownFrame,
  parseTimeBase,
  type ClipIndex,
} from './clip-index.js';
import { proxyRate, proxySize } from './index-clip.js';

const line =
  '[Parsed_showinfo_0 @ 0x55] n:   7 pts:   7007 pts_time:0.233567 duration:   1001 fmt:yuv420p sar:1/1 s:1920x1080 i:P iskey:1 type:I';

test('a line about a frame is read, others are passed over', () => {
  expect(parseShownFrame(line)).toEqual({ pts: 7007, key: true });
  expect(parseShownFrame(line.replace('iskey:1', 'iskey:0'))).toEqual({ pts: 7007, key: false });
  expect(parseShownFrame(line.replace('7007 ', '-512 '))?.pts).toBe(-512);
  expect(parseShownFrame('[Parsed_showinfo_0 @ 0x55] color_range:tv color_space:bt709')).toBeNull();
  expect(
    parseTimeBase('[Parsed_showinfo_0 @ 0x5] config in time_base: 1/30000, frame_rate: 30000/1001'),
  ).toEqual({ numerator: 1, denominator: 30000 });
  expect(parseTimeBase(line)).toBeNull();
});

test('the builder keeps order and clock', () => {
  const builder = new IndexBuilder();
  expect(builder.take('config in time_base: 1/30000, frame_rate: 30000/1001')).toBe(false);
  for (let n = 0; n < 4; n++) {
    expect(
      builder.take(line.replace('7007', `${1001 * n}`).replace('iskey:1', `iskey:${n === 2 ? 1 : 0}`)),
    ).toBe(true);
  }
  const index = builder.build();
  expect([...index.pts]).toEqual([0, 1001, 2002, 3003]);
  expect([...index.key]).toEqual([0, 0, 1, 0]);
  expect(frameTime(index, 3)).toBeCloseTo(0.1001, 9);
});

test('decoding starts at the last key before a frame, or at the start', () => {
  const index: ClipIndex = {
    timeBase: { numerator: 1, denominator: 25 },
    pts: Float64Array.of(0, 1, 2, 3, 4),
    key: Uint8Array.of(0, 1, 0, 1, 0),
  };
  expect([0, 1, 2, 3, 4].map((frame) => keyAtOrBefore(index, frame))).toEqual([0, 1, 1, 3, 3]);
});

test.each([
  [
    { width: 1920, height: 1080 },
    { width: 960, height: 540 },
  ],
  [
    { width: 1080, height: 1920 },
    { width: 960, height: 1706 },
  ],
  [
    { width: 640, height: 360 },
    { width: 640, height: 360 },
  ],
  [
    { width: 161, height: 91 },
    { width: 162, height: 92 },
  ],
  [
    { width: 7680, height: 16 },
    { width: 960, height: 2 },
  ],
])('the proxy of %j is %j', (clip, proxy) => expect(proxySize(clip)).toEqual(proxy));

test('the proxy counts in whole frames a second', () => {
  expect(proxyRate({ frameRate: { numerator: 30000, denominator: 1001 } })).toBe(30);
  expect(proxyRate({ frameRate: { numerator: 1, denominator: 4 } })).toBe(1);
});

test('where frames come unevenly each is told by its own time, the last as long as the stream says', () => {
  const index = (...pts: number[]): ClipIndex => ({
    timeBase: { numerator: 1, denominator: 10 },
    pts: Float64Array.from(pts),
    key: new Uint8Array(pts.length),
  });
  const clip = { frameRate: { numerator: 10, denominator: 1 }, pictureDuration: null };
  expect(frameTimes(index(5, 6, 7), clip)).toEqual({ frames: 3, framesPerSecond: 10, starts: null });
  const uneven = frameTimes(index(5, 6, 25), clip);
  [0, 0.1, 2].forEach((t, k) => expect(startOf(uneven, k)).toBeCloseTo(t, 12));
  // As long as the one before, where nothing else is known.
  expect(durationOf(uneven)).toBeCloseTo(3.9, 12);
  expect(durationOf(frameTimes(index(5, 6, 25), { ...clip, pictureDuration: 2.5 }))).toBeCloseTo(2.5, 12);
  // A stream that claims to end before its last frame is not believed, nor are times that do not rise.
  expect(durationOf(frameTimes(index(5, 6, 25), { ...clip, pictureDuration: 1 }))).toBeCloseTo(3.9, 12);
  expect(frameTimes(index(5, 25, 6), clip).starts).toBeNull();
  expect(frameTimes(index(5, NaN, 25), clip).starts).toBeNull();
});
