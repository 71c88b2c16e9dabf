import { expect, test } from '@jest/globals';
import { apply, invert, multiply, type Mat3, type Point } from '../geometry/mat3.js';
import { similarityMatrix, type Similarity } from '../geometry/similarity.js';
import { Samples, SampleState, type Sample } from '../track/samples.js';
import { grainFrom } from '../testing/grain.js';
import { curvesOf, frameFromReference, stillCurves } from './motion.js';
import { takePose } from './pose-motion.js';
import { solveMotion } from './solve-motion.js';

const frames = 60;
const pivot = { x: 960, y: 540 };
const options = { frames, referenceFrame: 20, fallbackPivot: pivot };

/** What the camera does: nothing at frame 20, turning, growing and wandering elsewhere. */
const truth = (k: number): Similarity => ({
  x: 3 * (k - 20) + 8 * (Math.sin(k / 3) - Math.sin(20 / 3)),
  y: 5 * (Math.cos(k / 4) - Math.cos(5)),
  rotation: 0.004 * (k - 20),
  scale: 1 + 0.002 * (k - 20),
});

function follow(
  feature: Point,
  seen: (k: number) => boolean = () => true,
  noise: (k: number) => number = () => 0,
): Samples {
  const samples = new Samples(frames);
  for (let k = 0; k < frames; k++) {
    if (!seen(k)) continue;
    const p = apply(similarityMatrix(truth(k), pivot), feature.x, feature.y);
    samples.set(k, {
      x: p.x + noise(k),
      y: p.y - noise(k + 7),
      confidence: 1,
      rotation: 0,
      scale: 1,
      state: SampleState.tracked,
    });
  }
  return samples;
}

const corners = [
  { x: 200, y: 200 },
  { x: 1700, y: 300 },
  { x: 900, y: 900 },
];

test('two tracks or more give the whole similarity, exactly', () => {
  const motion = solveMotion(
    corners.map((c) => follow(c)),
    options,
  );
  expect(motion.model).toBe('similarity');
  for (let k = 0; k < frames; k++) {
    const found = apply(frameFromReference(motion, k), 300, 800);
    const real = apply(similarityMatrix(truth(k), pivot), 300, 800);
    expect(Math.hypot(found.x - real.x, found.y - real.y)).toBeLessThan(1e-3);
  }
});

test('one track gives position alone, and leaves the reference frame alone', () => {
  const track = follow(corners[0]);
  const motion = solveMotion([track], options);
  expect(motion.model).toBe('translation');
  const { x, rotation } = curvesOf(motion);
  expect(x[20]).toBe(0);
  expect(x[40]).toBeCloseTo(track.x[40] - track.x[20], 9);
  expect(rotation.every((r) => r === 0)).toBe(true);
});

test('tracks that only overlap in part are linked, even when none reaches the reference frame', () => {
  const tracks = [
    follow(corners[0], (k) => k >= 25 && k < 45),
    follow(corners[1], (k) => k >= 30),
    follow(corners[2], (k) => k >= 35),
  ];
  const motion = solveMotion(tracks, options);
  // Between frames that three tracks see, the relative motion is known whatever the reference.
  const relative = (k: number, p: Point): Point => apply(frameFromReference(motion, k), p.x, p.y);
  for (const k of [36, 44, 59]) {
    const error = tracks.slice(1).map((track, i) => {
      const atStart = { x: track.x[35], y: track.y[35] };
      const back = apply(invertOf(35), atStart.x, atStart.y);
      const p = relative(k, back);
      return Math.hypot(p.x - track.x[k], p.y - track.y[k]) + i * 0;
    });
    expect(Math.max(...error)).toBeLessThan(0.5);
  }
  function invertOf(frame: number) {
    const [a, b, c, d, e, f] = frameFromReference(motion, frame);
    const det = a * e - b * d;
    return [
      e / det,
      -b / det,
      (b * f - c * e) / det,
      -d / det,
      a / det,
      (c * d - a * f) / det,
      0,
      0,
      1,
    ] as const;
  }
});

test('noise is averaged over the tracks: six are better than two', () => {
  const noise = (seed: number) => (k: number) => Math.sin(k * 12.9898 + seed * 78.233) * 0.4;
  const many = [...corners, { x: 500, y: 600 }, { x: 1400, y: 800 }, { x: 1000, y: 150 }];
  const error = (features: Point[]): number => {
    const motion = solveMotion(
      features.map((f, i) => follow(f, undefined, noise(i))),
      options,
    );
    let sum = 0;
    for (let k = 0; k < frames; k++) {
      const p = apply(frameFromReference(motion, k), 960, 540);
      const q = apply(similarityMatrix(truth(k), pivot), 960, 540);
      sum += (p.x - q.x) ** 2 + (p.y - q.y) ** 2;
    }
    return Math.sqrt(sum / frames);
  };
  expect(error(many)).toBeLessThan(error(many.slice(0, 2)));
});

