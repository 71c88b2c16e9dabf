import { expect, test } from '@jest/globals';
import { fromSquarePixels, multiply, translation, type Mat3 } from '../../geometry/mat3.js';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { cutPatch, patchBytes, type Patch } from '../image/patch.js';
import { registerFull } from '../register/registration.js';
import { searchTemplate, type Peak } from './correlation-search.js';
import { warpModels, turnAt } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';
import { turnTemplate } from './search-template.js';

// Looked up once: in the test runner every look at a global costs.
const { sin, cos, hypot, round } = Math;
const kernels = new TrackKernels(kernelModule());

const texture = (x: number, y: number): number =>
  128 +
  45 * sin(x * 0.31 + 1.2 * sin(y * 0.07)) +
  40 * sin(y * 0.27 + 1.4 * sin(x * 0.05)) +
  20 * sin((x + y) * 0.11);

/** The texture seen through a matrix: what lay at p is drawn at m·p. */
function shot(invert: (x: number, y: number) => [number, number] = (x, y) => [x, y]): Plane {
  const plane = makePlane(180, 150);
  for (let y = 0; y < 150; y++)
    for (let x = 0; x < 180; x++) plane.data[y * 180 + x] = round(texture(...invert(x + 0.5, y + 0.5)));
  return plane;
}

const still: Mat3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];
const whole = { left: 3, top: 3, width: 180, height: 150 };

/** A picture with a small margin, as the search wants it. */
const areaOf = (picture: Plane): Patch =>
  cutPatch(kernels, picture, -3, -3, 186, 156, kernels.alloc(patchBytes(186, 156)));

const look = (picture: Plane, x: number, y: number, size: number): Peak[] => {
  const template = prepareTemplate(kernels, shot(), { x, y }, { width: size, height: size }, 'translation');
  return searchTemplate(kernels, turnTemplate(kernels, template, still), areaOf(picture), whole);
};

test.each([
  [21, 21],
  [57, 72],
  [159, 129],
])('the place a template was cut from is found: %d, %d', (x, y) => {
  const [best] = look(shot(), x, y, 41);
  expect([best.x + 20, best.y + 20]).toEqual([x, y]);
  expect(best.score).toBeCloseTo(1, 6);
});

test('a darker, flatter picture is as good', () => {
  const darker = shot();
  darker.data.forEach((level, i) => (darker.data[i] = 30 + level * 0.4));
  const [best] = look(darker, 75.5, 65.5, 31);
  expect([best.x + 15, best.y + 15]).toEqual([75, 65]);
  expect(best.score).toBeGreaterThan(0.99);
});

test('two places alike come out as two peaks', () => {
  const plane = shot();
  for (let y = 0; y < 25; y++)
    for (let x = 0; x < 25; x++) plane.data[(90 + y) * 180 + 120 + x] = shot().data[(40 + y) * 180 + 30 + x];
  const peaks = look(plane, 42.5, 52.5, 25).slice(0, 2);
  expect(peaks.map((p) => [p.x, p.y]).sort((a, b) => a[0] - b[0])).toEqual([
    [30, 40],
    [120, 90],
  ]);
  for (const { score } of peaks) expect(score).toBeGreaterThan(0.999);
});

test('a flat picture scores nothing, and a box too large finds nothing', () => {
  const grey = makePlane(180, 150);
  grey.data.fill(100);
  for (const { score } of look(grey, 60, 60, 21)) expect(score).toBe(0);
  expect(look(shot(), 90, 75, 161)).toEqual([]);
});

test.each([7, 15, 401])('a template of %d pixels serves', (size) => {
  const large = makePlane(900, 700);
  for (let y = 0; y < 700; y++)
    for (let x = 0; x < 900; x++)
      large.data[y * 900 + x] = round(0.5 * texture(x, y) + 0.5 * texture(x * 0.11 + 300, y * 0.13));
  const template = prepareTemplate(
    kernels,
    large,
    { x: 440, y: 340 },
    { width: size, height: size },
    'translation',
  );
  const area = cutPatch(kernels, large, 200, 100, 480, 480, kernels.alloc(patchBytes(480, 480)));
  const inner = { left: 4, top: 4, width: 470, height: 470 };
  const [best] = searchTemplate(kernels, turnTemplate(kernels, template, still), area, inner);
  expect([best.x + 204, best.y + 104]).toEqual([440 - (size >> 1), 340 - (size >> 1)]);
});

test('boxes partly outside the picture are cut and found from what is there', () => {
  const template = prepareTemplate(
    kernels,
    shot(),
    { x: 8.5, y: 60.5 },
    { width: 31, height: 31 },
    'translation',
  );
  const levels = kernels.floats(template.full.level, template.full.count);
  // Seven columns hang over the left border; one more lacks the neighbour its gradient needs.
  expect(levels.subarray(0, 32).filter(Number.isNaN)).toHaveLength(7 + 1);
  const moved = areaOf(shot((x, y) => [x + 1.4, y - 0.6]));
  const fit = registerFull(kernels, template, moved, translation(8.5, 60.5), null);
  expect(hypot((fit?.matrix[2] ?? 0) - 7.1, (fit?.matrix[5] ?? 0) - 61.1)).toBeLessThan(0.03);
});

