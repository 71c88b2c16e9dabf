import { expect, test } from '@jest/globals';
import { translation } from '../../geometry/mat3.js';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { patchBytes, cutPatch, type Patch } from '../image/patch.js';
import { registerFull, type Fit } from '../register/registration.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';

const { sin, cos, abs, sqrt, min, PI } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 140;
const middle = { x: 70.5, y: 70.5 };

type Level = (x: number, y: number) => number;

const shot = (level: Level, dx: number, dy: number, deviation: number, grain: () => number): Plane =>
  shootLevels(side, level, dx, dy, deviation, grain);

const areaOf = (plane: Plane): Patch =>
  cutPatch(kernels, plane, 0, 0, side, side, kernels.scratch('a test picture', patchBytes(side, side)));

function fitOf(before: Plane, after: Plane, model: WarpModel = 'similarity'): Fit {
  const template = prepareTemplate(kernels, before, middle, { width: 41, height: 41 }, model);
  const fit = registerFull(kernels, template, areaOf(after), translation(middle.x, middle.y), null);
  if (!fit) throw new Error('Nothing was found.');
  return fit;
}

const spots: Level = (x, y) =>
  128 + 26 * sin(0.31 * x + sin(0.11 * y)) + 24 * sin(0.27 * y + sin(0.08 * x)) + 12 * sin(0.19 * (x + y));

test.each([2, 5, 10])('under grain of %d the expected error is about the one made', (deviation) => {
  const grain = grainFrom(5 + deviation);
  let [expected, made] = [0, 0];
  const takes = 40;
  for (let k = 0; k < takes; k++) {
    const [dx, dy] = [0.4 * sin(1.1 * k), 0.4 * sin(1.7 * k)];
    const fit = fitOf(shot(spots, 0, 0, deviation, grain), shot(spots, dx, dy, deviation, grain));
    const { matrix } = fit;
    made += (matrix[2] - middle.x - dx) ** 2 + (matrix[5] - middle.y - dy) ** 2;
    expected += fit.error ** 2;
  }
  const ratio = sqrt(expected / made);
  // It is to be trusted: seldom too small, and not so large that nothing is ever sure.
  expect(ratio).toBeGreaterThan(0.7);
  expect(ratio).toBeLessThan(2.5);
});

test.each([0, 30, 90, 140])('along an edge at %d degrees it can slide, and says which way', (degrees) => {
  const angle = (degrees / 180) * PI;
  const across: Level = (x, y) => {
    const d = (x - middle.x) * sin(angle) - (y - middle.y) * cos(angle);
    return 128 + 80 * Math.tanh(d / 3);
  };
  const grain = grainFrom(9);
  const fit = fitOf(
    shot(across, 0, 0, 1, grain),
    shot(across, 0.2 * sin(angle), -0.2 * cos(angle), 1, grain),
  );
  expect(fit.error).toBeGreaterThan(0.5);
  // Directions, not arrows: half a turn more is the same.
  const off = abs(((fit.slide - angle) % PI) + PI) % PI;
  expect(min(off, PI - off)).toBeLessThan(0.15);
});

test('two depths in one box pull it apart, one alone does not', () => {
  const grain = grainFrom(21);
  const before = shot(spots, 0, 0, 1, grain);
  // The left half goes one way, the right half the other.
  const halves = (by: number): Plane => {
    const [left, right] = [shot(spots, -by, 0, 1, grain), shot(spots, by, 0, 1, grain)];
    left.data.forEach((_, i) => (left.data[i] = i % side < middle.x ? left.data[i] : right.data[i]));
    return left;
  };
  expect(fitOf(before, halves(0)).parallax).toBeLessThan(0.05 ** 2);
  // A third of a pixel apart and more is seen; far apart one of them wins, and is right about itself.
  const [little, more] = [0.15, 0.3].map((by) => fitOf(before, halves(by)).parallax);
  expect(little).toBeGreaterThan(0.04 ** 2);
  expect(more).toBeGreaterThan(little);
});

test('what a codec makes of smooth shade moves the box, unseen, and is reckoned with', () => {
  const shade: Level = (x, y) => 128 + 11 * sin(0.04 * x + 0.4) + 11 * cos(0.043 * y);
  // Blocks of eight, each a fraction of a grey level brighter or darker than it should be.
  const blocky = (k: number): Level => {
    const even = grainFrom(31 + k);
    const off = Array.from({ length: 400 }, () => 0.17 * even());
    return (x, y) => off[20 * Math.floor(y / 8) + Math.floor(x / 8)];
  };
  const none = (): number => 0;
  const coded = (k: number, dx: number): Plane => {
    const error = blocky(k);
    return shot((x, y) => shade(x - dx, y) + error(x, y), 0, 0, 0, none);
  };
  let [expected, made] = [0, 0];
  for (let k = 0; k < 20; k++) {
    const dx = 0.5 * sin(1.3 * k);
    const { matrix, error, residual } = fitOf(coded(2 * k, 0), coded(2 * k + 1, dx), 'translation');
    // There is next to nothing left over that would tell of it.
    expect(residual).toBeLessThan(0.8);
    made += (matrix[2] - middle.x - dx) ** 2 + (matrix[5] - middle.y) ** 2;
    expected += error ** 2;
  }
  expect(sqrt(made / 20)).toBeGreaterThan(0.2);
  expect(sqrt(expected / made)).toBeGreaterThan(0.5);
  // Where there is something to hold on to, the same errors hardly count.
  const firm = fitOf(
    shot(spots, 0, 0, 0, none),
    shot((x, y) => spots(x - 0.3, y) + blocky(1)(x, y), 0, 0, 0, none),
  );
  expect(firm.error).toBeLessThan(0.03);
});
