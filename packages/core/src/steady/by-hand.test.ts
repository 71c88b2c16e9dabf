import { expect, test } from '@jest/globals';
import { apply, matrixAt, translation } from '../geometry/mat3.js';
import { evenTimes } from '../geometry/frame-times.js';
import { stillMotion, type Motion } from '../solve/motion.js';
import { noFraming } from '../framing/framing.js';
import { fullStrength } from './correct.js';
import { withKey } from '../geometry/keys.js';
import { handPlaceAt, type HandKey } from './hand-keys.js';
import type { SteadySpan } from './spans.js';
import { steadyMotion, type SteadySettings } from './steady.js';

const frames = 100;
const clip = { width: 200, height: 100, times: evenTimes(frames, 25), pixelAspect: '1:1' };
const settings: SteadySettings = {
  mode: 'hold',
  smoothSeconds: 0.5,
  model: 'auto',
  kind: 'even',
  channels: { x: true, y: true, rotation: true, scale: true },
  strength: fullStrength,
  referenceFrame: 0,
  range: { first: 0, last: frames - 1 },
  framing: noFraming,
};

/** A pan of two pixels a frame with a shake of its own. */
const wayOf = (k: number): number => 2 * k + 3 * Math.sin(k * 1.3);

function pan(): Motion {
  const motion = stillMotion(frames, 0, { x: 100, y: 50 });
  for (let k = 0; k < frames; k++) motion.matrices.set(translation(wayOf(k), 0), 9 * k);
  motion.support.fill(9);
  return motion;
}

/** Where what is at the middle of the first frame is seen on each. */
function seen(spans: SteadySpan[], change: Partial<SteadySettings> = {}): number[] {
  const { placements } = steadyMotion(pan(), clip, { ...settings, ...change, spans });
  return Array.from({ length: frames }, (_, k) => apply(matrixAt(placements, k), 100 + wayOf(k), 50).x);
}

test('where a stretch is held the rest is left as it is, with an eased way in and out', () => {
  const at = seen([{ kind: 'hold', first: 40, last: 60, ease: 5 }]);
  for (let k = 41; k <= 60; k++) expect(at[k]).toBeCloseTo(at[40], 9);
  for (const k of [0, 20, 34, 66, 99]) expect(at[k]).toBeCloseTo(100 + wayOf(k), 9);
  // On the way in and out it is somewhere between.
  for (const k of [36, 38]) expect((at[k] - at[40]) / (100 + wayOf(k) - at[40])).toBeLessThan(1);
});

test('a protected stretch stays exactly as it is, the rest is smoothed', () => {
  const at = seen([{ kind: 'protect', first: 30, last: 50, ease: 8 }], { mode: 'smooth' });
  for (let k = 30; k <= 50; k++) expect(at[k]).toBeCloseTo(100 + wayOf(k), 9);
  const roughness = (from: number, to: number): number => {
    let most = 0;
    for (let k = from + 1; k < to; k++) most = Math.max(most, Math.abs(at[k + 1] - 2 * at[k] + at[k - 1]));
    return most;
  };
  // The shake's second difference is up to 4.4 pixels; half a second of smoothing leaves next to nothing of it.
  expect(roughness(30, 50)).toBeGreaterThan(3);
  expect(roughness(65, 95)).toBeLessThan(0.05);
});

test('a stretch is gone through at one pace, from where it begins to where it ends', () => {
  const at = seen([{ kind: 'even', first: 20, last: 80, ease: 0 }]);
  expect(at[20]).toBeCloseTo(100 + wayOf(20), 9);
  expect(at[80]).toBeCloseTo(100 + wayOf(80), 9);
  const pace = (wayOf(80) - wayOf(20)) / 60;
  for (let k = 21; k <= 80; k++) expect(at[k] - at[k - 1]).toBeCloseTo(pace, 9);
});

test('keys by hand are met exactly, and between them the way is as they say', () => {
  const key = (frame: number, x: number, easing: HandKey['easing']): HandKey => ({
    ...{ frame, x, y: 0, rotation: 0, zoom: frame === 60 ? 4 : 1, easing },
  });
  const keys = [key(60, 30, 'ease'), key(20, 0, 'linear'), key(40, 10, 'step')].reduce<HandKey[]>(
    withKey,
    [],
  );
  expect(keys.map(({ frame }) => frame)).toEqual([20, 40, 60]);
  expect([0, 20, 30, 40, 59, 60, 99].map((k) => handPlaceAt(keys, k).x)).toEqual([0, 0, 5, 10, 10, 30, 30]);
  // Zoom goes by factors: half the way to fourfold is twofold.
  const zooms = [key(20, 0, 'linear'), { ...key(60, 0, 'linear'), zoom: 4 }];
  expect(handPlaceAt(zooms, 40).zoom).toBeCloseTo(2, 12);
});

test('the picture is put by hand with no motion at all, about its middle', () => {
  const keys: HandKey[] = [{ frame: 0, x: 5, y: -3, rotation: Math.PI / 2, zoom: 2, easing: 'ease' }];
  const still = stillMotion(frames, 0, { x: 100, y: 50 });
  const { placements } = steadyMotion(still, clip, { ...settings, keys });
  const middle = apply(matrixAt(placements, 50), 100, 50);
  expect(middle.x).toBeCloseTo(105, 9);
  expect(middle.y).toBeCloseTo(47, 9);
  const right = apply(matrixAt(placements, 50), 110, 50);
  expect(right.x).toBeCloseTo(105, 9);
  expect(right.y).toBeCloseTo(67, 9);
});
