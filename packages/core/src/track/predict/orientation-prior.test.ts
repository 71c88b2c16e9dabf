import { expect, test } from '@jest/globals';
import { identity, multiply, translation } from '../../geometry/mat3.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shootLevels } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { disc } from '../../testing/marks.js';
import { turnAt } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';
import { priorWeight } from '../register/weak-modes.js';
import { OrientationPrior } from './orientation-prior.js';

const kernels = new TrackKernels(kernelModule());
const middle = { x: 80, y: 80 };
const turn = (angle: number, scale = 1) => similarityMatrix({ x: 0, y: 0, rotation: angle, scale }, middle);

/** The template of a disc, which does not tell how it turns, in the middle of its box. */
const round = prepareTemplate(
  kernels,
  shootLevels(160, (x, y) => disc(8)(x - 80, y - 80), 0, 0, 1, grainFrom(4)),
  { x: 80.5, y: 80.5 },
  { width: 41, height: 41 },
  'similarity',
);

test('a disc is thought to turn with the picture, and to grow as it does itself', () => {
  const orientationPrior = new OrientationPrior();
  const here = translation(80.5, 80.5);
  orientationPrior.begin(here);
  // The picture turns and grows; the box is thought to be where flow has it.
  const expected = multiply(translation(5, 0), here);
  const thought = orientationPrior.turned(round, here, expected, turn(0.1, 1.04), priorWeight);
  expect(turnAt(thought, 0, 0).rotation).toBeCloseTo(0.1, 2);
  expect(thought[2]).toBeCloseTo(85.5, 6);
  // It is found to have grown by a tenth, and turned the other way, which is the grain's doing.
  const found = multiply(translation(85.5, 80.5), [1.09, 0.2, 0, -0.2, 1.09, 0, 0, 0, 1]);
  orientationPrior.found(round, found, turn(0.1, 1.04));
  const next = turnAt(orientationPrior.turned(round, found, found, turn(0.05), priorWeight), 0, 0);
  expect(next.rotation).toBeCloseTo(0.15, 1);
  expect(next.scale).toBeCloseTo(1.1, 1);
});

test('where the picture is not asked it stays as far from upright as it was', () => {
  const orientationPrior = new OrientationPrior();
  orientationPrior.begin(turn(0.2));
  orientationPrior.goOn(identity, turn(0.3));
  const { rotation } = turnAt(
    orientationPrior.turned(round, turn(0.3), turn(0.3), identity, priorWeight),
    0,
    0,
  );
  expect(rotation).toBeCloseTo(0.5, 1);
});

test('what the picture turns unseen counts as much as it usually turns, until the texture tells', () => {
  const orientationPrior = new OrientationPrior();
  orientationPrior.begin(identity);
  orientationPrior.watch({ motion: null, cut: false }, 1);
  expect(orientationPrior.unobservedTurn).toBe(0);
  orientationPrior.watch({ motion: turn(0.06), cut: false }, 1);
  orientationPrior.watch({ motion: turn(0.01), cut: false }, 1);
  for (let k = 0; k < 2; k++) orientationPrior.watch({ motion: null, cut: false }, 1);
  expect(orientationPrior.unobservedTurn).toBeCloseTo(2 * 0.9 * 0.06, 6);
  orientationPrior.watch(null, 1);
  expect(orientationPrior.unobservedTurn).toBe(0);
});
