import { expect, test } from '@jest/globals';
import { apply, translation } from '../../geometry/mat3.js';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { patchBytes, cutPatch, type Patch } from '../image/patch.js';
import { registerFixedHessian, linearise } from './fixed-hessian.js';
import { bankTemplate } from '../appearance/banked-template.js';
import type { Match } from '../point/match.js';
import { Reason } from '../sample-reason.js';
import { registerFull, type Fit } from './registration.js';
import { prepareTemplate } from './prepare-template.js';
import type { Template } from '../template/types.js';

const { sin, hypot, sqrt } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 140;
const middle = { x: 70.5, y: 70.5 };
const box = { width: 41, height: 41 };

const level = (x: number, y: number): number =>
  128 + 22 * sin(0.42 * x + sin(0.09 * y)) + 20 * sin(0.37 * y + sin(0.07 * x));

const shot = (dx: number, dy: number, deviation: number, grain: () => number): Plane =>
  shootLevels(side, level, dx, dy, deviation, grain);

const areaOf = (plane: Plane): Patch =>
  cutPatch(kernels, plane, 0, 0, side, side, kernels.scratch('a test picture', patchBytes(side, side)));

const cut = (plane: Plane): Template => prepareTemplate(kernels, plane, middle, box, 'similarity');
const middleOf = ({ matrix }: Pick<Fit, 'matrix'>) => apply(matrix, 0, 0);

test("a template's own grain neither dulls the gain nor pulls: the error comes near its bound", () => {
  const deviation = 10;
  const grain = grainFrom(11);
  const gains: number[] = [];
  const errors: number[] = [];
  for (let k = 0; k < 60; k++) {
    const template = cut(shot(0, 0, deviation, grain));
    const [dx, dy] = [0.3 * sin(k), 0.3 * sin(1.7 * k)];
    const area = areaOf(shot(dx, dy, deviation, grain));
    const fit = registerFull(kernels, template, area, translation(middle.x, middle.y), null);
    if (!fit) throw new Error('Nothing was found.');
    const { x, y } = middleOf(fit);
    gains.push(fit.gain);
    errors.push(hypot(x - middle.x - dx, y - middle.y - dy));
  }
  // With a variance of 100 on a contrast of some 440 the plain least squares would come to 0.81.
  const mean = gains.reduce((sum, gain) => sum + gain, 0) / gains.length;
  expect(Math.abs(mean - 1)).toBeLessThan(0.03);
  // The Cramér-Rao bound of a shift between two noisy pictures, from the true slopes.
  let [xx, xy, yy] = [0, 0, 0];
  for (let v = -20; v <= 20; v++)
    for (let u = -20; u <= 20; u++) {
      const [x, y] = [middle.x + u, middle.y + v];
      const gx = (level(x + 1, y) - level(x - 1, y)) / 2;
      const gy = (level(x, y + 1) - level(x, y - 1)) / 2;
      [xx, xy, yy] = [xx + gx * gx, xy + gx * gy, yy + gy * gy];
    }
  const bound = sqrt((2 * deviation ** 2 * (xx + yy)) / (xx * yy - xy * xy));
  const rms = sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length);
  expect(rms).toBeLessThan(1.3 * bound);
});

test.each([0.35, 0.45])('what covers %f of a box hardly pulls', (share) => {
  const grain = grainFrom(17);
  const template = cut(shot(0, 0, 1, grain));
  const at = translation(middle.x, middle.y);
  const known = registerFull(kernels, template, areaOf(shot(0, 0, 1, grain)), at, null);
  const errors: number[] = [];
  for (let k = 0; k < 24; k++) {
    const [dx, dy] = [0.4 * sin(1.3 * k), 0.4 * sin(2.1 * k + 1)];
    const picture = shot(dx, dy, 1, grain);
    // With a texture of its own, as bright as what it hides.
    for (let y = 40; y < 101; y++)
      for (let x = 40; x < 50 + share * box.width; x++)
        picture.data[y * side + x] = 118 + 25 * sin(x / 5 + k) + 25 * sin(y / 7) + 15 * sin((x + y) / 3);
    const fit = registerFull(kernels, template, areaOf(picture), at, known, { close: true });
    if (!fit) throw new Error('Nothing was found.');
    const { x, y } = middleOf(fit);
    errors.push(hypot(x - middle.x - dx, y - middle.y - dy));
    expect(fit.share).toBeLessThan(1.1 - share);
  }
  // Without the squares of the weights it is pulled by 0.1 and 0.14 pixels.
  expect(sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length)).toBeLessThan(0.06);
});

/** A linearisation on a box in the next picture after its own, and fixed-Hessian registrations from there. */
function stand(pixels: 'gradientRuns' | 'all') {
  const grain = grainFrom(3);
  const template = cut(shot(0, 0, 0.5, grain));
  const banked = bankTemplate(template, translation(0, 0));
  const area = areaOf(shot(0, 0, 0.5, grain));
  const fit = registerFull(kernels, template, area, translation(middle.x, middle.y), null) as Fit;
  banked.exposure = fit;
  const sighting = { banked, model: 'similarity' as const, pose: fit.matrix, likeness: 1, ambiguity: 1 };
  const match: Match = { ...sighting, fit, credible: true, confidence: 0.95, reason: Reason.none };
  const linearisation = linearise(kernels, match, pixels === 'gradientRuns' ? area : null);
  // Led to within a fifth of the way, as flow leads.
  const fixed = (plane: Plane, dx: number, dy: number) => {
    const start = translation(middle.x + 0.8 * dx, middle.y + 0.8 * dy);
    return registerFixedHessian(kernels, linearisation, areaOf(plane), start, true, banked.exposure);
  };
  return { linearisation, fixed, grain };
}

test.each(['gradientRuns', 'all'] as const)(
  'a glance at %s finds what has moved, and is never surer',
  (pixels) => {
    const { linearisation, fixed, grain } = stand(pixels);
    expect(linearisation.pixelSet.inRuns).toBe(pixels === 'gradientRuns');
    for (const [dx, dy] of [
      [0.4, -0.3],
      [-0.7, 0.2],
      [0.05, 0.9],
    ]) {
      const seen = fixed(shot(dx, dy, 0.5, grain), dx, dy);
      if (!seen) throw new Error('Nothing was found.');
      const { x, y } = middleOf(seen.fit);
      expect(hypot(x - middle.x - dx, y - middle.y - dy)).toBeLessThan(0.03);
      expect(seen.asBefore).toBe(true);
      expect(seen.fit.score).toBeLessThanOrEqual(linearisation.match.fit.score);
      expect(seen.fit.believed).toBeLessThanOrEqual(linearisation.match.fit.believed);
    }
  },
);

test.each(['gradientRuns', 'all'] as const)(
  'what comes in the way of a glance at %s is noticed',
  (pixels) => {
    const { fixed, grain } = stand(pixels);
    const covered = shot(0.2, 0.1, 0.5, grain);
    for (let y = 50; y < 92; y++) for (let x = 50; x < 64; x++) covered.data[y * side + x] = 90;
    expect(fixed(covered, 0.2, 0.1)?.asBefore ?? false).toBe(false);
  },
);
