import { expect, test } from '@jest/globals';
import { evenTimes, unevenTimes } from '../geometry/frame-times.js';
import { smoothGaussian, smoothInTime } from './smooth.js';

const ramp = Float64Array.from({ length: 80 }, (_, k) => 3 * k - 40);

test('an even move passes unchanged, up to the very ends', () => {
  smoothGaussian(ramp, 6).forEach((v, k) => expect(v).toBeCloseTo(ramp[k], 6));
});

test('no phase shift: a single jolt spreads to both sides alike', () => {
  const jolt = new Float64Array(101);
  jolt[50] = 1;
  const smooth = smoothGaussian(jolt, 4);
  for (let i = 1; i < 20; i++) expect(smooth[50 - i]).toBeCloseTo(smooth[50 + i], 12);
  expect(smooth[50]).toBeCloseTo(1 / (4 * Math.sqrt(2 * Math.PI)), 3);
});

test('a wave is damped by what a Gaussian owes it: exp(−(σω)²/2)', () => {
  const omega = 0.3;
  const sigma = 5;
  const wave = Float64Array.from({ length: 400 }, (_, k) => Math.sin(omega * k));
  const smooth = smoothGaussian(wave, sigma);
  const gain = Math.exp(-((sigma * omega) ** 2) / 2);
  for (let k = 100; k < 300; k++) expect(smooth[k]).toBeCloseTo(gain * wave[k], 3);
});

test('without smoothing nothing changes, and one frame is no trouble', () => {
  expect([...smoothGaussian(ramp, 0)]).toEqual([...ramp]);
  expect([...smoothGaussian(Float64Array.of(7), 3)]).toEqual([7]);
});

test('uneven frames are smoothed by their own times', () => {
  // Frames of three lengths by turns.
  const starts = Float64Array.from({ length: 241 }, (_, k) => 0.1 * k + [0, 0.06, -0.03][k % 3]);
  const uneven = unevenTimes(starts);
  const pan = starts.slice(0, 240).map((t) => 30 * t - 7);
  smoothInTime(pan, 0.8, uneven).forEach((v, k) => expect(v).toBeCloseTo(pan[k], 9));
  // A wave in time is damped as an even clip's is.
  const omega = 2;
  const wave = starts.slice(0, 240).map((t) => Math.sin(omega * t));
  const gain = Math.exp(-((0.5 * omega) ** 2) / 2);
  const smooth = smoothInTime(wave, 0.5, uneven);
  for (let k = 60; k < 180; k++) expect(Math.abs(smooth[k] - gain * wave[k])).toBeLessThan(0.02);
  // Told as uneven though it is even, a clip comes out as an even one.
  const even = unevenTimes(Float64Array.from({ length: 241 }, (_, k) => k / 25));
  const jolts = Float64Array.from({ length: 240 }, (_, k) => ((k * k) % 17) - 8);
  const wanted = smoothInTime(jolts, 0.3, evenTimes(240, 25));
  smoothInTime(jolts, 0.3, even).forEach((v, k) => expect(v).toBeCloseTo(wanted[k], 3));
});
