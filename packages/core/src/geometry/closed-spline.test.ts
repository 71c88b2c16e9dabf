import { expect, test } from '@jest/globals';
import {
  ellipseSpline,
  cornerKnot,
  distanceToEdge,
  flattenSpline,
  insertKnot,
  isInside,
  nearestOn,
  polygonArea,
  rectangleSpline,
  type ClosedSpline,
} from './closed-spline.js';

/** A circle by four cubics: off by no more than 0.03 % of its radius (the classic 0.5523). */
const reach = 55.23;
const circle: ClosedSpline = {
  knots: [
    { x: 100, y: 0, inX: 0, inY: -reach, outX: 0, outY: reach },
    { x: 0, y: 100, inX: reach, inY: 0, outX: -reach, outY: 0 },
    { x: -100, y: 0, inX: 0, inY: reach, outX: 0, outY: -reach },
    { x: 0, y: -100, inX: -reach, inY: 0, outX: reach, outY: 0 },
  ],
};

test('straight pieces stay straight, curved ones are followed', () => {
  const box = flattenSpline(rectangleSpline(10, 20, 50, 40));
  expect(box).toHaveLength(4);
  expect(polygonArea(box)).toBe(800);
  const round = flattenSpline(circle);
  for (const { x, y } of round) expect(Math.hypot(x, y)).toBeCloseTo(100, 0);
  // 96 chords of a circle lose 0.07 % of its area.
  expect(polygonArea(round) / (Math.PI * 1e4)).toBeCloseTo(1, 2);
});

test('inside and outside, and how far the edge is', () => {
  const round = flattenSpline(circle);
  expect(
    [
      { x: 0, y: 0 },
      { x: 70, y: 70 },
      { x: 72, y: 72 },
      { x: 130, y: 0 },
    ].map((p) => isInside(round, p)),
  ).toEqual([true, true, false, false]);
  expect(distanceToEdge(round, { x: 0, y: 60 })).toBeCloseTo(40, 0);
  expect(distanceToEdge(flattenSpline(rectangleSpline(0, 0, 10, 10)), { x: 14, y: 13 })).toBe(5);
  const dented: ClosedSpline = {
    knots: [
      { x: 0, y: 0 },
      { x: 10, y: 5 },
      { x: 0, y: 10 },
      { x: 4, y: 5 },
    ].map(cornerKnot),
  };
  expect(isInside(flattenSpline(dented), { x: 2, y: 5 })).toBe(false);
});

test('a knot added on the curve leaves the curve as it was', () => {
  const { piece, t, distance } = nearestOn(circle, { x: 80, y: 80 });
  expect(piece).toBe(0);
  expect(distance).toBeCloseTo(80 * Math.SQRT2 - 100, 0);
  const more = insertKnot(circle, piece, t);
  expect(more.knots).toHaveLength(5);
  for (const { x, y } of flattenSpline(more)) expect(Math.hypot(x, y)).toBeCloseTo(100, 0);
  const box = insertKnot(rectangleSpline(0, 0, 10, 10), 1, 0.5);
  expect(box.knots[2]).toEqual(cornerKnot({ x: 10, y: 5 }));
  expect(flattenSpline(box)).toHaveLength(5);
});

test('an ellipse goes through its ends, and is one all round', () => {
  const points = flattenSpline(ellipseSpline(10, 20, 50, 40));
  for (const { x, y } of points) expect(Math.hypot((x - 30) / 20, (y - 30) / 10)).toBeCloseTo(1, 3);
  expect(polygonArea(points)).toBeCloseTo(Math.PI * 200, -1);
});
