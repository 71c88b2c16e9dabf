import { expect, test } from '@jest/globals';
import { identity, multiply, translation, type Mat3 } from '../../geometry/mat3.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import type { SceneChange } from '../scene/scene-motion.js';
import { PointState } from './gating.js';

const at = translation(100, 50);
const origin = { x: 0, y: 0 };
const grown = (scale: number, rotation = 0): Mat3 =>
  multiply(at, similarityMatrix({ x: 0, y: 0, rotation, scale }, origin));

function placed(): PointState {
  const point = new PointState();
  point.begin(at);
  return point;
}

/** One that has been seen where it was expected, and gone with the picture, for a while. */
function settled(): PointState {
  const point = placed();
  for (let k = 0; k < 20; k++) {
    point.predictor.seen(origin, origin, origin);
    point.predictor.compare(origin, origin);
  }
  return point;
}

const still: SceneChange = { motion: identity, cut: false };
const moving = (x: number): SceneChange => ({ motion: translation(x, 0), cut: false });

test('the more is known of its course, the nearer it must be to be believed', () => {
  const nothing = (): undefined => undefined;
  // Three pixels of surprise to begin with; two pixels and four times the least of it in the end.
  expect(placed().believes({ x: 13, y: 0 }, false, nothing)).toBe(true);
  expect(placed().believes({ x: 15, y: 0 }, false, nothing)).toBe(false);
  expect(settled().believes({ x: 4, y: 0 }, false, nothing)).toBe(true);
  expect(settled().believes({ x: 6, y: 0 }, false, nothing)).toBe(false);
  expect(settled().believes({ x: 30, y: 0 }, false, () => moving(29))).toBe(true);
});

test('near a double the flow is believed only where the whole picture says the same', () => {
  const point = settled();
  const peaks = [
    { x: 100, y: 50, score: 1 },
    { x: 106, y: 50, score: 0.95 },
  ];
  point.distractors.remember(peaks, { x: 100, y: 50 });
  expect(point.believes({ x: 4, y: 0 }, true, () => still)).toBe(false);
  expect(point.believes({ x: 4, y: 0 }, true, () => moving(4))).toBe(true);
});

test('what the whole picture, or another great part of it, has done is no leap', () => {
  const point = settled();
  const there = translation(130, 50);
  expect(point.isLeap(translation(103, 50), at, () => still)).toBe(false);
  expect(point.isLeap(there, at, () => undefined)).toBe(true);
  expect(point.isLeap(there, at, () => still)).toBe(true);
  expect(point.isLeap(there, at, () => moving(30))).toBe(false);
  expect(point.isLeap(there, at, () => ({ ...still, other: translation(30, 0) }))).toBe(false);
});

test('from one picture to the next nothing grows by a tenth or turns by ten degrees, unless it was missing', () => {
  const point = placed();
  expect(point.isPlausible(grown(1.05, 0.1))).toBe(true);
  expect(point.isPlausible(grown(1.1))).toBe(false);
  expect(point.isPlausible(grown(1, 0.18))).toBe(false);
  // All the way round is where it was.
  point.begin(grown(1, 3.1));
  expect(point.isPlausible(grown(1, -3.1))).toBe(true);
  for (let k = 0; k < 5; k++) point.predictor.lost();
  expect(point.isPlausible(grown(1.1, 3.1))).toBe(true);
});
