import { expect, test } from '@jest/globals';
import { makePlane, type Plane } from './plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shoot } from '../../testing/film.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { buildPyramid, correlate, inLightOf, textureIn, type Pyramid } from './pyramid.js';

const kernels = new TrackKernels(kernelModule());
const levelsOf = ({ planes: [{ at, width, height }] }: Pyramid): Uint8Array =>
  kernels.bytes(at, width * height).slice();
const textureAt = (pyramid: Pyramid, x: number, y: number, window: number): Float32Array =>
  textureIn(kernels, pyramid, Float64Array.of(x, y), window);

function painted(level: (x: number, y: number) => number, width = 200, height = 120): Plane {
  const plane = makePlane(width, height);
  plane.data.forEach((_, i) => (plane.data[i] = Math.round(level(i % width, Math.floor(i / width)))));
  return plane;
}

test('a wide picture is halved until it is about as wide as is worked in, a small one kept', () => {
  const sizes = (width: number, height: number) =>
    buildPyramid(
      kernels,
      painted((x, y) => (x + y) % 256, width, height),
    ).planes.map((p) => [p.width, p.height]);
  expect(sizes(1920, 1080)).toEqual([
    [480, 270],
    [240, 135],
    [120, 67],
    [60, 33],
  ]);
  expect(sizes(160, 90)).toEqual([
    [160, 90],
    [80, 45],
    [40, 22],
  ]);
  expect(sizes(24, 9)).toEqual([[24, 9]]);
});

test('slope and contrast of what is painted', () => {
  const ramps = buildPyramid(
    kernels,
    painted((x, y) => 20 + 0.5 * x + y),
  );
  // It slopes one way throughout: across that there is nothing.
  expect(textureAt(ramps, 100, 60, 15)[0]).toBeCloseTo(0, 6);
  const crossed = buildPyramid(
    kernels,
    painted((x, y) => 100 + 2 * Math.abs(x - 100) + Math.abs(y - 60)),
  );
  // Slopes of 2 along x; of 1 along y, but on the row of the fold: 14 of 15 rows.
  expect(textureAt(crossed, 100.5, 60.5, 15)[0]).toBeCloseTo(14 / 15, 1);
  const chequer = buildPyramid(
    kernels,
    painted((x, y) => ((x + y) % 2 ? 130 : 110)),
  );
  expect(textureAt(chequer, 50, 50, 9)[1]).toBeCloseTo(10, 0);
});

test('put into the light of the next, a picture is like it; with nothing changed it is as it is', () => {
  const before = shoot(200, 120);
  const dimmed = { ...before, data: before.data.map((level) => Math.round(0.6 * level + 30)) };
  const [from, to] = [before, dimmed].map((picture) => buildPyramid(kernels, picture));
  const relit = levelsOf(inLightOf(kernels, from, to));
  const wanted = levelsOf(to);
  const off = relit.reduce((sum, level, i) => sum + Math.abs(level - wanted[i]), 0) / relit.length;
  // Rounding in both.
  expect(off).toBeLessThan(0.7);
  expect(inLightOf(kernels, from, from)).toBe(from);
  expect(correlate(kernels, from, to)).toBeGreaterThan(0.99);
  expect(correlate(kernels, from, buildPyramid(kernels, shoot(200, 120, { x: 400 })))).toBeLessThan(0.6);
});
