import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply } from './mat3.js';
import { fitSimilarity, similarityMatrix, stillness } from './similarity.js';

const pivot = { x: 960, y: 540 };
const coordinate = fc.double({ min: 0, max: 1900, noNaN: true });
const point = fc.record({ x: coordinate, y: coordinate });

test('finds any similarity exactly from points that follow it', () => {
  fc.assert(
    fc.property(
      fc.array(point, { minLength: 2, maxLength: 8 }),
      fc.double({ min: -3, max: 3, noNaN: true }),
      fc.double({ min: 0.3, max: 3, noNaN: true }),
      point,
      (points, rotation, scale, shift) => {
        const [first] = points;
        fc.pre(points.some((p) => Math.hypot(p.x - first.x, p.y - first.y) > 10));
        const truth = { ...shift, rotation, scale };
        const matrix = similarityMatrix(truth, pivot);
        const found = fitSimilarity(
          points.map((from) => ({ from, to: apply(matrix, from.x, from.y), weight: 1 })),
          pivot,
        );
        expect(found?.rotation).toBeCloseTo(rotation, 6);
        expect(found?.scale).toBeCloseTo(scale, 6);
        expect(found?.x).toBeCloseTo(shift.x, 4);
        expect(found?.y).toBeCloseTo(shift.y, 4);
      },
    ),
  );
});

test('one point gives a shift and keeps the turn it is told', () => {
  const pair = { from: { x: 10, y: 10 }, to: { x: 15, y: 8 }, weight: 1 };
  expect(fitSimilarity([pair], { x: 10, y: 10 })).toEqual({ ...stillness, x: 5, y: -2 });
  expect(fitSimilarity([pair], pivot, { ...stillness, rotation: 0.2, scale: 1.1 })).toMatchObject({
    rotation: 0.2,
    scale: 1.1,
  });
});

test('no points give nothing', () => expect(fitSimilarity([], pivot)).toBeNull());
