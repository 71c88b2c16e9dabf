import { expect, test } from '@jest/globals';
import { Distractors } from './distractors.js';

const here = { x: 100, y: 80 };
const own = { ...here, score: 0.96 };
const peak = (dx: number, dy: number, score: number) => ({ x: here.x + dx, y: here.y + dy, score });

test('places as good as the point are doubles, others are not', () => {
  const doubles = new Distractors();
  doubles.remember([own, peak(30, 0, 0.93), peak(0, 40, 0.6)], here);
  expect(doubles.strongest).toBeCloseTo(0.93 / 0.96, 9);
  expect(doubles.within(29)).toBe(false);
  expect(doubles.within(31)).toBe(true);
  // The weaker one is no danger at any distance.
  doubles.forget();
  doubles.remember([own, peak(0, 40, 0.6)], here);
  expect(doubles.within(500)).toBe(false);
  expect(doubles.strongest).toBeCloseTo(0.6 / 0.96, 9);
});

test('a leap towards a double is doubtful, one away from it or a short one is not', () => {
  const doubles = new Distractors();
  doubles.remember([own, peak(20, 0, 0.95)], here);
  expect(doubles.ambiguity({ x: 7, y: 0 })).toBe(1);
  expect(doubles.ambiguity({ x: 9, y: 0 })).toBeLessThan(1);
  expect(doubles.ambiguity({ x: 20, y: 3 })).toBeLessThan(1);
  expect(doubles.ambiguity({ x: -20, y: 0 })).toBe(1);
});

test('a search that has not seen the point itself says nothing', () => {
  const doubles = new Distractors();
  doubles.remember([peak(20, 0, 0.95)], here);
  expect(doubles.strongest).toBe(0);
});

test('a double stays in mind for some searches, and one seen again is one', () => {
  const doubles = new Distractors();
  doubles.remember([own, peak(20, 0, 0.95)], here);
  for (let k = 0; k < 5; k++) doubles.remember([own], here);
  expect(doubles.within(25)).toBe(true);
  doubles.remember([own, peak(21, 1, 0.9)], here);
  expect(doubles.strongest).toBeCloseTo(0.9 / 0.96, 9);
  for (let k = 0; k < 12; k++) doubles.remember([own], here);
  expect(doubles.within(25)).toBe(false);
});
