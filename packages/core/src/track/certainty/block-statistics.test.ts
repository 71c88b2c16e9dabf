import { expect, test } from '@jest/globals';
import { translation } from '../../geometry/mat3.js';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { patchBytes, cutPatch } from '../image/patch.js';
import {
  affineBiasOf,
  sensitivityOf,
  varianceInflation,
  parallaxOf,
  clusterRobustError,
  type Blocks,
} from './block-statistics.js';
import { verdictOn } from './confidence.js';
import { registerFull, type Fit } from '../register/registration.js';
import { steepestDescent, type WarpModel } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';

const { sin, round, floor, sqrt, hypot } = Math;
const kernels = new TrackKernels(kernelModule());
const sure = 0.8;

const grain = grainFrom(11);

function picture(level: (x: number, y: number) => number, deviation: number): Plane {
  const plane = makePlane(140, 120);
  plane.data.forEach(
    (_, i) => (plane.data[i] = round(level((i % 140) + 0.5, floor(i / 140) + 0.5) + deviation * grain())),
  );
  return plane;
}

const near = (x: number, y: number): number =>
  128 + 40 * sin(0.31 * x + 1.2 * sin(0.07 * y)) + 35 * sin(0.27 * y + 1.4 * sin(0.05 * x));
const far = (x: number, y: number): number =>
  120 + 30 * sin(0.43 * x + 0.2 * y) + 30 * sin(0.39 * y - 0.2 * x);

const at = { x: 70.5, y: 60.5 };
function follow(before: Plane, after: Plane, model: WarpModel): Fit {
  const template = prepareTemplate(kernels, before, at, { width: 41, height: 41 }, model);
  const area = cutPatch(kernels, after, 0, 0, 140, 120, kernels.alloc(patchBytes(140, 120)));
  return registerFull(kernels, template, area, translation(at.x, at.y), null) as Fit;
}

/** Where the near thing ends: it covers the far one there. */
const borders: Record<string, (x: number, y: number) => boolean> = {
  'left and right': (x) => x < 70.5,
  'above and below': (_, y) => y < 60.5,
  aslant: (x, y) => x + y < 131,
  'in the middle': (x, y) => Math.abs(x - 70.5) < 15 && Math.abs(y - 60.5) < 15,
};

test.each(Object.keys(borders))('two depths in one box are a reason for doubt: %s', (name) => {
  const isNear = borders[name];
  const seen = (moved: number) => (x: number, y: number) =>
    isNear(x - moved, y) ? near(x - moved, y) : far(x, y);
  for (const model of ['translation', 'similarity'] as const) {
    const together = follow(
      picture((x, y) => (isNear(x, y) ? near(x, y) : far(x, y)), 1),
      picture((x, y) => (isNear(x - 1.4, y) ? near(x - 1.4, y) : far(x - 1.4, y)), 1),
      model,
    );
    expect(hypot(together.matrix[2] - at.x - 1.4, together.matrix[5] - at.y)).toBeLessThan(0.1);
    expect(verdictOn(together, together.score).confidence).toBeGreaterThan(0.9);
    // The near one goes on by 1.4 pixels, the far one stays: between them the box belongs to neither.
    const apart = follow(picture(seen(0), 1), picture(seen(1.4), 1), model);
    const off = Math.min(...[0, 1.4].map((x) => hypot(apart.matrix[2] - at.x - x, apart.matrix[5] - at.y)));
    if (off > 0.5) expect(verdictOn(apart, apart.score).confidence).toBeLessThan(sure);
    expect(verdictOn(apart, apart.score).confidence).toBeLessThan(
      verdictOn(together, together.score).confidence,
    );
  }
});

test('a soft band that holds one way only is not sure, whatever its grain seems to hold', () => {
  const band = (x: number, y: number): number => 130 + 14 * sin(0.09 * y) + 0.4 * sin(0.05 * x);
  const fit = follow(
    picture(band, 2),
    picture((x, y) => band(x - 0.8, y - 0.4), 2),
    'translation',
  );
  expect(fit.error).toBeGreaterThan(0.25);
  expect(verdictOn(fit, fit.score).confidence).toBeLessThan(sure);
  expect(Math.abs(sin(fit.slide))).toBeLessThan(0.2);
});

/** Blocks of one parameter each way that pull as given, all held alike. */
function blocksOf(pulls: readonly [number, number][]): Blocks {
  const side = sqrt(pulls.length);
  const sums = Float64Array.from(pulls.flatMap(([x, y]) => [x, y, 1, 0, 1]));
  return { across: side, down: side, sums };
}

