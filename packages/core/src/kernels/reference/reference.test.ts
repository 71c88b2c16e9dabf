import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, type Mat3 } from '../../geometry/mat3.js';
import { makePlane, type Plane } from '../../track/image/plane.js';
import { halvePlane } from './correlation.js';
import { sampleCubic } from './cubic.js';
import { samplePatch } from './registration.js';

/** A tilted plane of grey: every sensible interpolation gives it back exactly. */
function ramp(width: number, height: number, dx: number, dy: number): Plane {
  const plane = makePlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) plane.data[y * width + x] = 20 + dx * x + dy * y;
  return plane;
}

test('halving takes the rounded mean of four, and drops what is left over', () => {
  const plane = makePlane(5, 3);
  plane.data.set([1, 2, 3, 4, 9, 5, 6, 7, 8, 9, 9, 9, 9, 9, 9]);
  const half = halvePlane(plane);
  expect([half.width, half.height, ...half.data]).toEqual([2, 1, 4, 6]);
});

test('cubic sampling gives pixels back at their centres and slopes exactly between them', () => {
  const plane = ramp(40, 30, 3, 2);
  fc.assert(
    fc.property(
      fc.double({ min: 3, max: 36, noNaN: true }),
      fc.double({ min: 3, max: 26, noNaN: true }),
      (x, y) => {
        expect(sampleCubic(plane, x, y)).toBeCloseTo(20 + 3 * (x - 0.5) + 2 * (y - 0.5), 6);
      },
    ),
  );
});

test.each(['linear', 'cubic'] as const)('%s: a turned box sees the slope where it lies', (interpolation) => {
  const plane = ramp(60, 50, 2, 1);
  const [a, b] = [1.1 * Math.cos(0.3), 1.1 * Math.sin(0.3)];
  const m: Mat3 = [a, -b, 28.3, b, a, 24.7, 0, 0, 1];
  const seen = samplePatch(plane, { left: 2, top: 2, right: 58, bottom: 48 }, 11, 9, m, interpolation);
  for (let v = -4; v <= 4; v++) {
    for (let u = -5; u <= 5; u++) {
      const { x, y } = apply(m, u, v);
      expect(seen[(v + 4) * 12 + u + 5]).toBeCloseTo(20 + 2 * (x - 0.5) + (y - 0.5), 3);
    }
  }
});

test('what of a box hangs over the border is not a number', () => {
  const m: Mat3 = [1, 0, 0.5, 0, 1, 15.5, 0, 0, 1];
  const plane = ramp(30, 30, 1, 1);
  const seen = samplePatch(plane, { left: 0, top: 0, right: 30, bottom: 30 }, 9, 9, m, 'cubic');
  // Four columns outside, three of padding, in each of nine rows.
  expect(seen.filter(Number.isNaN)).toHaveLength(7 * 9);
});