test('gaps are bridged in a straight line, and nothing at all stands still', () => {
  const track = follow(corners[0], (k) => k < 30 || k >= 40);
  const motion = solveMotion([track], options);
  expect(motion.support[35]).toBe(0);
  expect(motion.expectedError[35]).toBe(Infinity);
  const { x } = curvesOf(motion);
  expect(x[35]).toBeCloseTo(x[29] + ((x[40] - x[29]) * 6) / 11, 9);
  const none = solveMotion([], options);
  expect(curvesOf(none)).toEqual(stillCurves(frames));
});

test('the expected error falls as more tracks speak, and grows where they disagree or doubt', () => {
  const errorWith = (samples: Samples[]): number => solveMotion(samples, options).expectedError[40];
  const calm = corners.map((c) => follow(c));
  expect(errorWith(calm)).toBeLessThan(errorWith(calm.slice(0, 2)));
  const unsure = corners.map((c) => follow(c));
  for (const samples of unsure) samples.confidence.fill(0.5);
  // A confidence of a half stands for 0.38 px; three such are known to 0.38 over the root of three.
  expect(errorWith(unsure)).toBeCloseTo(0.38 / Math.sqrt(3), 3);
  const noisy = corners.map((c, i) => follow(c, undefined, (k) => 2 * Math.sin(i * 7 + k * 3)));
  expect(errorWith(noisy)).toBeGreaterThan(0.3);
});

/** A flat thing that the camera sees more and more from the side, and what of it is seen on frame 20. */
const leaning = (k: number): Mat3 =>
  multiply(similarityMatrix(truth(k), pivot), [1, 0, 0, 0, 1, 0, 4e-6 * (k - 20), -2e-6 * (k - 20), 1]);

function followLeaning(feature: Point, noise: number): Samples {
  const samples = new Samples(frames);
  const grain = grainFrom(Math.round(feature.x));
  for (let k = 0; k < frames; k++) {
    const p = apply(leaning(k), feature.x, feature.y);
    samples.set(k, {
      x: p.x + noise * grain(),
      y: p.y + noise * grain(),
      confidence: 1,
      rotation: 0,
      scale: 1,
      state: SampleState.tracked,
    });
  }
  return samples;
}

test('four points and more give a perspective, where a similarity leaves pixels', () => {
  const features = [...corners, { x: 1500, y: 950 }, { x: 1000, y: 500 }];
  const offOf = (model: 'similarity' | 'perspective', noise: number): number => {
    const motion = solveMotion(
      features.map((f) => followLeaning(f, noise)),
      { ...options, model },
    );
    let worst = 0;
    for (let k = 0; k < frames; k++) {
      const found = apply(frameFromReference(motion, k), 700, 400);
      const back = apply(invert(leaning(20)), 700, 400);
      const real = apply(leaning(k), back.x, back.y);
      worst = Math.max(worst, Math.hypot(found.x - real.x, found.y - real.y));
    }
    return worst;
  };
  expect(offOf('perspective', 0)).toBeLessThan(0.01);
  expect(offOf('similarity', 0)).toBeGreaterThan(3);
  // Five points of a tenth of a pixel each say where a place among them is to about a tenth.
  expect(offOf('perspective', 0.1)).toBeLessThan(0.5);
});

test('a simpler model leaves out what it does not know', () => {
  const tracks = corners.map((c) => follow(c));
  const shift = curvesOf(solveMotion(tracks, { ...options, model: 'shift' }));
  expect(shift.rotation.every((r) => r === 0)).toBe(true);
  const turn = curvesOf(solveMotion(tracks, { ...options, model: 'rotation' }));
  expect(turn.rotation[50]).toBeCloseTo(0.004 * 30, 3);
  expect(turn.scale.every((s) => Math.abs(s - 1) < 1e-12)).toBe(true);
});

test('one track alone turns and grows as its box does, about itself', () => {
  const track = follow(corners[0]);
  for (let k = 0; k < frames; k++)
    track.set(k, { ...(track.get(k) as Sample), rotation: 0.01 * k, scale: 1 + 0.01 * k });
  const motion = solveMotion([track], options);
  takePose(motion, track, true);
  const { x, rotation, scale } = curvesOf(motion);
  expect(x[40]).toBeCloseTo(track.x[40] - track.x[20], 6);
  expect(rotation[40]).toBeCloseTo(0.2, 5);
  expect(scale[40]).toBeCloseTo(1.4 / 1.2, 5);
});
