import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { makePlane } from '../track/image/plane.js';
import { kernelModule } from '../testing/kernel-module.js';
import { kernels, gradientRuns, pictures, put, putFloats, expectAlike } from '../testing/kernel-oracle.js';
import { correlate, halvePlane, quantise } from './reference/correlation.js';
import { TrackKernels } from './track-kernels.js';

// Every kernel against its plain twin, on random pictures, sizes and borders: pictures, the search, and memory.
// Globals are looked up once: in the test runner each look costs.
const { floor } = Math;

test('halving', () => {
  fc.assert(
    fc.property(pictures(2, 70), (picture) => {
      const half = halvePlane(picture);
      const out = kernels.alloc(half.data.length + 64);
      kernels.halvePlane(put(picture.data), picture.stride, picture.width, picture.height, out);
      expect([...kernels.bytes(out, half.data.length)]).toEqual([...half.data]);
    }),
    gradientRuns,
  );
});

test('correlation at every position', () => {
  fc.assert(
    fc.property(pictures(3, 30), pictures(30, 44), (template, picture) => {
      const [columns, rows] = [picture.width - template.width + 1, picture.height - template.height + 1];
      const packed = kernels.alloc(16 + 2 * ((template.width + 7) & ~7) * template.height);
      kernels.packTemplate(put(template.data), template.stride, template.width, template.height, packed);
      const scores = kernels.alloc(4 * columns * rows);
      kernels.correlate(
        ...[
          packed,
          template.width,
          template.height,
          put(picture.data),
          picture.stride,
          columns,
          rows,
          scores,
        ],
      );
      const wanted = Array.from({ length: columns * rows }, (_, i) =>
        correlate(template, picture, i % columns, floor(i / columns)),
      );
      expectAlike(kernels.floats(scores, columns * rows), wanted, 1e-6);
    }),
    gradientRuns,
  );
});

test('boxes as large as are summed at once do not overflow', () => {
  // 181 x 181 is the last that is looked at in eight places at once.
  for (const size of [181, 183]) {
    const white = makePlane(size + 9, size + 1);
    white.data.fill(255).fill(0, 0, 90 * white.stride);
    const at = put(white.data);
    const packed = kernels.alloc(16 + 2 * 184 * size);
    kernels.packTemplate(at, white.stride, size, size, packed);
    const scores = kernels.alloc(4 * 20);
    kernels.correlate(packed, size, size, at, white.stride, 10, 2, scores);
    const found = kernels.floats(scores, 20);
    for (let i = 0; i < 20; i++) expect(found[i]).toBeCloseTo(i < 10 ? 1 : correlateMoved(size), 6);
  }
});

/** What a box that is black above, white below comes to one row lower. */
const correlateMoved = (size: number): number => {
  const [p, q] = [(size - 90) / size, (size - 89) / size];
  return (p - p * q) / Math.sqrt(p * (1 - p) * q * (1 - q));
};

test('the largest box does not overflow', () => {
  const white = makePlane(1001, 401);
  white.data.fill(255).fill(0, 0, 300 * 1001);
  const packed = kernels.alloc(16 + 2 * 1008 * 401);
  const at = put(white.data);
  kernels.packTemplate(at, 1001, 1001, 401, packed);
  const score = kernels.alloc(4);
  kernels.correlate(packed, 1001, 401, at, 1001, 1, 1, score);
  expect(kernels.floats(score, 1)[0]).toBeCloseTo(1, 6);
});

test('rounding to bytes', () => {
  fc.assert(
    fc.property(
      fc.float32Array({ minLength: 12, maxLength: 12, min: -50, max: 300, noDefaultInfinity: true }),
      (levels) => {
        const out = kernels.alloc(12 + 64);
        kernels.quantise(putFloats(levels), 4, 4, 3, 77, out);
        expect([...kernels.bytes(out, 12)]).toEqual([...quantise(levels, 77)]);
      },
    ),
    gradientRuns,
  );
});

test('memory that was freed is used again, and growing loses nothing', () => {
  const own = new TrackKernels(kernelModule());
  const first = own.alloc(1000);
  own.fill(first, 1000, 7);
  own.free(first, 1000);
  expect(own.alloc(990)).toBe(first);
  const far = own.alloc(5e6);
  own.fill(far, 5e6, 9);
  expect([own.bytes(first, 1000)[999], own.bytes(far, 5e6)[5e6 - 1]]).toEqual([7, 9]);
});

test('an address outside the memory is refused, not read', () => {
  expect(() => kernels.halvePlane(4e9, 64, 64, 64, 0)).toThrow();
});