test('parts that pull against each other are as far apart as they pull, scatter less', () => {
  const halves = blocksOf(Array.from({ length: 16 }, (_, i) => [i % 4 < 2 ? -0.5 : 0.5, 0]));
  // Each side, by itself, would go half a pixel.
  expect(parallaxOf(halves, 2, 0)).toBeCloseTo(0.5, 9);
  const normal = Float64Array.of(16, 0, 0, 16);
  // Sixteen independent pulls of half a pixel, each of a sixteenth's weight: 0.5/16·√16, by √(16/15).
  expect(clusterRobustError(halves, sensitivityOf(normal, 2, 0)!, 2)).toBeCloseTo(
    (0.5 / 4) * sqrt(16 / 15),
    9,
  );
  // Where one part has won, the other pulls in vain.
  const won = blocksOf(Array.from({ length: 16 }, (_, i) => (i === 0 ? [0.3, 0.3] : [0, 0])));
  expect(parallaxOf(won, 2, 0)).toBe(0);
});

test('a box that has changed as its shape does not allow is off its middle, and not sure', () => {
  // Seen from the side: it leans by a twelfth, and shows much above and little below.
  const rich = (x: number, y: number): number => (y < 56 ? near(x, y) : 128 + 0.15 * (near(x, y) - 128));
  const lean = (x: number, y: number): number => x - 0.08 * (y - at.y);
  const before = picture(rich, 1);
  const leaning = picture((x, y) => rich(lean(x, y), y), 1);
  const off = ({ matrix }: Fit): number => hypot(matrix[2] - at.x, matrix[5] - at.y);
  const tooStiff = follow(before, leaning, 'similarity');
  expect(off(tooStiff)).toBeGreaterThan(0.3);
  expect(verdictOn(tooStiff, tooStiff.score).confidence).toBeLessThan(sure);
  // A shape that may lean is right and says so, as is the stiff one where nothing leans.
  for (const fit of [follow(before, leaning, 'affine'), follow(before, picture(rich, 1), 'similarity')]) {
    expect(off(fit)).toBeLessThan(0.05);
    expect(verdictOn(fit, fit.score).confidence).toBeGreaterThan(0.9);
  }
});

test('how far the middle is off follows from what the blocks ask for', () => {
  // Sixteen blocks that hold alike, each asking for what leaning by two pixels at the rim asks for there; then all for one.
  const blocks = (ask: (x: number, y: number) => [number, number]): Blocks => {
    const sums = new Float64Array(16 * 5);
    for (let b = 0; b < 16; b++) {
      const [x, y] = ask((2 * (b % 4) + 1) / 4 - 1, (2 * floor(b / 4) + 1) / 4 - 1);
      sums.set([50 * x, 80 * y, 50, 0, 80], 5 * b);
    }
    return { across: 4, down: 4, sums };
  };
  expect(
    affineBiasOf(
      blocks((_, y) => [2 * y, 0]),
      2,
      0,
    ),
  ).toBeCloseTo(0, 9);
  expect(
    affineBiasOf(
      blocks(() => [0.3, -0.4]),
      2,
      0,
    ),
  ).toBeCloseTo(0.5, 9);
  expect(
    affineBiasOf(
      blocks((_, y) => [2 * y + 0.3, -0.4 + y]),
      2,
      0,
    ),
  ).toBeCloseTo(0.5, 9);
  // Nothing to hold on to says nothing.
  expect(affineBiasOf({ across: 4, down: 4, sums: new Float64Array(80) }, 2, 0)).toBe(0);
});

test('texture aside takes the middle along as it turns and grows about itself', () => {
  // Slopes in all directions on a patch of 11 by 11 pixels about (c, c), in a box that may turn and grow.
  const looseAt = (c: number): number => {
    const [n, reach] = [4, 28];
    const normal = new Float64Array(n * n);
    const answer = new Float64Array(n);
    for (let i = 0; i < 121; i++)
      for (const [gx, gy] of [
        [1, 0],
        [0, 1],
      ]) {
        const [u, v] = [c + (i % 11) - 5, c + floor(i / 11) - 5];
        steepestDescent('similarity', gx, gy, u, v, reach, 1, answer);
        normal.forEach((_, at) => (normal[at] += answer[floor(at / n)] * answer[at % n]));
      }
    return varianceInflation(sensitivityOf(normal, n, 0)!, 121, 0);
  };
  // The middle lies √(2c²) from the patch's own, whose pixels lie √20 from that in the mean.
  for (const c of [0, 7, 15]) expect(looseAt(c)).toBeCloseTo(1 + (2 * c ** 2) / 20, 6);
});
