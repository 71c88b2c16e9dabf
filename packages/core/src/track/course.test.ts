import { expect, test } from '@jest/globals';
import { Course } from './course.js';

const at = (x: number, y = 0) => ({ x, y });

test('an even course is known after a few frames, and the better it is known the less may a find be off', () => {
  const course = new Course();
  const first = course.allowance;
  for (let k = 1; k <= 12; k++) course.seen(at(5 * k), at(5 * (k - 1) + course.velocity.x), at(5 * (k - 1)));
  expect(course.velocity.x).toBeCloseTo(5, 3);
  expect(course.allowance).toBeLessThan(first / 2);
  // The least there is: two pixels, and four of the least surprise that says anything.
  for (let k = 13; k <= 60; k++) course.seen(at(5 * k), at(5 * k), at(5 * (k - 1)));
  expect(course.allowance).toBeCloseTo(4.8, 6);
});

test('while the point is missing it slows down and more is allowed; what guesses led to tells no speed', () => {
  const course = new Course();
  for (let k = 1; k <= 20; k++) course.seen(at(4 * k), at(4 * k), at(4 * (k - 1)));
  const { allowance, velocity } = course;
  for (let k = 0; k < 3; k++) course.lost();
  expect(course.missing).toBe(3);
  expect(course.velocity.x).toBeCloseTo(velocity.x * 0.9 ** 3, 9);
  expect(course.allowance).toBeCloseTo(allowance + 6, 9);
  const slowed = course.velocity;
  course.seen(at(200), at(90), at(86));
  expect(course.missing).toBe(0);
  expect(course.velocity).toEqual(slowed);
  expect(course.allowance).toBeCloseTo(allowance, 9);
});

test('what goes with the picture has no way of its own; what moves against it has', () => {
  const course = new Course();
  for (let k = 0; k < 20; k++) course.compare(at(10.5), at(10));
  expect(course.own).toEqual(at(0));
  for (let k = 0; k < 20; k++) course.compare(at(13, -2), at(10));
  expect(course.own.x).toBeCloseTo(3, 2);
  expect(course.own.y).toBeCloseTo(-2, 2);
  course.forget();
  expect(course.own).toEqual(at(0));
});

test('what has gone along with the picture may be off by little; what has its own way by more; what jumps by much', () => {
  const along = new Course();
  const own = new Course();
  const jumping = new Course();
  expect(along.isSteady).toBe(false);
  for (let k = 0; k < 8; k++) {
    along.compare(at(10.2), at(10));
    own.compare(at(14), at(10));
    jumping.compare(at(k % 2 ? 16 : 4), at(10));
  }
  expect([along, own, jumping].map((course) => [course.isSteady, course.goesAlong])).toEqual([
    [true, true],
    [true, false],
    [false, false],
  ]);
  const [first, second, third] = [along, own, jumping].map((course) => course.allowanceWithAll);
  // The least that counts as off is 0.7 px: two pixels and four times that.
  expect(first).toBeCloseTo(4.8, 6);
  expect(third).toBeGreaterThan(15);
  for (let k = 0; k < 10; k++) [along, own].forEach((course) => course.lost());
  expect(along.allowanceWithAll - first).toBeCloseTo(2, 6);
  expect(own.allowanceWithAll - second).toBeCloseTo(20, 6);
});
