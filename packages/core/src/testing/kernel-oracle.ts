import { expect } from '@jest/globals';
import fc from 'fast-check';
import { makePlane, type Plane } from '../track/image/plane.js';
import { TrackKernels } from '../kernels/track-kernels.js';
import { kernelModule } from './kernel-module.js';

// Globals are looked up once: in the test runner each look costs.
const { imul, floor, abs, max, cos, sin } = Math;

/** Kernels to be held against their plain twins, and how often. */
export const kernels = new TrackKernels(kernelModule());
export const gradientRuns = { numRuns: 60 };

/** Random levels, now rough, now smooth, now nearly flat, in rows with a gap after them. */
export const pictures = (least: number, most: number): fc.Arbitrary<Plane> =>
  fc
    .record({
      width: fc.integer({ min: least, max: most }),
      height: fc.integer({ min: least, max: most }),
      gap: fc.integer({ min: 0, max: 5 }),
      seed: fc.integer({ min: 1, max: 1e9 }),
      contrast: fc.constantFrom(1, 40, 255),
    })
    .map(({ width, height, gap, seed, contrast }) => {
      const stride = width + gap;
      const plane: Plane = { ...makePlane(stride, height), width, stride };
      let state = seed;
      plane.data.forEach((_, i) => {
        state = (imul(state, 1664525) + 1013904223) >>> 0;
        plane.data[i] = floor((state / 2 ** 32) * (contrast + 1));
      });
      return plane;
    });

export const put = (bytes: Uint8Array): number => {
  const at = kernels.alloc(bytes.length + 64);
  kernels.bytes(at, bytes.length).set(bytes);
  return at;
};
export const putFloats = (values: Float32Array): number => {
  const at = kernels.alloc(4 * values.length);
  kernels.floats(at, values.length).set(values);
  return at;
};
export const integers = (at: number, count: number): number[] => {
  const bytes = kernels.bytes(at, 4 * count).slice();
  return [...new Int32Array(bytes.buffer, bytes.byteOffset, count)];
};
export const doubles = (at: number, count: number): number[] =>
  Array.from({ length: count }, (_, i) => kernels.double(at, i));

/** Equal to single precision, seen against the largest of the numbers. */
export function expectAlike(got: ArrayLike<number>, wanted: ArrayLike<number>, precision = 2e-5): void {
  expect(got.length).toBe(wanted.length);
  let scale = 1;
  for (let i = 0; i < wanted.length; i++) if (abs(wanted[i]) > scale) scale = abs(wanted[i]);
  for (let i = 0; i < wanted.length; i++) {
    const same = got[i] !== got[i] ? wanted[i] !== wanted[i] : abs(got[i] - wanted[i]) <= precision * scale;
    if (!same) expect({ i, got: got[i] }).toEqual({ i, got: wanted[i] });
  }
}

/** A soft random picture, the same but moved by (dx, dy). */
export function softPicture(seed: number, width: number, height: number, dx: number, dy: number): Plane {
  const plane = makePlane(width, height);
  const waves = Array.from({ length: 12 }, (_, i) => {
    const turn = (imul(seed + i, 2654435761) >>> 0) / 2 ** 32;
    const pitch = 0.08 + 0.03 * i;
    return { a: pitch * cos(7 * turn + i), b: pitch * sin(7 * turn + i), c: 20 * turn };
  });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let level = 128;
      for (const { a, b, c } of waves) level += 14 * sin(a * (x - dx) + b * (y - dy) + c);
      plane.data[y * width + x] = max(0, floor(level + 0.5));
    }
  return plane;
}
