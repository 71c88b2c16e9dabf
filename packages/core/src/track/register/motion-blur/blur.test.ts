import { expect, test } from '@jest/globals';
import { translation } from '../../../geometry/mat3.js';
import { makePlane, type Plane } from '../../image/plane.js';
import { TrackKernels } from '../../../kernels/track-kernels.js';
import { groundLevel } from '../../../testing/film.js';
import { grainFrom } from '../../../testing/grain.js';
import { kernelModule } from '../../../testing/kernel-module.js';
import { patchBytes, cutPatch, type Patch } from '../../image/patch.js';
import { defaultPointOptions } from '../../options.js';
import { PointTracker } from '../../point/point-tracker.js';
import { registerFull, type Fit } from '../registration.js';
import { SampleState } from '../../samples.js';
import { estimateBlur } from './estimate-blur.js';
import { prepareTemplate } from '../prepare-template.js';
import { registerBlurred } from './register-blurred.js';

const { cos, sin, ceil, floor, hypot, max, min, round, sqrt, PI } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 160;
const middle = { x: 80.5, y: 80.5 };
const grain = grainFrom(17);

interface Exposure {
  x?: number;
  y?: number;
  /** Length of the way during the exposure, pixels, and its direction, degrees. */
  length?: number;
  degrees?: number;
  deviation?: number;
  paint?: (x: number, y: number) => number | null;
}

/** The ground moved by (x, y) at the middle of an exposure during which it moves straight on. */
function expose({ x = 0, y = 0, length = 0, degrees = 0, deviation = 1, paint }: Exposure = {}): Plane {
  const plane = makePlane(side, side);
  const moments = max(ceil(3 * length), 1);
  const [dx, dy] = [cos((degrees / 180) * PI), sin((degrees / 180) * PI)];
  for (let i = 0; i < plane.data.length; i++) {
    let level = 0;
    for (let m = 0; m < moments; m++) {
      const along = length * ((m + 0.5) / moments - 0.5);
      const [u, v] = [(i % side) + 0.5 - x - along * dx, floor(i / side) + 0.5 - y - along * dy];
      level += groundLevel(400 + u, 400 + v) / moments;
    }
    const painted = paint?.(i % side, floor(i / side)) ?? level;
    plane.data[i] = min(max(round(painted + deviation * grain()), 0), 255);
  }
  return plane;
}

const size = { width: 41, height: 41 };
const areaOf = (plane: Plane): Patch =>
  cutPatch(kernels, plane, 20, 20, 120, 120, kernels.scratch('all', patchBytes(120, 120)));

/** A template of one picture found in another, as it is and blurred. */
function find(key: Plane, picture: Plane, at = middle) {
  const template = prepareTemplate(kernels, key, at, size, 'similarity');
  const area = areaOf(picture);
  const centralDifference = registerFull(kernels, template, area, translation(at.x, at.y), null) as Fit;
  return {
    centralDifference,
    blurs: estimateBlur(kernels, template, area, centralDifference),
    clear: registerBlurred(kernels, template, area, centralDifference, null),
  };
}

const offBy = ({ matrix }: Fit, x: number, y: number): number =>
  hypot(matrix[2] - middle.x - x, matrix[5] - middle.y - y);

test.each([
  [4, 0],
  [7, 60],
  [10, 150],
  [14, 300],
])('motion blur of %d px along %d degrees is told, and the place is found through it', (length, degrees) => {
  const { centralDifference, blurs, clear } = find(expose(), expose({ x: 0.6, y: -0.4, length, degrees }));
  const { x, y } = blurs?.template ?? { x: 0, y: 0 };
  expect(blurs?.picture).toBeNull();
  expect(Math.abs(hypot(x, y) - length)).toBeLessThan(0.1 * length);
  // A way has two ends and no arrow.
  expect(Math.abs((x * sin((degrees / 180) * PI) - y * cos((degrees / 180) * PI)) / length)).toBeLessThan(
    0.1,
  );
  // What is left over is grain of a deviation of about 1 in either.
  expect(clear?.residual).toBeLessThan(1.2);
  expect(centralDifference.residual).toBeGreaterThan(1.5 * (clear?.residual ?? Infinity));
  expect(offBy(clear as Fit, 0.6, -0.4)).toBeLessThan(0.06);
});

