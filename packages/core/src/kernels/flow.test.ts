import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Plane } from '../track/image/plane.js';
import {
  kernels,
  gradientRuns,
  pictures,
  put,
  doubles,
  expectAlike,
  softPicture,
} from '../testing/kernel-oracle.js';
import { halvePlane } from './reference/correlation.js';
import { cornerScore, flow as plainFlow } from './reference/flow.js';
import { deviationIn, slopeIn } from './reference/windows.js';

// The kernels that look at whole pictures against their plain twins, on random pictures, sizes and borders.
// Globals are looked up once: in the test runner each look costs.
const { floor, abs, max } = Math;

function pyramid(plane: Plane, levels: number): Plane[] {
  const all = [plane];
  while (all.length < levels) all.push(halvePlane(all[all.length - 1]));
  return all;
}

const brighter = (plane: Plane, by: number): Plane => ({
  ...plane,
  data: plane.data.map((level) => Math.min(level + by, 255)),
});

const levelTable = (planes: readonly Plane[]): number => {
  const at = kernels.alloc(16 * planes.length);
  const rows = planes.map((p) => [put(p.data), p.width, p.height, p.stride]);
  new Int32Array(kernels.bytes(at, 16 * planes.length).buffer, at, 4 * planes.length).set(rows.flat());
  return at;
};

test('sparse flow, also where windows leave the picture', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.double({ min: -6, max: 6, noNaN: true }),
      fc.double({ min: -6, max: 6, noNaN: true }),
      fc.constantFrom(7, 15, 21, 31),
      fc.boolean(),
      (seed, dx, dy, window, centred) => {
        const before = pyramid(softPicture(seed, 120, 96, 0, 0), 3);
        const after = pyramid(brighter(softPicture(seed, 120, 96, dx, dy), centred ? 12 : 0), 3);
        const points = [
          { x: 60.5, y: 48.5 },
          { x: 41.2, y: 60.8 },
          { x: 14.5, y: 80.5 },
          { x: 3.5, y: 3.5 },
        ];
        const coordinates = new Float64Array(points.flatMap(({ x, y }) => [x, y]));
        const bytes = new Uint8Array(coordinates.buffer);
        const [from, to] = [put(bytes), put(bytes)];
        const residuals = kernels.alloc(4 * points.length);
        const tables = [levelTable(before), levelTable(after)];
        kernels.flow(...tables, 3, from, to, points.length, window, 20, 0.001, residuals, +centred);
        points.forEach((point, i) => {
          const wanted = plainFlow(before, after, point, point, window, 20, 0.001, centred);
          expectAlike(doubles(to + 16 * i, 2), [wanted.x, wanted.y], 1e-4);
          const [residual] = kernels.floats(residuals + 4 * i, 1);
          // The kernel blends with weights of 1/128.
          expect(abs(residual - wanted.residual)).toBeLessThan(0.6);
          expect(residual < 0).toBe(wanted.residual < 0);
        });
      },
    ),
    gradientRuns,
  );
});

test.each([0, 12])('sparse flow finds a known shift to a fiftieth of a pixel, %d levels brighter', (lift) => {
  const before = pyramid(softPicture(5, 160, 120, 0, 0), 3);
  const after = pyramid(brighter(softPicture(5, 160, 120, 4.37, -2.81), lift), 3);
  const point = new Uint8Array(new Float64Array([80.5, 60.5]).buffer);
  const to = put(point);
  const tables = [levelTable(before), levelTable(after)];
  kernels.flow(...tables, 3, put(point), to, 1, 21, 20, 0.001, kernels.alloc(4), 1);
  const [x, y] = doubles(to, 2);
  expect(abs(x - 84.87)).toBeLessThan(0.02);
  expect(abs(y - 57.69)).toBeLessThan(0.02);
});

test('slope and deviation of windows, also over the border', () => {
  const places = fc.array(
    fc.record({
      x: fc.double({ min: -4, max: 60, noNaN: true }),
      y: fc.double({ min: -4, max: 60, noNaN: true }),
    }),
    {
      minLength: 1,
      maxLength: 6,
    },
  );
  fc.assert(
    fc.property(pictures(3, 50), places, fc.constantFrom(3, 9, 15, 31), (picture, points, window) => {
      const { data, width, height, stride } = picture;
      const coordinates = new Float64Array(points.flatMap(({ x, y }) => [x, y]));
      const out = kernels.alloc(8 * points.length);
      const at = put(new Uint8Array(coordinates.buffer));
      kernels.windowTexture(put(data), stride, width, height, at, points.length, window, out);
      points.forEach((point, i) => {
        const wanted = [slopeIn(picture, point, window), deviationIn(picture, point, window)];
        // Singles.
        expectAlike(kernels.floats(out + 8 * i, 2), wanted, 1e-3);
      });
    }),
    gradientRuns,
  );
});

test('the best corner of every cell, on every second row', () => {
  fc.assert(
    fc.property(pictures(20, 70), fc.constantFrom(8, 16), (picture, cell) => {
      const { width, height } = picture;
      const [columns, rows] = [floor(width / cell), floor(height / cell)];
      const out = kernels.alloc(12 * columns * rows);
      const scratch = kernels.alloc(76 * (width + 16));
      kernels.cornerCells(put(picture.data), picture.stride, width, height, cell, scratch, out);
      const got = kernels.floats(out, 3 * columns * rows);
      for (let row = 0; row < rows; row++)
        for (let column = 0; column < columns; column++) {
          let best = -1;
          for (let y = row * cell; y < (row + 1) * cell; y++)
            for (let x = column * cell; x < (column + 1) * cell; x++) {
              if (x < 5 || y < 6 || y % 2 === 1 || x >= width - 5 || y >= height - 4) continue;
              best = max(best, cornerScore(picture, x, y));
            }
          const [score, x, y] = got.subarray(3 * (row * columns + column));
          expect(abs(score - best)).toBeLessThan(1e-3 * max(1, best) + 0.05);
          if (score >= 0)
            expect(abs(cornerScore(picture, x, y) - score)).toBeLessThan(1e-3 * max(1, best) + 0.05);
        }
    }),
    gradientRuns,
  );
});
