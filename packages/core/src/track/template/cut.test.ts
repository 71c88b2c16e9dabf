import { expect, test } from '@jest/globals';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { exposureRows } from '../../kernels/layout.js';
import { prepareTemplate } from '../register/prepare-template.js';
import { refreshGradients } from '../register/refresh-gradients.js';

const { sin, round, floor, sqrt } = Math;
const kernels = new TrackKernels(kernelModule());
const side = 120;

const level = (x: number, y: number): number =>
  128 + 40 * sin(0.4 * x + sin(0.09 * y)) + 35 * sin(0.36 * y + sin(0.07 * x));

const grain = grainFrom(5);

const shot = (deviation: number): Plane => {
  const plane = makePlane(side, side);
  plane.data.forEach(
    (_, i) => (plane.data[i] = round(level((i % side) + 0.5, floor(i / side) + 0.5) + deviation * grain())),
  );
  return plane;
};

const at = { x: 60.5, y: 60.5 };
const box = { width: 41, height: 41 };
const cut = (plane: Plane) => prepareTemplate(kernels, plane, at, box, 'translation');
type Template = ReturnType<typeof cut>;
const gradientsOf = ({ full: { descent, count } }: Template): Float32Array =>
  kernels.floats(descent + 4 * exposureRows * count, 2 * count).slice();

/** What is seen under the box, twice as bright as the template and lighter by 30. */
function see({ full: { width, height, count } }: Template, plane: Plane): number {
  const out = kernels.scratch('what a test saw', 4 * count);
  const seen = kernels.floats(out, count).fill(NaN);
  const columns = count / height;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      seen[y * columns + x] = 30 + 2 * (plane.data[(y + 40) * side + x + 40] - 128);
  return out;
}

test('the slopes of a grainy template come near the true ones the more often it is seen; its levels stay', () => {
  const deviation = 10;
  const truth = gradientsOf(cut(shot(0)));
  const template = cut(shot(deviation));
  const levels = kernels.floats(template.full.level, template.full.count).slice();
  const exposure = { gain: 2, bias: 30 + 2 * (template.mean - 128) };
  const error = (): number => {
    const slopes = gradientsOf(template);
    return sqrt(slopes.reduce((sum, slope, i) => sum + (slope - truth[i]) ** 2, 0) / (2 * 41 * 41));
  };
  const before = error();
  let changes = 0;
  for (let k = 0; k < 40; k++)
    if (refreshGradients(kernels, template, see(template, shot(deviation)), exposure)) changes++;
  expect(changes).toBe(4);
  // A central difference lets half the variance through; of 41 pictures each has a forty-first. The rim keeps its own.
  expect(error()).toBeLessThan(1.6 * sqrt(deviation ** 2 / 2 / 41));
  expect(error()).toBeLessThan(0.6 * before);
  expect(template.gradientNoise).toBeCloseTo(template.grain / 2 / 41, 5);
  expect(kernels.floats(template.full.level, template.full.count)).toEqual(levels);
  // The subsample is made of the same slopes.
  const { subsample, full } = template;
  const middle = ({ descent, count, width, height }: typeof full): number =>
    kernels.floats(descent + 4 * exposureRows * count, count)[
      (height >> 1) * (count / height) + (width >> 1)
    ];
  expect(middle(subsample)).toBe(middle(full));
  // It has learnt all there is to learn.
  expect(refreshGradients(kernels, template, see(template, shot(deviation)), exposure)).toBe(false);
});

test('a template without grain keeps its slopes', () => {
  const template = cut(shot(0.5));
  const before = gradientsOf(template);
  for (let k = 0; k < 40; k++)
    expect(refreshGradients(kernels, template, see(template, shot(0.5)), { gain: 2, bias: 30 })).toBe(false);
  expect(gradientsOf(template)).toEqual(before);
});
