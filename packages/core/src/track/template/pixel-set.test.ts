import { expect, test } from '@jest/globals';
import { makePlane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { gradientsOf, type PixelSet } from './pixel-set.js';
import { prepareTemplate } from '../register/prepare-template.js';

const { sin, floor, round } = Math;
const kernels = new TrackKernels(kernelModule());

/** Waves, and in the middle of them a corner: a quarter of it much brighter. */
const plane = makePlane(160, 160);
plane.data.forEach((_, i) => {
  const [x, y] = [i % 160, floor(i / 160)];
  plane.data[i] = round(90 + 20 * sin(0.3 * x) + 20 * sin(0.25 * y) + (x > 80 && y > 80 ? 80 : 0));
});
const cut = (side: number) =>
  prepareTemplate(kernels, plane, { x: 80.5, y: 80.5 }, { width: side, height: side }, 'translation');

const energies = (pixelSet: PixelSet): [number, number] =>
  gradientsOf(kernels, pixelSet).map((slopes) => slopes.reduce((sum, slope) => sum + slope * slope, 0)) as [
    number,
    number,
  ];

test.each([41, 67, 121])('runs of a box of %d px lie in it, none twice, and hold most of it', (side) => {
  const { full, gradientRuns } = cut(side);
  const from = [...(gradientRuns.from ?? [])];
  expect(from).toHaveLength(gradientRuns.count);
  expect(new Set(from).size).toBe(from.length);
  const columns = full.count / full.height;
  expect(from.every((pixel) => pixel % columns < full.width && pixel < full.count)).toBe(true);
  // Eight side by side.
  from.forEach((pixel, i) => expect(pixel - from[i - (i % 8)]).toBe(i % 8));
  // The best quarter of the pixels holds more of either direction than any quarter would.
  const share = gradientRuns.count / side ** 2;
  const [all, some] = [energies(full), energies(gradientRuns)];
  [0, 1].forEach((along) => expect(some[along] / all[along]).toBeGreaterThan(1.5 * share));
  expect(gradientRuns.energy).toBeCloseTo(some[0] + some[1], 0);
});

test('no sixteenth of a box has more than a quarter of the runs, however bright it is', () => {
  const { full, gradientRuns } = cut(121);
  const columns = full.count / full.height;
  const counts = new Array<number>(16).fill(0);
  (gradientRuns.from ?? []).forEach((pixel, i) => {
    if (i % 8 !== 0) return;
    const [x, y] = [pixel % columns, floor(pixel / columns)];
    counts[4 * floor((4 * y) / 121) + floor((4 * (x + 4)) / 121)]++;
  });
  // A run may begin a pixel or two from where its sixteenth is counted.
  expect(Math.max(...counts)).toBeLessThanOrEqual(0.3 * (gradientRuns.count / 8));
});

test('a small box is taken as a whole', () => {
  const { full, subsample, gradientRuns } = cut(15);
  expect(gradientRuns).toBe(full);
  expect(subsample).toBe(full);
});
