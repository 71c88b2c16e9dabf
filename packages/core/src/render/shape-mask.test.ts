import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { MaskRecipe } from '../dress/operation.js';
import { distanceToEdge, isInside } from '../geometry/closed-spline.js';
import { coverageOf, maskBox, maskIn } from './shape-mask.js';

const box = { left: 0, top: 0, right: 32, bottom: 24 };
const width = 32;

const convex = fc
  .tuple(
    fc.double({ min: 3, max: 9, noNaN: true }),
    fc.double({ min: 0, max: 1, noNaN: true }),
    fc.integer({ min: 3, max: 9 }),
  )
  .map(([radius, turn, corners]) =>
    Array.from({ length: corners }, (_, i) => ({
      x: 15.3 + radius * Math.cos(turn + (2 * Math.PI * i) / corners),
      y: 11.7 + radius * Math.sin(turn + (2 * Math.PI * i) / corners),
    })),
  );

test('coverage is the area that a polygon has of each pixel', () => {
  const parts = 16;
  fc.assert(
    fc.property(convex, (points) => {
      const covered = coverageOf(points, box);
      for (let y = 2; y < 22; y += 3)
        for (let x = 2; x < 30; x++) {
          let inside = 0;
          for (let j = 0; j < parts; j++)
            for (let i = 0; i < parts; i++)
              inside += Number(isInside(points, { x: x + (i + 0.5) / parts, y: y + (j + 0.5) / parts }));
          // The counted area is itself off by up to half a row of its own squares.
          expect(Math.abs(covered[y * width + x] - inside / parts ** 2)).toBeLessThan(0.07);
        }
    }),
    { seed: 3, numRuns: 20 },
  );
});

const recipe = (part: Partial<MaskRecipe>): MaskRecipe => ({
  outlines: [],
  featherIn: 0,
  featherOut: 0,
  choke: 0,
  invert: false,
  ...part,
});

test('a feather beyond the outline leaves all within it whole, and is gone where it ends', () => {
  fc.assert(
    fc.property(convex, fc.double({ min: 1, max: 5, noNaN: true }), (points, featherOut) => {
      const { alpha } = maskIn(recipe({ outlines: [{ points, cut: false }], featherOut }), box);
      for (let y = 0; y < 24; y++)
        for (let x = 0; x < width; x++) {
          const p = { x: x + 0.5, y: y + 0.5 };
          const off = distanceToEdge(points, p);
          const within = isInside(points, p);
          if (within && off > 0.75) expect(alpha[y * width + x]).toBeGreaterThan(0.99);
          if (!within && off > featherOut + 0.75) expect(alpha[y * width + x]).toBe(0);
        }
    }),
    { seed: 4, numRuns: 20 },
  );
});

const square = [
  { x: 8, y: 6 },
  { x: 24, y: 6 },
  { x: 24, y: 18 },
  { x: 8, y: 18 },
];

test('choke draws the outline in, spread draws it out; what is cut is not seen; inverted is the rest', () => {
  const at = (part: Partial<MaskRecipe>, x: number, y = 12): number =>
    maskIn(recipe({ outlines: [{ points: square, cut: false }], ...part }), box).alpha[y * width + x];
  expect([at({}, 8), at({}, 7)]).toEqual([1, 0]);
  expect([at({ choke: 3 }, 9), at({ choke: 3 }, 12)]).toEqual([0, 1]);
  expect([at({ choke: -3 }, 6), at({ choke: -3 }, 3)]).toEqual([1, 0]);
  const hole = [
    { points: square, cut: false },
    { points: square.map(({ x, y }) => ({ x: 16 + (x - 16) / 2, y: 12 + (y - 12) / 2 })), cut: true },
  ];
  expect([at({ outlines: hole }, 9), at({ outlines: hole }, 16)]).toEqual([1, 0]);
  expect([at({ invert: true }, 16), at({ invert: true }, 2)]).toEqual([0, 1]);
});

test('a mask is looked for no farther than it reaches, on even pixels', () => {
  const found = maskBox(recipe({ outlines: [{ points: square, cut: false }], featherOut: 3 }), {
    width: 32,
    height: 24,
  });
  expect(found).toEqual({ left: 2, top: 0, right: 30, bottom: 24 });
  expect(
    maskBox(recipe({ invert: true, outlines: [{ points: square, cut: false }] }), { width: 32, height: 24 }),
  ).toEqual(box);
  const away = square.map(({ x, y }) => ({ x: x + 100, y }));
  expect(maskBox(recipe({ outlines: [{ points: away, cut: false }] }), { width: 32, height: 24 })).toBeNull();
});
