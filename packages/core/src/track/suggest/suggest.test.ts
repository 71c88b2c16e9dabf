import { rectangleSpline } from '../../geometry/closed-spline.js';
import { expect, test } from '@jest/globals';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { disc } from '../../testing/marks.js';
import { shoot } from '../../testing/film.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { readPatch } from '../image/read-patch.js';
import {
  channels,
  plainAnalysis,
  type Channel,
  type FieldChoice,
  type TrackPicture,
} from '../image/analysis.js';
import { patchBytes } from '../image/patch.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { judgePlace, suggestPoints } from './suggest.js';

const { abs, hypot, round } = Math;
const kernels = new TrackKernels(kernelModule());
const sizes = { template: { width: 41, height: 41 }, search: { width: 121, height: 121 } };

const grey = (level: (x: number, y: number) => number, width = 320, height = 240): Plane => {
  const plane = makePlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) plane.data[y * width + x] = round(level(x, y));
  return plane;
};

test('texture holds, a flat place does not, an edge lets slide along itself', () => {
  const texture = judgePlace(kernels, shoot(320, 240), { x: 160.5, y: 120.5 }, sizes);
  expect(texture.score).toBeGreaterThan(0.8);
  expect(texture.slide).toBeNull();
  const flat = judgePlace(
    kernels,
    grey(() => 90),
    { x: 160.5, y: 120.5 },
    sizes,
  );
  expect(flat.score).toBe(0);
  // An edge that runs 30° down to the right.
  const [s, c] = [Math.sin(Math.PI / 6), Math.cos(Math.PI / 6)];
  const edge = grey((x, y) => 120 + 60 * Math.tanh((c * (y - 120) - s * (x - 160)) / 2));
  const { slide, score } = judgePlace(kernels, edge, { x: 160.5, y: 120.5 }, sizes);
  expect(score).toBeLessThan(0.3);
  const degrees = (((slide ?? 0) * 180) / Math.PI + 180) % 180;
  expect(abs(degrees - 30)).toBeLessThan(4);
});

test('it is said of a disc that it turns unseen, of a corner that it grows unseen, of texture nothing', () => {
  const unseen = (plane: Plane, model?: WarpModel) =>
    judgePlace(kernels, plane, { x: 160.5, y: 120.5 }, { ...sizes, model }).unseen;
  const round = grey((x, y) => disc(8)(x - 160, y - 120));
  const corner = grey((x, y) => 120 + 25 * (1 + Math.tanh(x - 160)) * (1 + Math.tanh(y - 120)));
  expect(unseen(round, 'similarity')).toBe('turn');
  expect(unseen(round, 'euclidean')).toBe('turn');
  expect(unseen(corner, 'similarity')).toBe('growth');
  expect(unseen(shoot(320, 240), 'similarity')).toBeNull();
  // A box that is only shifted has nothing to tell of it.
  expect(unseen(round)).toBeNull();
});

test('a place with a double near it is worth less', () => {
  const wide = { ...sizes, search: { width: 161, height: 161 } };
  const alone = shoot(320, 240);
  const { data } = alone;
  const before = judgePlace(kernels, alone, { x: 130.5, y: 120.5 }, wide);
  for (let y = 95; y < 146; y++) data.copyWithin(y * 320 + 157, y * 320 + 107, y * 320 + 154);
  const after = judgePlace(kernels, alone, { x: 130.5, y: 120.5 }, wide);
  expect(after.secondPeak).toBeGreaterThan(0.95);
  // It is followed as exactly; only should it be covered it may be taken for the other.
  expect(after.score).toBeLessThan(before.score * 0.87);
  expect(after.score).toBeGreaterThan(before.score * 0.8);
});

test('suggestions are spread, in order, and keep to the areas', () => {
  const picture = shoot(480, 360);
  const all = suggestPoints(kernels, picture, { ...sizes, count: 8 });
  expect(all).toHaveLength(8);
  for (let i = 0; i < all.length; i++) {
    if (i > 0) expect(all[i].score).toBeLessThanOrEqual(all[i - 1].score);
    for (let j = 0; j < i; j++) expect(hypot(all[i].x - all[j].x, all[i].y - all[j].y)).toBeGreaterThan(30);
  }
  const within = [rectangleSpline(240, 0, 480, 360)];
  const without = [rectangleSpline(0, 180, 480, 360)];
  const some = suggestPoints(kernels, picture, { ...sizes, count: 8, within, without });
  expect(some.length).toBeGreaterThan(1);
  for (const { x, y } of some) {
    expect(x).toBeGreaterThanOrEqual(240);
    expect(y + 20).toBeLessThan(180);
  }
  expect(
    suggestPoints(
      kernels,
      grey(() => 100),
      { ...sizes, count: 8 },
    ),
  ).toEqual([]);
});

/** One colour all over, as limited-range BT.709. */
function painted(red: number, green: number, blue: number): TrackPicture {
  const y = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
  const u = (blue - y) / 1.8556;
  const v = (red - y) / 1.5748;
  const fill = (level: number, width: number, height: number): Plane => grey(() => level, width, height);
  return {
    ...fill(16 + (219 / 255) * y, 64, 48),
    chroma: [fill(128 + (224 / 255) * u, 32, 24), fill(128 + (224 / 255) * v, 32, 24)],
    matrix: 'bt709',
    range: 'limited',
  };
}

const read = (
  picture: TrackPicture,
  channel: Channel,
  fields: FieldChoice = 'both',
  filter = 'none' as const,
) => {
  const at = kernels.alloc(patchBytes(20, 16));
  readPatch(kernels, picture, { channel, filter, fields }, 10, 10, 20, 16, at);
  return kernels.bytes(at, 320);
};

test('channels are those of the picture’s own colours', () => {
  const picture = painted(200, 120, 60);
  const wanted: Partial<Record<Channel, number>> = { red: 200, green: 120, blue: 60, saturation: 140 };
  for (const channel of channels.filter((c) => c !== 'luma'))
    // Rounding of luma and chroma to whole steps costs up to two levels.
    expect(abs(read(picture, channel)[150] - (wanted[channel] ?? 0))).toBeLessThanOrEqual(2.5);
});

test('one field is looked at, the other filled in from it', () => {
  const combed = grey((_, y) => (y % 2 === 0 ? 60 : 180), 64, 48);
  expect([...new Set(read(combed, 'luma', 'top'))]).toEqual([60]);
  expect([...new Set(read(combed, 'luma', 'bottom'))]).toEqual([180]);
});

test('enhancing brings bright and dark, strong and weak texture to one contrast', () => {
  const texture = (x: number, y: number): number => Math.sin(x * 0.9) * Math.sin(y * 0.8);
  const uneven = grey((x, y) => (x < 160 ? 60 + 6 * texture(x, y) : 180 + 50 * texture(x, y)));
  const spread = (left: number): number => {
    const at = kernels.alloc(patchBytes(60, 60));
    readPatch(kernels, uneven, { ...plainAnalysis, filter: 'local-contrast' }, left, 90, 60, 60, at);
    const levels = [...kernels.bytes(at, 3600)];
    const mean = levels.reduce((a, b) => a + b) / levels.length;
    expect(abs(mean - 128)).toBeLessThan(4);
    return Math.sqrt(levels.reduce((sum, v) => sum + (v - mean) ** 2, 0) / levels.length);
  };
  const [weak, strong] = [spread(50), spread(220)];
  // Before, the one has eight times the contrast of the other; what is nearly flat is not blown up all the way.
  expect(strong / weak).toBeLessThan(3);
});
