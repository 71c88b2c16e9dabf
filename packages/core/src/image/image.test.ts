import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { sampleCubic } from './cubic.js';
import { samplePatch } from './patch.js';
import { cropPlane, halvePlane, makePlane, type Plane } from './plane.js';

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

test('a crop over the border repeats the nearest pixel', () => {
  const plane = ramp(4, 4, 10, 1);
  const crop = cropPlane(plane, -2, 2, 5, 4);
  expect([...crop.data.subarray(0, 5)]).toEqual([22, 22, 22, 32, 42]);
  expect([...crop.data.subarray(15, 20)]).toEqual([23, 23, 23, 33, 43]);
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
  const seen = new Float32Array(11 * 9);
  const pose = { x: 28.3, y: 24.7, a: 1.1 * Math.cos(0.3), b: 1.1 * Math.sin(0.3) };
  expect(samplePatch(plane, pose, 11, 9, interpolation, seen)).toBe(99);
  for (let v = -4, i = 0; v <= 4; v++) {
    for (let u = -5; u <= 5; u++, i++) {
      const x = pose.x + pose.a * u - pose.b * v;
      const y = pose.y + pose.b * u + pose.a * v;
      expect(seen[i]).toBeCloseTo(20 + 2 * (x - 0.5) + (y - 0.5), 3);
    }
  }
});

test('what of a box hangs over the border is not a number, and is not counted', () => {
  const seen = new Float32Array(9 * 9);
  const inside = samplePatch(ramp(30, 30, 1, 1), { x: 0.5, y: 15.5, a: 1, b: 0 }, 9, 9, 'cubic', seen);
  expect(inside).toBe(5 * 9);
  expect(seen.filter(Number.isNaN)).toHaveLength(4 * 9);
});
