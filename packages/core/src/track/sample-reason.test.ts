import { expect, test } from '@jest/globals';
import { translation } from '../geometry/mat3.js';
import { makePlane, type Plane } from './image/plane.js';
import { TrackKernels } from '../kernels/track-kernels.js';
import { shoot, shootLevels, type Shot } from '../testing/film.js';
import { grainFrom } from '../testing/grain.js';
import { kernelModule } from '../testing/kernel-module.js';
import { fusePasses } from './point/fuse-passes.js';
import { defaultPointOptions, type PointTrackerOptions } from './options.js';
import { PointTracker } from './point/point-tracker.js';
import { Reason, reasonNames, reasonWords } from './sample-reason.js';
import { Samples, SampleState, type Sample } from './samples.js';
import type { SceneChange } from './scene/scene-motion.js';

const { sin, exp, tanh, round } = Math;
const kernels = new TrackKernels(kernelModule());
const [width, height] = [240, 200];

/** What is made of each picture after the first, in which the point is placed in the middle. */
function follow(
  pictures: readonly Plane[],
  options: Partial<PointTrackerOptions> = {},
  scene?: () => SceneChange,
): Sample[] {
  const tracker = new PointTracker(kernels, { ...defaultPointOptions, ...options });
  const [first, ...others] = pictures;
  tracker.setKey(first, { x: first.width / 2, y: first.height / 2, rotation: 0, scale: 1 });
  const found = others.map((picture) => tracker.step(picture, scene));
  tracker.dispose();
  return found;
}

/** The reasons given for samples that are not sure, each once. */
const reasonsOf = (samples: readonly Sample[]): string[] => [
  ...new Set(samples.map(({ reason }) => reasonNames[reason ?? 0]).filter((name) => name !== 'none')),
];

/** A camera that goes slowly to the right, so many pictures of it. */
const take = (count: number, shot: (k: number) => Shot = () => ({})): Plane[] =>
  Array.from({ length: count }, (_, k) => shoot(width, height, { x: 0.6 * k, noise: 2, ...shot(k) }));

/** Half of a plain ground that something of grey levels is seen on, moved a little from picture to picture. */
const levels = (count: number, level: (x: number, y: number, k: number) => number, deviation: number) => {
  const grain = grainFrom(5);
  return Array.from({ length: count }, (_, k) =>
    shootLevels(160, (x, y) => level(x - 80, y - 80, k), 0.3 * sin(k), 0.2 * sin(2 * k), deviation, grain),
  );
};

const blobs = (x: number, y: number): number => 70 * exp(-(x * x + y * y) / 60) * (1 + 0.4 * sin(x / 2));

test('what is sure has no reason', () => {
  const samples = follow(take(12));
  for (const { confidence } of samples) expect(confidence).toBeGreaterThan(0.8);
  expect(reasonsOf(samples)).toEqual([]);
});

test('something that comes in the way covers a part, then all', () => {
  const wall = (edge: number) => (x: number) => (x < edge ? 60 : null);
  const samples = follow(
    take(14, (k) => ({ paint: k > 8 ? wall(92 + 11 * (k - 8)) : undefined })),
    { threshold: 0.3 },
  );
  expect(reasonsOf(samples.slice(8))).toEqual(expect.arrayContaining(['covered', 'missing']));
  expect(reasonNames[samples[12].reason ?? 0]).toBe('missing');
});

test('an edge lets slide, faint texture under grain is faint', () => {
  const edge = levels(8, (x) => 120 + 60 * tanh(x / 2), 2);
  expect(reasonsOf(follow(edge, { model: 'translation', threshold: 0 }))).toEqual(['slides']);
  const faint = levels(8, (x, y) => 120 + 0.12 * blobs(x, y), 4);
  expect(reasonsOf(follow(faint, { model: 'translation', threshold: 0 }))).toEqual(['faint']);
});

test('parts that go their own ways are told', () => {
  const halves = levels(
    14,
    (x, y, k) => 100 + blobs(x + 12 + 0.9 * sin(0.8 * k), y) + blobs(x - 12, y - 3),
    1.5,
  );
  expect(reasonsOf(follow(halves, { model: 'translation' }))).toContain('parted');
});

test('shade without grain may have been moved by a codec', () => {
  const soft = levels(6, (x, y) => 100 + 14 * sin(x / 16) * sin(y / 14), 0);
  expect(reasonsOf(follow(soft, { model: 'translation', threshold: 0 }))).toEqual(['coded']);
});

test('where two are alike, the one that is leapt to may be the other', () => {
  const spots = (left: number, right: number, dx: number): Plane => {
    const plane = makePlane(width, height);
    plane.data.forEach((_, i) => {
      const [x, y] = [(i % width) - 120 - dx, Math.floor(i / width) - 100];
      plane.data[i] = round(60 + left * blobs(x, y) + right * blobs(x - 26, y));
    });
    return plane;
  };
  const film = Array.from({ length: 20 }, (_, k) => spots(k > 8 ? 0 : 1.5, 1.48, 0.2 * k));
  const samples = follow(film, { template: { width: 21, height: 21 } });
  const onOther = samples.filter(({ x, state }) => state === SampleState.tracked && x > 140);
  expect(onOther.length).toBeGreaterThan(0);
  for (const { reason } of onOther) expect(['double', 'leapt']).toContain(reasonNames[reason ?? 0]);
});

test('a cut, and leaving the picture', () => {
  const after = shoot(width, height, { x: 4000, y: 900, noise: 2 });
  const film = [...take(6), after];
  const cutTo = follow(film, {}, () => ({ motion: null, cut: true }));
  expect(cutTo[5]).toMatchObject({ state: SampleState.lost, reason: Reason.cut });

  const pan = Array.from({ length: 24 }, (_, k) => shoot(width, height, { x: 6 * k, noise: 2 }));
  const gone = follow(pan, {}, () => ({ motion: translation(6, 0), cut: false }));
  expect(gone[22]).toMatchObject({ state: SampleState.lost, reason: Reason.outside });
  expect(gone[22].x).toBeGreaterThan(width);
});

test('what the passes from two keys do not agree on is told on the way, and only there', () => {
  const [ahead, back, out] = [0, 1, 2].map(() => new Samples(11));
  const at = (x: number, confidence: number, reason: Reason = Reason.none): Sample => ({
    x,
    y: 50,
    confidence,
    rotation: 0,
    scale: 1,
    state: SampleState.tracked,
    reason,
  });
  for (let k = 1; k < 10; k++) {
    ahead.set(k, at(50, 0.95));
    back.set(k, k < 6 ? at(51.4, 0.95) : at(50.02, 0.7, Reason.covered));
  }
  for (const frame of [0, 10]) out.set(frame, { ...at(50, 1), state: SampleState.placed });
  fusePasses(out, 0, 10, { path: ahead, arrival: undefined }, { path: back, arrival: undefined });
  expect(reasonNames[out.reason[4]]).toBe('passes');
  expect(reasonNames[out.reason[9]]).toBe('covered');
});

test('each reason has a name, words, and a number that fits its place in files', () => {
  const numbers = Object.values(Reason);
  expect(numbers).toEqual(reasonNames.map((_, i) => i));
  expect(Math.max(...numbers)).toBeLessThan(16);
  for (const name of reasonNames) expect(reasonWords[name].length > 0).toBe(name !== 'none');
});