test('a smeared key is found in a sharp picture, and in one smeared another way', () => {
  const key = expose({ length: 8, degrees: 20 });
  const centralDifference = find(key, expose({ x: 0.6, y: -0.4 }));
  expect(centralDifference.blurs?.template).toBeNull();
  expect(
    hypot(centralDifference.blurs?.picture?.x ?? 0, centralDifference.blurs?.picture?.y ?? 0),
  ).toBeGreaterThan(7);
  expect(offBy(centralDifference.clear as Fit, 0.6, -0.4)).toBeLessThan(0.08);
  const other = find(key, expose({ x: 0.6, y: -0.4, length: 8, degrees: 110 }));
  expect(other.blurs?.template && other.blurs.picture).toBeTruthy();
  expect(offBy(other.clear as Fit, 0.6, -0.4)).toBeLessThan(0.12);
  expect(offBy(other.centralDifference, 0.6, -0.4)).toBeGreaterThan(offBy(other.clear as Fit, 0.6, -0.4));
});

test('what is sharp is left as it is, under grain and partly covered as well', () => {
  expect(find(expose(), expose({ x: 0.6, y: -0.4 })).clear).toBeNull();
  expect(find(expose({ deviation: 5 }), expose({ x: 0.6, y: -0.4, deviation: 5 })).clear).toBeNull();
  const post = (x: number, y: number): number | null => (x < 74 ? 90 + 30 * sin(y / 4) : null);
  expect(find(expose(), expose({ x: 0.6, y: -0.4, paint: post })).clear).toBeNull();
});

test('beside the picture’s border nobody knows what would be smeared in', () => {
  const at = { x: 15.5, y: 80.5 };
  const template = prepareTemplate(kernels, expose(), at, size, 'similarity');
  const picture = expose({ length: 8 });
  const area = cutPatch(kernels, picture, -40, 20, 120, 120, kernels.scratch('all', patchBytes(120, 120)));
  const centralDifference = registerFull(kernels, template, area, translation(at.x, at.y), null) as Fit;
  expect(registerBlurred(kernels, template, area, centralDifference, null)).toBeNull();
});

test('a large box is held by all its pixels, and is not asked', () => {
  const template = prepareTemplate(kernels, expose(), middle, size, 'similarity');
  const area = areaOf(expose({ length: 10 }));
  const centralDifference = registerFull(
    kernels,
    template,
    area,
    translation(middle.x, middle.y),
    null,
  ) as Fit;
  expect(registerBlurred(kernels, template, area, centralDifference, null)).not.toBeNull();
  expect(
    registerBlurred(kernels, { ...template, width: 201, height: 201 }, area, centralDifference, null),
  ).toBeNull();
});

test('a hand that shakes so that every second picture is smeared: all are found, and nearly all surely', () => {
  const way = (k: number) => ({ x: 5 * sin(0.9 * k), y: 4 * cos(1.3 * k) - 4 });
  const shot = (k: number) => expose({ ...way(k), length: k % 2 ? 9 : 0, degrees: 70 * k });
  const tracker = new PointTracker(kernels, defaultPointOptions);
  tracker.setKey(shot(0), { ...middle, rotation: 0, scale: 1 });
  let [squares, unsure] = [0, 0];
  const frames = 24;
  for (let k = 1; k <= frames; k++) {
    const { x, y, state, confidence } = tracker.step(shot(k));
    expect(state).toBe(SampleState.tracked);
    squares += (x - middle.x - way(k).x) ** 2 + (y - middle.y - way(k).y) ** 2;
    if (confidence < 0.8) unsure++;
  }
  // With the template as it is it was 0.13 px.
  expect(sqrt(squares / frames)).toBeLessThan(0.06);
  expect(unsure).toBeLessThan(3);
});
