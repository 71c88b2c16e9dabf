import { expect, test } from '@jest/globals';
import { axesOf } from './axes.js';

test.each([
  [5, 1, 0.3],
  [2, -3, 1.2],
  [4, 0, -0.9],
])('what is made of the axes %d and %d, turned by %d, has them', (most, least, angle) => {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const axes = axesOf(most * c * c + least * s * s, (most - least) * c * s, most * s * s + least * c * c);
  expect(axes.most).toBeCloseTo(most, 9);
  expect(axes.least).toBeCloseTo(least, 9);
  expect(axes.angle).toBeCloseTo(angle, 9);
});
