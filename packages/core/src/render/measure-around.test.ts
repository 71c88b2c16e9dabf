import { expect, test } from '@jest/globals';
import { colourAt } from './dressed.js';
import { measureAround } from './measure-around.js';
import { pictureBytes, type YuvFormat } from './yuv-picture.js';

const [width, height] = [240, 160];
const format: YuvFormat = { width, height, subsampling: '420', siting: 'left', range: 'limited', bits: 8 };
const shape = {
  ...{ featherIn: 0, featherOut: 0, choke: 0, invert: false },
  outlines: [
    {
      cut: false,
      points: [
        { x: 90, y: 60 },
        { x: 150, y: 60 },
        { x: 150, y: 100 },
        { x: 90, y: 100 },
      ],
    },
  ],
};

let seed = 7;
function random(): number {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
  return (seed + 0.5) / 2 ** 32;
}
const gaussian = (): number => Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());

/** Stripes from a dark to a bright level, softened by so many pixels, with grain; within the shape something else. */
function stripes(sigma: number, grain: number): Uint8Array {
  const levels = new Uint8Array(pictureBytes(format)).fill(128);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let light = 0;
      for (let j = -12; j <= 12; j++) {
        const w =
          sigma > 0
            ? Math.exp(-(j * j) / (2 * sigma * sigma)) / (sigma * Math.sqrt(2 * Math.PI))
            : Number(j === 0);
        light += w * (Math.floor((x + j) / 40) % 2 === 0 ? 0.2 : 0.7);
      }
      const isIn = x >= 90 && x < 150 && y >= 60 && y < 100;
      levels[y * width + x] = Math.round(16 + 219 * (isIn ? Number(x % 2) : light) + grain * gaussian());
    }
  return levels;
}

test.each([
  [1.5, 0],
  [2.5, 0],
  [2, 3],
])('about a shape softness of %f px and grain of %f levels are found', (sigma, grain) => {
  const found = measureAround(stripes(sigma, grain), format, shape);
  // What every picture is softened by is not counted.
  expect(Math.abs(found.soften - Math.sqrt(sigma * sigma - 0.25))).toBeLessThan(0.5);
  expect(Math.abs(219 * found.grain - grain)).toBeLessThan(0.6);
  expect(found.black).toBeCloseTo(0.2, 1);
  expect(found.white).toBeCloseTo(0.7, 1);
});

test('a colour is the mean about a place', () => {
  const levels = stripes(0, 0);
  const [r, g, b] = colourAt(levels, format, { x: 20, y: 20 }, 2);
  expect([r, g, b].map((v) => Math.round(100 * v))).toEqual([20, 20, 20]);
});
