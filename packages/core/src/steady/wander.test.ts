import { describe, expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { translation } from '../geometry/mat3.js';
import { stillMotion, type Motion } from '../solve/motion.js';
import { fullStrength } from './correct.js';
import { steadyMotion, type SteadySettings } from './steady.js';
import { drawIn } from './wander.js';

const size = { width: 960, height: 540 };
const frames = 120;
const start = { x: 300, y: 260 };

/** A walker who crosses the picture, filmed by a hand that shakes. */
const walker: Motion = {
  ...stillMotion(frames, 0, start),
  matrices: Float64Array.from(
    Array.from({ length: frames }, (_, k) => [
      ...translation(3 * k + 9 * Math.sin(k * 0.9), 25 * Math.sin(k * 0.05) + 6 * Math.sin(k * 1.1)),
    ]).flat(),
  ),
  support: new Uint16Array(frames).fill(1),
};
const clip = { ...size, times: evenTimes(frames, 25), pixelAspect: '1:1' };
const area = { left: 380, top: 220, right: 560, bottom: 320 };
const settings: SteadySettings = {
  mode: 'smooth',
  kind: 'even',
  model: 'auto',
  smoothSeconds: 0.8,
  channels: { x: true, y: true, rotation: true, scale: true },
  strength: fullStrength,
  referenceFrame: 0,
  range: { first: 0, last: frames - 1 },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
};

/** RMS second difference of where the walker is seen. */
function unevenness(x: Float64Array): number {
  let sum = 0;
  for (let k = 2; k < x.length; k++) sum += (x[k] - 2 * x[k - 1] + x[k - 2]) ** 2;
  return Math.sqrt(sum / (x.length - 2));
}

describe('what is followed may wander inside an area', () => {
  test('even: it stays inside, reaches its sides, and is as even as the path it was drawn in from', () => {
    const free = steadyMotion(walker, clip, settings);
    expect(steadyMotion(walker, clip, { ...settings, within: area }).strays).toEqual([]);
    const kept = steadyMotion(walker, clip, { ...settings, within: area }).correction.intended;
    const x = kept.x.map((dx) => start.x + dx);
    expect(Math.max(...x.map((v) => Math.abs(v - 470)))).toBeCloseTo(90, 6);
    expect(unevenness(kept.x)).toBeLessThanOrEqual(unevenness(free.correction.intended.x) + 1e-9);
    const inside = { ...settings, within: { left: 0, top: 0, right: 960, bottom: 540 } };
    expect(steadyMotion(walker, clip, inside).correction.matrices).toEqual(free.correction.matrices);
  });

  test('composed: it stays inside as well, and no edge is bare', () => {
    const framing = { zoom: 2.2, offsetX: 0, offsetY: 0 };
    const narrow = { ...area, left: 404, right: 440 };
    const composed = steadyMotion(walker, clip, { ...settings, kind: 'composed', within: narrow, framing });
    expect(composed.bare).toEqual([]);
    expect(composed.strays).toEqual([]);
    const { intended } = composed.correction;
    // A walk of 357 px in an area 36 px wide: what is left is steadier by far than what a hand did.
    expect(unevenness(intended.x)).toBeLessThan(0.05 * unevenness(composed.correction.found.x));
    // Without the area it goes elsewhere.
    const free = steadyMotion(walker, clip, { ...settings, kind: 'composed', framing }).correction.intended;
    const outside = free.x.filter((dx) => start.x + dx < narrow.left - 1 || start.x + dx > narrow.right + 1);
    expect(outside.length).toBeGreaterThan(20);
  });

  test('where no path can, the frames on which it leaves are told', () => {
    const framing = { zoom: 1.05, offsetX: 0, offsetY: 0 };
    const tight = steadyMotion(walker, clip, { ...settings, kind: 'composed', within: area, framing });
    expect(tight.strays.length + tight.bare.length).toBeGreaterThan(0);
  });

  test('frames beyond the range do not draw the path in', () => {
    const path = Float64Array.from([0, 10, 20, 500]);
    expect([...drawIn(path, 0, [0, 20], { first: 0, last: 2 })]).toEqual([0, 10, 20, 500]);
    expect([...drawIn(path, 0, [5, 15], { first: 0, last: 2 })].slice(0, 3)).toEqual([5, 10, 15]);
  });
});