test.each(warpModels)('%s: registration finds a part of a pixel', (model) => {
  const template = prepareTemplate(kernels, shot(), { x: 90.5, y: 70.5 }, { width: 41, height: 41 }, model);
  const moved = areaOf(shot((x, y) => [x - 0.37, y + 0.21]));
  const fit = registerFull(kernels, template, moved, translation(90.5, 70.5), null);
  // Rounding to whole grey levels leaves a hundredth or so.
  expect(hypot((fit?.matrix[2] ?? 0) - 90.87, (fit?.matrix[5] ?? 0) - 70.29)).toBeLessThan(0.02);
  expect(fit?.score).toBeGreaterThan(0.999);
});

/** Matrices about (90.5, 70.5) for each shape, and the point they should be recovered at. */
const about = (m: Mat3): Mat3 => multiply(translation(90.5, 70.5), multiply(m, translation(-90.5, -70.5)));
const motions: Record<string, Mat3> = {
  euclidean: [cos(0.05), -sin(0.05), 0.8, sin(0.05), cos(0.05), -0.5, 0, 0, 1],
  similarity: [1.06 * cos(0.04), -1.06 * sin(0.04), -0.6, 1.06 * sin(0.04), 1.06 * cos(0.04), 0.7, 0, 0, 1],
  affine: [1.05, 0.06, 0.4, -0.03, 0.96, 0.5, 0, 0, 1],
  homography: [1.03, 0.02, 0.3, -0.02, 0.98, -0.4, 0.0008, -0.0006, 1],
};

test.each(Object.entries(motions))('%s: the whole motion of the box is recovered', (model, motion) => {
  const [m, inverse] = [about(motion), about(inverted(motion))];
  const through = ([a, b, c, d, e, f, g, h, i]: Mat3, x: number, y: number): [number, number] => [
    (a * x + b * y + c) / (g * x + h * y + i),
    (d * x + e * y + f) / (g * x + h * y + i),
  ];
  const moved = areaOf(shot((x, y) => through(inverse, x, y)));
  const template = prepareTemplate(
    kernels,
    shot(),
    { x: 90.5, y: 70.5 },
    { width: 41, height: 41 },
    model as 'affine',
  );
  const fit = registerFull(kernels, template, moved, translation(90.5, 70.5), null);
  expect(fit).not.toBeNull();
  // Where the corners of the box went.
  for (const [u, v] of [
    [-20, -20],
    [20, -20],
    [20, 20],
    [-20, 20],
  ]) {
    const [x, y] = through(m, 90.5 + u, 70.5 + v);
    const [fx, fy] = through(fit?.matrix ?? still, u, v);
    expect(hypot(fx - x, fy - y)).toBeLessThan(0.06);
  }
  const { rotation, scale } = turnAt(fit?.matrix ?? still, 0, 0);
  const { rotation: turned, scale: grown } = turnAt(motion, 0, 0);
  expect(rotation).toBeCloseTo(turned, 2);
  expect(scale).toBeCloseTo(grown, 2);
});

test.each(['euclidean', 'similarity'] as const)(
  '%s is found as a turn on the screen where pixels are wide',
  (model) => {
    const aspect = 16 / 11;
    const angle = 0.12;
    const turned = fromSquarePixels([cos(angle), -sin(angle), 0, sin(angle), cos(angle), 0, 0, 0, 1], aspect);
    const [a, b, , d, e] = turned;
    const moved = areaOf(
      shot((x, y) => {
        // The inverse of a turn is the turn back: its off-diagonal numbers change sign.
        const [u, v] = [x - 90.5, y - 70.5];
        return [90.5 + a * u - b * v, 70.5 - d * u + e * v];
      }),
    );
    const picture = { ...shot(), pixelAspect: aspect };
    const template = prepareTemplate(
      kernels,
      picture,
      { x: 90.5, y: 70.5 },
      { width: 41, height: 41 },
      model,
    );
    const fit = registerFull(kernels, template, moved, translation(90.5, 70.5), null);
    expect(fit).not.toBeNull();
    const found = turnAt(fit?.matrix ?? still, 0, 0, aspect);
    expect(found.rotation).toBeCloseTo(angle, 3);
    expect(found.scale).toBeCloseTo(1, 3);
    // Corners of the box; a turn of the squeezed grid itself would miss them by half a pixel and more.
    const [fx, fy] = [fit?.matrix[0] ?? 0, fit?.matrix[3] ?? 0].map((v) => 20 * v);
    expect(hypot(fx - 20 * a, fy - 20 * d)).toBeLessThan(0.06);
  },
);

