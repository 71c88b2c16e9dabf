import { expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { stillMotion } from '../solve/motion.js';
import { readMotionJson, writeMotionJson } from '../formats/motion-file.js';
import { fullStrength } from './correct.js';
import { reportOf } from './report.js';
import { steadyMotion } from './steady.js';

const size = { width: 400, height: 200 };
const frames = 40;

/** From side to side by three pixels, every frame. */
function trembling() {
  const motion = stillMotion(frames, 0, { x: 200, y: 100 });
  for (let k = 0; k < frames; k++) motion.matrices[9 * k + 2] = k % 2 ? 3 : -3;
  return motion;
}

const settings = {
  mode: 'hold' as const,
  model: 'auto' as const,
  kind: 'even' as const,
  smoothSeconds: 1,
  channels: { x: true, y: true, rotation: true, scale: true },
  strength: fullStrength,
  referenceFrame: 0,
  range: { first: 5, last: 34 },
  framing: { zoom: 1.25, offsetX: 0, offsetY: 0 },
};

test('shake before and after, and what the zoom costs', () => {
  const clip = { ...size, times: evenTimes(frames, 25), pixelAspect: '1:1' };
  const { report, placements, motion } = steadyMotion(trembling(), clip, settings);
  // Three pixels to one side, then to the other: twelve pixels of second difference each time.
  expect(report.shakeBefore).toBeCloseTo(12, 9);
  expect(report.shakeAfter).toBeCloseTo(0, 9);
  expect(report.lost).toBeCloseTo(1 - 1 / 1.25 ** 2, 9);
  // Each output pixel is made of 0.8 source pixels along a side.
  expect(report.softer).toBeCloseTo(0.2, 9);
  expect(report.sharpest.pixels).toBeCloseTo(0.8, 9);
  // The same comes out of the file.
  const facts = { name: 'a', ...size, frames, frameRate: { numerator: 25, denominator: 1 } };
  const file = readMotionJson(writeMotionJson(facts, motion, placements, 5, 34), facts);
  expect(file.first).toBe(5);
  expect(reportOf(file, size).shakeBefore).toBeCloseTo(12, 9);
});

test('a file that is no motion of this clip is refused with what is wrong', () => {
  const facts = { name: 'a', ...size, frames, frameRate: { numerator: 25, denominator: 1 } };
  const good = writeMotionJson(facts, trembling(), trembling().matrices, 0, 3);
  const read =
    (text: string, clip = facts) =>
    () =>
      readMotionJson(text, clip);
  expect(read('{')).toThrow(/not valid JSON/);
  expect(read('{"format":"lurn-tracks"}')).toThrow(/not "lurn-motion"/);
  expect(read(good.replace('"version": 1', '"version": 9'))).toThrow(/version 9/);
  expect(read(good, { ...facts, width: 500 })).toThrow(/400×200 pixels; this clip has 500×200/);
  expect(read(good, { ...facts, frames: 2 })).toThrow(/frame 2 is out of order or beyond/);
  const { frames: rows, ...rest } = JSON.parse(good) as { frames: object[] };
  expect(read(JSON.stringify({ ...rest, frames: [] }))).toThrow(/lists no frames/);
  expect(read(JSON.stringify({ ...rest, frames: [{ ...rows[0], outputFromFrame: [1] }] }))).toThrow(
    /Frame 0 of the motion file has no matrix "outputFromFrame"/,
  );
});
