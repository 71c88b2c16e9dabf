import { expect, test } from '@jest/globals';
import { evenTimes } from '../geometry/frame-times.js';
import { apply, fromSquarePixels, matrixAt } from '../geometry/mat3.js';
import { Samples, SampleState } from '../track/samples.js';
import { fullStrength } from './correct.js';
import { noFraming } from '../framing/framing.js';
import { stillMotion, type Motion } from '../solve/motion.js';
import { seenFrom } from '../testing/scene-film.js';
import { steady, steadyMotion, type SteadySettings } from './steady.js';

const frames = 50;
const clip = { width: 1920, height: 1080, times: evenTimes(frames, 25), pixelAspect: '1:1' };

/** Two points on something that pans evenly, turns a little and shakes. */
function tracks(): Samples[] {
  return [
    [600, 400],
    [1300, 700],
  ].map(([x, y]) => {
    const samples = new Samples(frames);
    for (let k = 0; k < frames; k++) {
      const angle = 0.002 * Math.sin(k / 2);
      const dx = 4 * k + 6 * Math.sin(k * 1.7);
      const px = 960 + (x - 960) * Math.cos(angle) - (y - 540) * Math.sin(angle) + dx;
      const py = 540 + (x - 960) * Math.sin(angle) + (y - 540) * Math.cos(angle) + 3 * Math.cos(k);
      samples.set(k, { x: px, y: py, confidence: 1, rotation: 0, scale: 1, state: SampleState.tracked });
    }
    return samples;
  });
}

const settings: SteadySettings = {
  mode: 'hold',
  smoothSeconds: 0.4,
  model: 'auto',
  kind: 'even',
  strength: fullStrength,
  channels: { x: true, y: true, rotation: true, scale: true },
  referenceFrame: 10,
  range: { first: 0, last: 49 },
  framing: noFraming,
};

test('holding leaves every feature where it stands in the reference frame', () => {
  const all = tracks();
  const { placements } = steady(all, clip, settings);
  for (const track of all) {
    for (let k = 0; k < frames; k++) {
      const p = apply(matrixAt(placements, k), track.x[k], track.y[k]);
      expect(Math.hypot(p.x - track.x[10], p.y - track.y[10])).toBeLessThan(1e-3);
    }
  }
});

test('smoothing keeps the pan and takes the shake out', () => {
  const [track, other] = tracks();
  const { placements } = steady([track, other], clip, { ...settings, mode: 'smooth' });
  const seen = Array.from(
    { length: frames },
    (_, k) => apply(matrixAt(placements, k), track.x[k], track.y[k]).x,
  );
  const jolts = (v: (k: number) => number): number =>
    Math.max(...Array.from({ length: 28 }, (_, i) => Math.abs(v(i + 12) - 2 * v(i + 11) + v(i + 10))));
  expect(seen[40] - seen[10]).toBeCloseTo(120, -1);
  expect(jolts((k) => seen[k])).toBeLessThan(0.05 * jolts((k) => track.x[k]));
});

test('a channel switched off is left in', () => {
  const all = tracks();
  const off = { ...settings.channels, x: false };
  const { placements } = steady(all, clip, { ...settings, channels: off });
  const shown = apply(matrixAt(placements, 30), 960, 540);
  expect(Math.abs(shown.x - 960)).toBeLessThan(3);
  expect(
    Math.abs(apply(matrixAt(steady(all, clip, settings).placements, 30), 960, 540).x - 960),
  ).toBeGreaterThan(50);
});

test('the fit, applied, leaves no bare edge; unframed, the worst one is named first', () => {
  const unframed = steady(tracks(), clip, settings);
  expect(unframed.bare[0].pixels).toBeGreaterThan(100);
  // The scene has gone to the right by then; carried back, it leaves the right side of the output bare.
  expect(unframed.bare[0].edge).toBe('right');
  const framed = steady(tracks(), clip, { ...settings, framing: unframed.fit?.framing ?? noFraming });
  expect(framed.bare).toEqual([]);
});

