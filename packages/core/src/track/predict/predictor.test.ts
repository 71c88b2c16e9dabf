import { expect, test } from '@jest/globals';
import { Predictor } from './predictor.js';

const at = (x: number, y = 0) => ({ x, y });

test('an even course is known after a few frames, and the better it is known the less may a find be off', () => {
  const predictor = new Predictor();
  const first = predictor.gateRadius;
  for (let k = 1; k <= 12; k++)
    predictor.seen(at(5 * k), at(5 * (k - 1) + predictor.velocity.x), at(5 * (k - 1)));
  expect(predictor.velocity.x).toBeCloseTo(5, 3);
  expect(predictor.gateRadius).toBeLessThan(first / 2);
  // The least there is: two pixels, and four of the least surprise that says anything.
  for (let k = 13; k <= 60; k++) predictor.seen(at(5 * k), at(5 * k), at(5 * (k - 1)));
  expect(predictor.gateRadius).toBeCloseTo(4.8, 6);
});

test('while the point is missing it slows down and more is allowed; what guesses led to tells no speed', () => {
  const predictor = new Predictor();
  for (let k = 1; k <= 20; k++) predictor.seen(at(4 * k), at(4 * k), at(4 * (k - 1)));
  const { gateRadius, velocity } = predictor;
  for (let k = 0; k < 3; k++) predictor.lost();
  expect(predictor.missing).toBe(3);
  expect(predictor.velocity.x).toBeCloseTo(velocity.x * 0.9 ** 3, 9);
  expect(predictor.gateRadius).toBeCloseTo(gateRadius + 6, 9);
  const slowed = predictor.velocity;
  predictor.seen(at(200), at(90), at(86));
  expect(predictor.missing).toBe(0);
  expect(predictor.velocity).toEqual(slowed);
  expect(predictor.gateRadius).toBeCloseTo(gateRadius, 9);
});

test('what goes with the picture has no way of its own; what moves against it has', () => {
  const predictor = new Predictor();
  for (let k = 0; k < 20; k++) predictor.compare(at(10.5), at(10));
  expect(predictor.relativeVelocity).toEqual(at(0));
  for (let k = 0; k < 20; k++) predictor.compare(at(13, -2), at(10));
  expect(predictor.relativeVelocity.x).toBeCloseTo(3, 2);
  expect(predictor.relativeVelocity.y).toBeCloseTo(-2, 2);
  predictor.forget();
  expect(predictor.relativeVelocity).toEqual(at(0));
});

test('what has gone along with the picture may be off by little; what has its own way by more; what jumps by much', () => {
  const along = new Predictor();
  const relativeVelocity = new Predictor();
  const jumping = new Predictor();
  expect(along.isSteady).toBe(false);
  for (let k = 0; k < 8; k++) {
    along.compare(at(10.2), at(10));
    relativeVelocity.compare(at(14), at(10));
    jumping.compare(at(k % 2 ? 16 : 4), at(10));
  }
  expect(
    [along, relativeVelocity, jumping].map((predictor) => [predictor.isSteady, predictor.followsScene]),
  ).toEqual([
    [true, true],
    [true, false],
    [false, false],
  ]);
  const [first, second, third] = [along, relativeVelocity, jumping].map(
    (predictor) => predictor.sceneGateRadius,
  );
  // The least that counts as off is 0.7 px: two pixels and four times that.
  expect(first).toBeCloseTo(4.8, 6);
  expect(third).toBeGreaterThan(15);
  for (let k = 0; k < 10; k++) [along, relativeVelocity].forEach((predictor) => predictor.lost());
  expect(along.sceneGateRadius - first).toBeCloseTo(2, 6);
  expect(relativeVelocity.sceneGateRadius - second).toBeCloseTo(20, 6);
});
