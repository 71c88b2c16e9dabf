import { expect, test } from '@jest/globals';
import { cropPlane, makePlane, type Plane } from '../image/plane.js';
import { refine } from './refine.js';
import { searchTemplate } from './search.js';
import { cutTemplate, noTurn, turnedPicture } from './template.js';

// Looked up once: in the test runner every look at a global costs.
const { sin, cos, round } = Math;

const texture = (x: number, y: number): number =>
  128 +
  45 * sin(x * 0.31 + 1.2 * sin(y * 0.07)) +
  40 * sin(y * 0.27 + 1.4 * sin(x * 0.05)) +
  20 * sin((x + y) * 0.11);

function shot(shiftX = 0, shiftY = 0): Plane {
  const plane = makePlane(180, 150);
  for (let y = 0; y < 150; y++) {
    for (let x = 0; x < 180; x++)
      plane.data[y * 180 + x] = round(texture(x + 0.5 - shiftX, y + 0.5 - shiftY));
  }
  return plane;
}

test('the best peak is where the template was cut, at a correlation of one', () => {
  const plane = shot();
  for (const [x, y] of [
    [0, 0],
    [37, 52],
    [139, 109],
  ]) {
    const [best] = searchTemplate(cropPlane(plane, x, y, 41, 41), plane);
    expect([best.x, best.y]).toEqual([x, y]);
    expect(best.score).toBeCloseTo(1, 6);
  }
});

test('brightness and contrast do not matter', () => {
  const template = cropPlane(shot(), 60, 50, 31, 31);
  const darker = shot();
  darker.data.forEach((level, i) => (darker.data[i] = 30 + level * 0.4));
  const [best] = searchTemplate(template, darker);
  expect([best.x, best.y]).toEqual([60, 50]);
  expect(best.score).toBeGreaterThan(0.99);
});

test('a second place that looks the same is a second peak', () => {
  const plane = shot();
  const template = cropPlane(plane, 30, 40, 25, 25);
  for (let y = 0; y < 25; y++)
    for (let x = 0; x < 25; x++) plane.data[(90 + y) * 180 + 120 + x] = template.data[y * 25 + x];
  const peaks = searchTemplate(template, plane).slice(0, 2);
  expect(peaks.map((p) => [p.x, p.y]).sort((a, b) => a[0] - b[0])).toEqual([
    [30, 40],
    [120, 90],
  ]);
  for (const { score } of peaks) expect(score).toBeGreaterThan(0.999);
});

test('flat pictures have no peak worth the name, and too small ones none at all', () => {
  const grey = makePlane(60, 60);
  grey.data.fill(100);
  for (const { score } of searchTemplate(cropPlane(shot(), 20, 20, 21, 21), grey)) expect(score).toBe(0);
  expect(searchTemplate(makePlane(30, 30), makePlane(20, 40))).toEqual([]);
});

test('refinement finds a fraction of a pixel, in either shape', () => {
  const template = cutTemplate(shot(), 90.5, 70.5, 41, 41);
  const moved = shot(0.37, -0.21);
  for (const shape of ['shift', 'similarity'] as const) {
    const fit = refine(template, moved, { x: 90.5, y: 70.5, turn: noTurn, score: 0.9 }, shape);
    expect(fit?.x).toBeCloseTo(90.87, 1);
    expect(fit?.y).toBeCloseTo(70.29, 1);
    expect(Math.hypot((fit?.x ?? 0) - 90.87, (fit?.y ?? 0) - 70.29)).toBeLessThan(0.03);
    expect(fit?.score).toBeGreaterThan(0.99);
  }
});

test('a seventh of the box may be covered without pulling the rest', () => {
  const template = cutTemplate(shot(), 90.5, 70.5, 41, 41);
  const moved = shot(0.5, 0.25);
  for (let y = 40; y < 100; y++) moved.data.fill(250, y * 180 + 105, y * 180 + 130);
  const fit = refine(template, moved, { x: 90.5, y: 70.5, turn: noTurn, score: 0.9 }, 'shift');
  expect(Math.hypot((fit?.x ?? 0) - 91, (fit?.y ?? 0) - 70.75)).toBeLessThan(0.1);
});

test('a turned template looks as the picture does after the turn', () => {
  const template = cutTemplate(shot(), 90.5, 70.5, 31, 31);
  const same = turnedPicture(template, noTurn);
  expect([...same.data]).toEqual([...template.level].map(round));
  const quarter = turnedPicture(template, { a: cos(Math.PI / 2), b: sin(Math.PI / 2) });
  // What was to the right of the middle lies below it after a quarter turn clockwise.
  expect(quarter.data[25 * 31 + 15]).toBeCloseTo(template.level[15 * 31 + 25], -1);
});
