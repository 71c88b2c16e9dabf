import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, identity, translation, type Mat3 } from '../geometry/mat3.js';
import { bareEdges, edges, framingMatrix, noFraming, overhang, place } from './framing.js';

const size = { width: 800, height: 600 };

test('zoom is about the middle of the picture, offsets are output pixels', () => {
  const m = framingMatrix({ zoom: 2, offsetX: 10, offsetY: -6 }, size);
  expect(apply(m, 400, 300)).toEqual({ x: 410, y: 294 });
  expect(apply(m, 0, 0)).toEqual({ x: -390, y: -306 });
});

test('a standing picture has no overhang; a shifted one has as much as it was shifted, on the side it left', () => {
  expect(overhang(identity, size)).toEqual([0, 0, 0, 0]);
  fc.assert(
    fc.property(fc.integer({ min: -300, max: 300 }), fc.integer({ min: -300, max: 300 }), (dx, dy) => {
      const over = overhang(translation(dx, dy), size);
      // Moved to the right, the output's left side lies outside the frame.
      expect(over[edges.indexOf('left')]).toBe(Math.max(0, dx));
      expect(over[edges.indexOf('right')]).toBe(Math.max(0, -dx));
      expect(over[edges.indexOf('top')]).toBe(Math.max(0, dy));
      expect(over[edges.indexOf('bottom')]).toBe(Math.max(0, -dy));
    }),
  );
});

test('bare edges come worst first, from the range alone', () => {
  const corrections = Float64Array.from([0, 3, -9, 40, 0].flatMap((dx) => [...translation(dx, 0)]));
  const placements = place(corrections, noFraming, size);
  const bare = bareEdges(placements, 0, 4, size);
  expect(bare.map(({ frame, edge, pixels }) => [frame, edge, pixels])).toEqual([
    [3, 'left', 40],
    [2, 'right', 9],
    [1, 'left', 3],
  ]);
  expect(bareEdges(placements, 0, 2, size).map((b) => b.frame)).toEqual([2, 1]);
});

test('placing applies the correction first, the framing after it', () => {
  const turned: Mat3 = [0, -1, 700, 1, 0, -100, 0, 0, 1];
  const placements = place(Float64Array.from(turned), { zoom: 1.5, offsetX: 4, offsetY: 0 }, size);
  const corrected = apply(turned, 120, 80);
  const expected = apply(
    framingMatrix({ zoom: 1.5, offsetX: 4, offsetY: 0 }, size),
    corrected.x,
    corrected.y,
  );
  const m = [...placements] as unknown as Mat3;
  expect(apply(m, 120, 80).x).toBeCloseTo(expected.x, 9);
  expect(apply(m, 120, 80).y).toBeCloseTo(expected.y, 9);
});
