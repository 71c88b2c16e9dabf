import { expect, test } from '@jest/globals';
import { apply, identity, matrixAt, multiply } from '../geometry/mat3.js';
import type { Pose } from '../geometry/pose.js';
import { evenTimes } from '../geometry/frame-times.js';
import { correct } from '../steady/correct.js';
import { curvesOf, frameFromReference, motionMatrix, poseAt, stillMotion, type Motion } from './motion.js';

const frames = 40;
const pivot = { x: 700, y: 400 };
const all = { x: true, y: true, rotation: true, scale: true };
const times = evenTimes(frames, 25);

/** A camera that wanders, turns right round, zooms and looks at a plane more and more from the side. */
const truth = (k: number): Pose => ({
  x: 3 * k + 5 * Math.sin(k),
  y: -2 * k,
  rotation: 0.2 * k,
  scale: 1 + 0.01 * k,
  stretch: 0.004 * k,
  shear: -0.003 * k,
  tiltX: 4e-6 * k,
  tiltY: -3e-6 * k,
});

function homographies(pixelAspect = 1): Motion {
  const motion: Motion = { ...stillMotion(frames, 0, pivot), model: 'homography', pixelAspect };
  for (let k = 0; k < frames; k++) motion.matrices.set(motionMatrix(truth(k), pivot), 9 * k);
  return motion;
}

test('the view of a motion is exact, and leads back to it', () => {
  const motion = homographies();
  const curves = curvesOf(motion);
  for (let k = 0; k < frames; k++) {
    for (const [name, value] of Object.entries(truth(k)))
      expect(curves[name as keyof Pose][k]).toBeCloseTo(value, 9);
    motionMatrix(poseAt(curves, k), pivot).forEach((v, i) =>
      expect(Math.abs(v - motion.matrices[9 * k + i])).toBeLessThan(1e-9 * (1 + Math.abs(v))),
    );
  }
});

test.each([1, 16 / 11])('holding undoes a perspective motion exactly (pixels %f wide)', (pixelAspect) => {
  const motion = homographies(pixelAspect);
  const { matrices } = correct(motion, { mode: 'hold', smoothSeconds: 1, times, channels: all });
  for (let k = 0; k < frames; k++) {
    const held = multiply(matrixAt(matrices, k), frameFromReference(motion, k));
    held.forEach((v, i) => expect(v / held[8]).toBeCloseTo(identity[i], 8));
  }
});

test('what is not chosen stays: the perspective, or all but it', () => {
  const motion = homographies();
  const options = { mode: 'hold' as const, smoothSeconds: 1, times };
  const straight = correct(motion, { ...options, channels: { ...all, perspective: false } });
  // Position, turn and size are gone at the pivot; its neighbours are as stretched as they were.
  const seen = multiply(matrixAt(straight.matrices, 30), matrixAt(motion.matrices, 30));
  expect(apply(seen, pivot.x, pivot.y)).toEqual({ x: expect.closeTo(700, 6), y: expect.closeTo(400, 6) });
  const { stretch, shear } = truth(30);
  const step = apply(seen, pivot.x + 1e-4, pivot.y);
  expect((step.x - pivot.x) / 1e-4).toBeCloseTo(1 + stretch, 4);
  expect((step.y - pivot.y) / 1e-4).toBeCloseTo(shear, 4);
  const bent = correct(motion, {
    ...options,
    channels: { x: false, y: false, rotation: false, scale: false },
  });
  const left = curvesOf({ ...motion, matrices: Float64Array.from(motion.matrices) });
  expect(bent.intended.x).toEqual(left.x);
  expect(bent.intended.tiltX.every((v) => v === 0)).toBe(true);
});

test('smoothing keeps what is even in every number of the pose', () => {
  const { intended, found } = correct(homographies(), {
    mode: 'smooth',
    smoothSeconds: 0.4,
    times,
    channels: all,
  });
  for (const name of ['y', 'rotation', 'stretch', 'shear', 'tiltX', 'tiltY'] as const)
    intended[name].forEach((v, k) => expect(v).toBeCloseTo(found[name][k], 7));
  // The shake of five pixels in x is all but gone; what the ends are off by spreads a little.
  expect(Math.abs(intended.x[20] - 60)).toBeLessThan(0.5);
});
