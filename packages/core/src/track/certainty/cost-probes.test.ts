import { expect, test } from '@jest/globals';
import { translation } from '../../geometry/mat3.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { patchBytes, cutPatch } from '../image/patch.js';
import { costCurvature, codecNoiseFloor } from './cost-probes.js';
import { prepareTemplate } from '../register/prepare-template.js';
import { freeTemplate } from '../template/types.js';

const { sin, max } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 120;
const box = { width: 41, height: 41 };
const deviation = 3;

/** How much the misfit grows a pixel and a half aside both ways, where the box has moved by (dx, dy). */
function grown(level: (x: number, y: number) => number, dx: number, dy: number, seed: number): number {
  const grain = grainFrom(seed);
  const shot = (x: number, y: number) => shootLevels(side, level, x, y, deviation, grain);
  const template = prepareTemplate(kernels, shot(0, 0), { x: 60.5, y: 60.5 }, box, 'translation');
  const scratch = kernels.scratch('a test picture', patchBytes(side, side));
  const area = cutPatch(kernels, shot(dx, dy), 0, 0, side, side, scratch);
  const pose = translation(60.5 + dx, 60.5 + dy);
  const { count } = template.full;
  const [seen, weight] = ['seen', 'weight'].map((name) => kernels.scratch(name, 4 * count));
  const { left, top, right, bottom } = area.bounds;
  kernels.samplePatch(
    ...[area.at, area.stride, left, top, right, bottom, box.width, box.height, ...pose, 1, seen],
  );
  kernels.floats(weight, count).fill(1);
  const result = {
    pose,
    gain: 1,
    bias: template.mean,
    variance: 2 * deviation ** 2,
    seen,
    weight,
    normal: new Float64Array(16),
    n: 4,
    gathered: box.width * box.height,
  };
  const moved = [1.5, -1.5].map((by) => translation(60.5 + dx + by, 60.5 + dy));
  const found =
    costCurvature(kernels, template.full, area, result, moved) -
    codecNoiseFloor(template.full, result, moved);
  freeTemplate(kernels, template);
  return found;
}

test('grain alone makes no dip of the cost, wherever between the pixels the box has come to lie', () => {
  const plain = () => 120;
  for (const [dx, dy] of [
    [0, 0],
    [0.25, 0.5],
    // Here interpolation evens out most of the grain, and any other place would look worse for it.
    [0.5, 0.5],
  ])
    for (let seed = 1; seed <= 12; seed++) expect(grown(plain, dx, dy, seed)).toBeLessThan(0);
});

test('texture makes one, as deep as its slopes say', () => {
  const waves = (x: number, y: number) => 120 + 40 * sin(x / 5) + 20 * sin(y / 4);
  // Mean squared slope along x of a wave of 40 over 5 pixels; a move by d costs d² times that for each pixel, both ways.
  const expected = 2 * 1.5 ** 2 * ((40 / 5) ** 2 / 2) * box.width * box.height;
  for (const [dx, dy] of [
    [0, 0],
    [0.5, 0.5],
  ]) {
    const found = grown(waves, dx, dy, 7);
    // Less what might have been luck.
    expect(found).toBeGreaterThan(0.75 * expected);
    expect(found).toBeLessThan(max(1.1 * expected, 1));
  }
});