function inverted([a, b, c, d, e, f, g, h, i]: Mat3): Mat3 {
  const adjugate = [
    ...[e * i - f * h, c * h - b * i, b * f - c * e],
    ...[f * g - d * i, a * i - c * g, c * d - a * f],
    ...[d * h - e * g, b * g - a * h, a * e - b * d],
  ];
  return adjugate as unknown as Mat3;
}

test('a box a third of which is covered by something bright is not pulled along', () => {
  const template = prepareTemplate(
    kernels,
    shot(),
    { x: 90.5, y: 70.5 },
    { width: 41, height: 41 },
    'similarity',
  );
  const moved = shot((x, y) => [x - 0.5, y - 0.25]);
  for (let y = 40; y < 100; y++) moved.data.fill(250, y * 180 + 98, y * 180 + 130);
  const known = { gain: 1, bias: template.mean, residual: 0.5 };
  const fit = registerFull(kernels, template, areaOf(moved), translation(90.5, 70.5), known);
  expect(hypot((fit?.matrix[2] ?? 0) - 91, (fit?.matrix[5] ?? 0) - 70.75)).toBeLessThan(0.06);
  expect(fit?.trusted).toBeGreaterThan(0.97);
  expect(fit?.share).toBeLessThan(0.75);
});

test('along a straight edge the fit says that it can slide', () => {
  const edge = makePlane(180, 150);
  for (let y = 0; y < 150; y++)
    for (let x = 0; x < 180; x++) edge.data[y * 180 + x] = x < 90 ? 60 : x === 90 ? 110 : 190;
  // A little grain, else there is nothing at all to hold on to.
  let seed = 1;
  edge.data.forEach((level, i) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    edge.data[i] = level + (seed >>> 30);
  });
  const template = prepareTemplate(
    kernels,
    edge,
    { x: 90.5, y: 70.5 },
    { width: 31, height: 31 },
    'translation',
  );
  const other = makePlane(180, 150);
  other.data.set(edge.data.subarray(180 * 3), 0);
  other.data.set(edge.data.subarray(0, 180 * 3), 180 * 147);
  const textured = prepareTemplate(
    kernels,
    shot(),
    { x: 90.5, y: 70.5 },
    { width: 31, height: 31 },
    'translation',
  );
  const sure = registerFull(kernels, textured, areaOf(shot()), translation(90.5, 70.5), null);
  const unsure = registerFull(kernels, template, areaOf(other), translation(90.5, 70.5), null);
  expect(sure?.error).toBeLessThan(0.01);
  expect(unsure === null || unsure.error > 0.1).toBe(true);
});

test('the template drawn for the search turns the right way', () => {
  const template = prepareTemplate(
    kernels,
    shot(),
    { x: 90.5, y: 70.5 },
    { width: 31, height: 31 },
    'similarity',
  );
  const levelAt = (matrix: Mat3, i: number, j: number): number => {
    const { levels } = turnTemplate(kernels, template, matrix);
    const bytes = kernels.bytes(levels[levels.length - 1].at + 16, 2 * 32 * 31);
    return bytes[2 * (j * 32 + i)];
  };
  const { data } = shot();
  // What was to the right of the middle lies below it after a quarter turn clockwise.
  expect(levelAt(still, 25, 15)).toBe(data[70 * 180 + 100]);
  expect(levelAt([0, -1, 0, 1, 0, 0, 0, 0, 1], 15, 25)).toBe(data[70 * 180 + 100]);
});

test('grain is kept out of the slopes where the picture is soft, fine texture is not', () => {
  let seed = 5;
  const noisy = shot();
  noisy.data.forEach((level, i) => {
    // Four uniform numbers make nearly a normal one: σ 10.
    let sum = 0;
    for (let k = 0; k < 4; k++) {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      sum += seed / 2 ** 32 - 0.5;
    }
    noisy.data[i] = Math.min(Math.max(round(level + 17.3 * sum), 0), 255);
  });
  const fine = makePlane(180, 150);
  fine.data.forEach(
    (_, i) => (fine.data[i] = round(128 + 40 * sin(1.9 * (i % 180)) * sin(1.7 * Math.floor(i / 180)))),
  );
  const at = { x: 90.5, y: 70.5 };
  const [clean, grainy, textured] = [shot(), noisy, fine].map((picture) =>
    prepareTemplate(kernels, picture, at, { width: 41, height: 41 }, 'translation'),
  );
  // A plain difference lets half the variance through, the smoothed one a sixteenth.
  expect(clean.gradientNoise / clean.grain).toBeCloseTo(1 / 2, 6);
  expect(grainy.gradientNoise / grainy.grain).toBeCloseTo(15 / 256, 6);
  expect(textured.gradientNoise / textured.grain).toBeCloseTo(1 / 2, 6);
  expect(Math.sqrt(grainy.grain)).toBeGreaterThan(8.5);
  expect(Math.sqrt(grainy.grain)).toBeLessThan(11.5);
});
