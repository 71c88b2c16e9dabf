import { expect, test } from '@jest/globals';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { groundLevel, shoot } from '../../testing/film.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { defaultPointOptions } from '../options.js';
import { PointTracker } from '../point/point-tracker.js';
import { judgePlace, suggestPoints } from './suggest.js';
import { Trial } from './trial.js';

const kernels = new TrackKernels(kernelModule());
const sizes = { template: { width: 41, height: 41 }, search: { width: 121, height: 121 } };
const [width, height] = [320, 240];
const at = (x: number) => ({ x: x + 0.5, y: 120.5 });

/** A camera that goes past: what is right of the middle is near, and moves twice as far as the ground behind it. */
const past = (k: number): Plane => {
  const near = 160 + 4 * k;
  const paint = (x: number, y: number): number | null =>
    x >= near ? groundLevel(900 + x - 4 * k, 300 + y) : null;
  return shoot(width, height, { x: 2 * k, paint });
};
const film = [0, 1, 2, 3, 4].map(past);
const trial = new Trial(kernels, film[0], [film.slice(1)]);

test('a box at two depths looks as good as any in one picture, and is found out in the next ones', () => {
  for (const x of [90, 160, 230])
    expect(judgePlace(kernels, film[0], at(x), sizes).score).toBeGreaterThan(0.8);
  const [behind, both, near] = [90, 160, 230].map((x) => judgePlace(kernels, film[0], at(x), sizes, trial));
  for (const { tried, score } of [behind, near]) {
    expect(tried).toBeGreaterThan(0.9);
    expect(score).toBeGreaterThan(0.8);
  }
  expect(both.tried).toBeLessThan(0.7);
  expect(both.score).toBeLessThan(0.7);
});

test('suggestions keep off the edge between two depths', () => {
  const found = suggestPoints(kernels, film[0], { ...sizes, count: 6 }, trial);
  expect(found).toHaveLength(6);
  for (const { x, y, score } of found) {
    // No more than a quarter of the box lies beyond it, and that does not draw it along.
    expect(Math.abs(x - 160)).toBeGreaterThan(10);
    expect(score).toBeGreaterThan(0.7);
    const tracker = new PointTracker(kernels, { ...defaultPointOptions, ...sizes });
    tracker.setKey(film[0], { x, y, rotation: 0, scale: 1 });
    film.slice(1).forEach((picture, k) => {
      const found = tracker.step(picture);
      expect(Math.hypot(found.x - x - (x < 160 ? 2 : 4) * (k + 1), found.y - y)).toBeLessThan(0.25);
    });
    tracker.dispose();
  }
});

test('what goes another way than the whole picture is told, and suggested last', () => {
  // A cart, a sixth of the width, goes by at three pixels a frame before a wall that stands still.
  const cart = [0, 1, 2, 3].map((k) => {
    const isCart = (x: number, y: number) => Math.abs(x - 80 - 3 * k) < 27 && Math.abs(y - 120) < 70;
    return shoot(width, height, {
      paint: (x, y) => (isCart(x, y) ? groundLevel(1400 + x - 3 * k, 700 + y) : null),
    });
  });
  const trial = new Trial(kernels, cart[0], [cart.slice(1)]);
  const [on, off] = [80, 240].map((x) => judgePlace(kernels, cart[0], at(x), sizes, trial));
  expect(on.relativeVelocity).toBeCloseTo(3, 1);
  expect(off.relativeVelocity).toBeLessThan(0.1);
  expect(on.score).toBeGreaterThan(0.8);
  const found = suggestPoints(kernels, cart[0], { ...sizes, count: 4 }, trial);
  for (const { x, y } of found) expect(Math.abs(x - 80) < 27 && Math.abs(y - 120) < 70).toBe(false);
});

test('what comes after a cut, or is not there, says nothing', () => {
  const elsewhere = shoot(width, height, { x: 400, y: 170 });
  expect(new Trial(kernels, film[0], []).of(at(90), sizes)).toBeNull();
  expect(new Trial(kernels, film[0], [[], []]).of(at(90), sizes)).toBeNull();
  expect(new Trial(kernels, film[0], [[elsewhere, elsewhere]]).of(at(90), sizes)).toBeNull();
  const halfway = new Trial(kernels, film[0], [[film[1], elsewhere], []]);
  expect(halfway.of(at(90), sizes)?.surely).toBeGreaterThan(0.9);
  expect(halfway.of(at(90), sizes)?.relativeVelocity).toBeNull();
});

test('both ways count, each from the key anew', () => {
  const about = (x: number, y: number) => Math.max(Math.abs(x - 90), Math.abs(y - 120)) < 30;
  const covered = shoot(width, height, { x: -2, paint: (x, y) => (about(x, y) ? 60 : null) });
  const [there, back] = [[film[1]], [covered]];
  const [forwards, backwards] = [
    [there, back],
    [back, there],
  ].map((ways) => new Trial(kernels, film[0], ways).of(at(90), sizes)?.surely);
  // Found for certain in one picture, hardly in the other.
  for (const tried of [forwards, backwards]) {
    expect(tried).toBeGreaterThan(0.4);
    expect(tried).toBeLessThan(0.7);
  }
});
