import { expect, test } from '@jest/globals';
import { smoothGaussian } from './smooth.js';

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