test('wide pixels are held as the same picture in square ones is', () => {
  const square = tracks();
  const wide = square.map((track) => {
    const squeezed = track.copy();
    squeezed.x.forEach((x, i) => (squeezed.x[i] = x / 1.5));
    return squeezed;
  });
  const all = steady(square, clip, settings);
  const squeezed = steady(wide, { ...clip, width: 1280, pixelAspect: '3:2' }, settings);
  for (let k = 0; k < frames; k++) {
    const expected = fromSquarePixels(matrixAt(all.correction.matrices, k), 1.5);
    matrixAt(squeezed.correction.matrices, k).forEach((v, i) => expect(v).toBeCloseTo(expected[i], 9));
  }
  // The same features stand still; a turn taken for one of the squeezed grid would leave pixels of shake.
  for (const track of wide) {
    for (let k = 0; k < frames; k++) {
      const p = apply(matrixAt(squeezed.placements, k), track.x[k], track.y[k]);
      expect(Math.hypot(p.x - track.x[10], p.y - track.y[10])).toBeLessThan(1e-3);
    }
  }
});

test('half the strength leaves half of the motion, each channel by itself', () => {
  const all = tracks();
  const strength = { ...fullStrength, y: 0.5 };
  const { correction } = steady(all, clip, { ...settings, strength });
  for (let k = 0; k < frames; k++) {
    expect(correction.intended.x[k]).toBeCloseTo(0, 9);
    expect(correction.intended.y[k]).toBeCloseTo(0.5 * correction.found.y[k], 9);
  }
});

test('a composed path shows no bare edge at the zoom that is given, and is steadier than the even one', () => {
  const all = tracks();
  const even = steady(all, clip, { ...settings, mode: 'smooth' });
  const zoom = (even.fit?.framing.zoom ?? 0) * 1.0001;
  const framing = { zoom, offsetX: 0, offsetY: 0 };
  const composed = steady(all, clip, { ...settings, mode: 'smooth', kind: 'composed', framing });
  expect(composed.bare).toEqual([]);
  const jolts = ({ x, y }: { x: Float64Array; y: Float64Array }): number =>
    Math.sqrt(
      [x, y]
        .flatMap((v) => Array.from(v.slice(2), (_, i) => (v[i + 2] - 2 * v[i + 1] + v[i]) ** 2))
        .reduce((sum, v) => sum + v) / frames,
    );
  expect(jolts(composed.correction.intended)).toBeLessThan(0.5 * jolts(even.correction.intended));
  // Without any room the camera's own path is left.
  const none = steady(all, clip, { ...settings, mode: 'smooth', kind: 'composed' });
  expect(none.correction.intended.x).toEqual(none.correction.found.x);
});

test('of a pan of 600 frames the mean path stays within a hundredth of the picture’s width', () => {
  const [frames, width] = [600, 960];
  const size = { width, height: 540, times: evenTimes(frames, 25), pixelAspect: '1:1' };
  const pan = (k: number): number => -4.2 * k;
  const motion: Motion = {
    ...stillMotion(frames, 0, { x: 480, y: 270 }),
    model: 'similarity',
    matrices: Float64Array.from(
      Array.from({ length: frames }, (_, k) => seenFrom(k, width, 540, { x: pan(k), y: 0 })).flat(),
    ),
    support: new Uint16Array(frames).fill(9),
  };
  for (const kind of ['even', 'composed'] as const) {
    const { correction } = steadyMotion(motion, size, {
      ...settings,
      mode: 'smooth',
      kind,
      smoothSeconds: 1,
      referenceFrame: 0,
      range: { first: 0, last: frames - 1 },
      framing: { zoom: kind === 'even' ? 1 : 1.05, offsetX: 0, offsetY: 0 },
    });
    const off = Array.from(correction.intended.x, (x, k) => x - pan(k));
    const mean = off.reduce((sum, value) => sum + value, 0) / frames;
    expect(Math.abs(mean)).toBeLessThan(0.01 * width);
    // A composed path uses the room that its zoom gives.
    if (kind === 'even') expect(Math.max(...off.slice(30, -30).map(Math.abs))).toBeLessThan(0.01 * width);
  }
});
