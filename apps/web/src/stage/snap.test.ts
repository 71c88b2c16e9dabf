import { expect, test } from '@jest/globals';
import { isNear, nudgeBy, snapToDirection, snapToLines } from './snap.js';

test('a point is brought onto the nearest line of those in reach', () => {
  const lines = { xs: [0, 100, 104], ys: [50] };
  expect(snapToLines({ x: 103, y: 80 }, lines, { x: 5, y: 5 })).toEqual({ x: 104, y: 80 });
  expect(snapToLines({ x: 90, y: 47 }, lines, { x: 5, y: 5 })).toEqual({ x: 90, y: 50 });
});

test('a nearly level line becomes level, a slanting one stays', () => {
  const from = { x: 10, y: 10 };
  const level = snapToDirection(from, { x: 110, y: 12 }, 0.05);
  expect(level.y).toBe(10);
  expect(level.x).toBeCloseTo(110, 9);
  expect(snapToDirection(from, { x: 110, y: 40 }, 0.05)).toEqual({ x: 110, y: 40 });
});

test('arrow keys move by a tenth, by one and by ten pixels', () => {
  const press = (key: string, altKey = false, shiftKey = false) => nudgeBy({ key, altKey, shiftKey });
  expect([
    press('ArrowLeft'),
    press('ArrowDown', true),
    press('ArrowRight', false, true),
    press('a'),
  ]).toEqual([{ x: -1, y: 0 }, { x: 0, y: 0.1 }, { x: 10, y: 0 }, null]);
  expect(isNear({ x: 0, y: 0 }, { x: 6, y: 6 })).toBe(true);
});
