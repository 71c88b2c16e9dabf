import { expect, test } from '@jest/globals';
import { healed } from './heal.js';

const [width, height] = [60, 40];
const pixels = Array.from({ length: width * height }, (_, k) => [k % width, Math.floor(k / width)] as const);
const picture = (level: (x: number, y: number, c: number) => number): Float32Array =>
  Float32Array.from(pixels.flatMap(([x, y]) => [0, 1, 2].map((c) => level(x, y, c))));
const inside = Uint8Array.from(pixels, ([x, y]) => Number(Math.hypot((x - 30) / 20, (y - 20) / 12) < 1));
const texture = (x: number, y: number): number => 20 * Math.sin(x * 0.9) * Math.cos(y * 0.7);

test('texture is taken over whole, light and colour are those of the border', () => {
  // Each of these differences is harmonic, on whole pixels too: inside there is only one way for them to go on.
  const light = [
    (x: number, y: number) => 0.8 * x - 0.3 * y,
    (x: number, y: number) => 0.02 * ((x - 30) ** 2 - (y - 20) ** 2),
    (x: number, y: number) => 0.03 * (x - 30) * (y - 20) + 7,
  ];
  const source = picture((x, y) => 90 + texture(x, y));
  const target = picture((x, y, c) => 90 + texture(x, y) + light[c](x, y));
  const hidden = target.map((v, i) => (inside[Math.floor(i / 3)] ? 0 : v));
  const made = healed(source, hidden, inside, width);
  const worst = Math.max(...made.map((v, i) => (inside[Math.floor(i / 3)] ? Math.abs(v - target[i]) : 0)));
  // A level is told from the next when written; a tenth of one is not.
  expect(worst).toBeLessThan(0.1);
});

test('what lies beyond a picture is no border, and without one nothing is fitted', () => {
  const source = picture((x) => (x < 25 ? NaN : 100));
  const target = picture(() => 130);
  const made = healed(source, target, inside, width);
  pixels.forEach(([x], k) => {
    if (inside[k] && x >= 25) expect(made[3 * k]).toBeCloseTo(130, 1);
    if (x < 25) expect(made[3 * k]).toBeNaN();
  });
  const all = new Uint8Array(inside.length).fill(1);
  expect(healed(source, target, all, width)).toEqual(source);
});
