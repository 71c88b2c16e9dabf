import { expect, test } from '@jest/globals';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shoot, shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { ParallaxHistory } from './parallax.js';
import { defaultPointOptions } from '../options.js';
import { PointTracker } from '../point/point-tracker.js';

const { sin, exp, hypot } = Math;

test('what noise does evens out, what goes apart again and again does not', () => {
  const grain = grainFrom(3);
  const [noisy, parting] = [new ParallaxHistory(), new ParallaxHistory()];
  for (let k = 0; k < 40; k++) {
    // As often more than noise usually does as less.
    const noise = 0.01 * grain();
    noisy.seen(noise);
    parting.seen(0.04 + noise);
  }
  expect(noisy.parallaxWith(0)).toBeLessThan(0.08);
  expect(parting.parallaxWith(0.04)).toBeCloseTo(0.2, 1);
});

test('the first looks count as they come, later ones fade, a new key begins anew', () => {
  const parallaxHistory = new ParallaxHistory();
  expect(parallaxHistory.parallaxWith(0.09)).toBeCloseTo(0.3, 9);
  expect(parallaxHistory.parallaxWith(-0.09)).toBe(0);
  parallaxHistory.seen(0.09);
  expect(parallaxHistory.parallaxWith(0)).toBeCloseTo(Math.sqrt(0.045), 9);
  // A passer-by is forgotten in the end: after forty looks there is a thirtieth of it left.
  for (let k = 0; k < 40; k++) parallaxHistory.seen(0);
  expect(parallaxHistory.parallaxWith(0)).toBeLessThan(0.3 / 5);
  // One that was blurred does not count for more than a passer-by.
  parallaxHistory.seen(9);
  expect(parallaxHistory.parallaxWith(0)).toBeLessThan(0.3 / 3);
  parallaxHistory.begin();
  expect(parallaxHistory.parallaxWith(0)).toBe(0);
});

test('what nothing holds, followed at any price, is worth nothing, and is worth a number', () => {
  const grain = grainFrom(7);
  const edge = (x: number): number => 120 + 60 / (1 + exp(-(x - 80) / 1.5));
  const shot = (k: number): Plane => shootLevels(160, edge, 0.3 * k, 0, 3, grain);
  const tracker = new PointTracker(new TrackKernels(kernelModule()), {
    ...defaultPointOptions,
    threshold: 0,
  });
  tracker.setKey(shot(0), { x: 80.5, y: 80.5, rotation: 0, scale: 1 });
  for (let k = 1; k <= 12; k++) {
    const { confidence } = tracker.step(shot(k));
    expect(confidence).toBeGreaterThanOrEqual(0);
    expect(confidence).toBeLessThan(0.8);
  }
});

const [width, height] = [200, 160];

/** Two depths that meet under the point: the farther goes with the camera, the nearer rocks against it as well. */
function twoDepths(k: number, rocking: number, slant: number, noise: number): Plane {
  const { x, y } = farther(k);
  const picture = shoot(width, height, { x, y, noise });
  const nearer = shoot(width, height, { x: x + rocking, y: y + rocking / 2, noise });
  for (let j = 0; j < height; j++) {
    const edge = width / 2 + x + rocking + slant * (j - height / 2);
    for (let i = 0; i < edge; i++) picture.data[j * width + i] = nearer.data[j * width + i];
  }
  return picture;
}

const farther = (k: number) => ({ x: 3 * sin(k / 5), y: 2 * sin(k / 4) });

test.each([
  { rocking: 1.2, slowly: 3, slant: 0, noise: 5 },
  { rocking: 1.5, slowly: 4, slant: 0.3, noise: 3 },
])('a box over two depths is not sure where it is right for neither: %j', (take) => {
  const rocked = (k: number): number => take.rocking * sin(k / take.slowly);
  const shot = (k: number): Plane => twoDepths(k, rocked(k), take.slant, take.noise);
  const tracker = new PointTracker(new TrackKernels(kernelModule()), defaultPointOptions);
  tracker.setKey(shot(0), { x: width / 2, y: height / 2, rotation: 0, scale: 1 });
  let [between, wrong] = [0, 0];
  for (let k = 1; k <= 45; k++) {
    const { x, y, confidence } = tracker.step(shot(k));
    const all = farther(k);
    const [dx, dy] = [x - width / 2 - all.x, y - height / 2 - all.y];
    const off = Math.min(hypot(dx, dy), hypot(dx - rocked(k), dy - rocked(k) / 2));
    if (off <= 0.5) continue;
    between++;
    if (confidence >= 0.8) wrong++;
  }
  // There are such frames; told by each look alone, some of them were sure.
  expect(between).toBeGreaterThan(5);
  expect(wrong).toBe(0);
});
