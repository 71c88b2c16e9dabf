import { expect, test } from '@jest/globals';
import { translation } from '../../geometry/mat3.js';
import type { Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { groundLevel, shoot } from '../../testing/film.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { defaultFollowOptions, type FollowOptions } from '../options.js';
import { PointPass } from './pass.js';
import { interpolateKeys } from './interpolate-keys.js';
import { fusePasses } from './fuse-passes.js';
import { SampleState, Samples } from '../samples.js';
import { SceneMotion, type SceneChange } from '../scene/scene-motion.js';

const { sin, hypot } = Math;
const kernels = new TrackKernels(kernelModule());
const width = 260;
const height = 200;
const frames = 40;

/** A hand that shakes; the point stands at (130, 100) when it is still. */
const pose = (k: number) => ({ x: 6 * sin(k * 0.5) + 0.4 * k, y: 5 * sin(k * 0.37) });
const truth = (k: number) => ({ x: 130 + pose(k).x, y: 100 + pose(k).y });

const shots = new Map<string, Plane>();

/** Something grey goes before the point on the frames given. */
const film =
  (covered: (k: number) => boolean = () => false, shot = (k: number) => ({ ...pose(k) })) =>
  (k: number): Plane => {
    const name = JSON.stringify(shot(k));
    const clear = shots.get(name) ?? shoot(width, height, { ...shot(k), noise: 2 });
    shots.set(name, clear);
    if (!covered(k)) return clear;
    const data = clear.data.slice();
    const { x, y } = truth(k);
    for (let j = 0; j < height; j++)
      for (let i = 0; i < width; i++) if (hypot(i - x, j - y) < 45) data[j * width + i] = 90;
    return { ...clear, data };
  };

const placed = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };

function follow(
  picture: (k: number) => Plane,
  options: Partial<FollowOptions>,
  keys = [0],
  order = Array.from({ length: frames }, (_, k) => k),
): { path: Samples; follower: PointPass } {
  const path = new Samples(frames);
  for (const k of keys) path.set(k, { ...truth(k), ...placed });
  const follower = new PointPass(kernels, { ...defaultFollowOptions, ...options }, path);
  const watch = new SceneMotion(kernels);
  let before: { picture: Plane; frame: number } | null = null;
  for (const frame of order) {
    const now = { picture: picture(frame), frame };
    const last = before;
    let change: SceneChange | null = null;
    follower.look(now.picture, frame, last ? () => (change ??= watch.compare(last, now)) : undefined);
    before = now;
  }
  follower.finish();
  return { path, follower };
}

const errorAt = (path: Samples, k: number): number => hypot(path.x[k] - truth(k).x, path.y[k] - truth(k).y);
const statesOf = (path: Samples, first: number, last: number): number[] => [
  ...new Set(path.state.slice(first, last + 1)),
];

test('stop: the first frame without the point is lost, and nothing comes after', () => {
  const { path } = follow(
    film((k) => k >= 15 && k < 20),
    { below: 'stop' },
  );
  expect(path.state[15]).toBe(SampleState.lost);
  expect(statesOf(path, 16, 39)).toEqual([SampleState.none]);
});

test('mark: it carries on, and the covered frames are lost', () => {
  const { path } = follow(
    film((k) => k >= 15 && k < 20),
    { below: 'mark' },
  );
  expect(statesOf(path, 15, 19)).toEqual([SampleState.lost]);
  expect(statesOf(path, 20, 39)).toEqual([SampleState.tracked]);
  expect(errorAt(path, 30)).toBeLessThan(0.15);
});

test('bridge: the gap is filled along the camera’s own shake, and is not called sure', () => {
  const { path } = follow(
    film((k) => k >= 15 && k < 25),
    { below: 'bridge', longestGap: 12 },
  );
  expect(statesOf(path, 15, 24)).toEqual([SampleState.bridged]);
  for (let k = 15; k < 25; k++) {
    // The picture's motion is measured to a hundredth of a pixel a frame here; over ten frames that adds up.
    expect(errorAt(path, k)).toBeLessThan(0.3);
    expect(path.confidence[k]).toBeLessThan(0.8);
  }
  expect(errorAt(path, 30)).toBeLessThan(0.15);
});

test('bridge: behind a post something goes on falling, and comes out as it went in', () => {
  // Three pixels a frame to the right, and down ever faster, before ground that stands still.
  const at = (k: number) => ({ x: 50 + 3 * k, y: 50 + 0.06 * k * k });
  const ground = shoot(width, height, { noise: 2 });
  const seen = (k: number): Plane => {
    const data = ground.data.slice();
    const { x, y } = at(k);
    for (let j = 0; j < height; j++)
      for (let i = 0; i < width; i++) {
        const [u, v] = [i + 0.5 - x, j + 0.5 - y];
        if (i >= 108 && i < 132) data[j * width + i] = 70;
        else if (Math.abs(u) < 24 && Math.abs(v) < 24) data[j * width + i] = groundLevel(900 + u, 900 + v);
      }
    return { ...ground, data };
  };
  const path = new Samples(frames);
  path.set(0, { ...at(0), ...placed });
  const follower = new PointPass(kernels, { ...defaultFollowOptions, below: 'bridge' }, path);
  const still = () => ({ motion: translation(0, 0), cut: false });
  for (let k = 0; k < frames; k++) follower.look(seen(k), k, k > 0 ? still : undefined);
  follower.finish();
  const gap = Array.from(path.state.keys()).filter((k) => path.state[k] === SampleState.bridged);
  expect(gap.length).toBeGreaterThan(8);
  // Filled evenly it would be off in the middle by an eighth of 0.12 px a frame² times the gap’s square.
  const straight = (0.12 * (gap.length + 1) ** 2) / 8;
  for (const k of gap) expect(hypot(path.x[k] - at(k).x, path.y[k] - at(k).y)).toBeLessThan(0.6 * straight);
  expect(hypot(path.x[39] - at(39).x, path.y[39] - at(39).y)).toBeLessThan(0.1);
});

test('a gap longer than allowed is not filled', () => {
  const { path } = follow(
    film((k) => k >= 15 && k < 25),
    { below: 'bridge', longestGap: 5 },
  );
  expect(statesOf(path, 15, 20)).toEqual([SampleState.lost]);
  expect(path.state[30]).toBe(SampleState.none);
});

test.each(['stop', 'mark', 'bridge'] as const)('%s: a cut to another shot ends the track', (below) => {
  const elsewhere = (k: number) => ({ x: pose(k).x + (k >= 20 ? 3000 : 0), y: pose(k).y });
  const { path } = follow(film(undefined, elsewhere), { below });
  expect(statesOf(path, 1, 19)).toEqual([SampleState.tracked]);
  expect(path.state[20]).toBe(SampleState.lost);
  expect(path.found(39)).toBe(false);
});

test('a lost track takes heart at the next key, and keys are kept', () => {
  const { path } = follow(
    film((k) => k >= 15 && k < 20),
    { below: 'stop' },
    [0, 30],
  );
  expect(path.keys()).toEqual([0, 30]);
  expect(errorAt(path, 39)).toBeLessThan(0.15);
});

test('an offset: something else is followed, the path stays the point’s', () => {
  const path = new Samples(frames);
  path.set(0, { ...truth(0), ...placed });
  const options = { ...defaultFollowOptions, model: 'translation' as const };
  const follower = new PointPass(kernels, options, path, [{ frame: 0, x: 40, y: -25 }]);
  // The point itself is covered throughout.
  const picture = (k: number): Plane =>
    shoot(width, height, {
      ...pose(k),
      paint: (x, y) => (hypot(x - truth(k).x, y - truth(k).y) < 14 ? 200 : null),
    });
  for (let k = 0; k < 20; k++) follower.look(picture(k), k);
  for (let k = 1; k < 20; k++) expect(errorAt(path, k)).toBeLessThan(0.15);
});

test('passes from two keys are joined: the path meets both, and a slip of one is not taken over', () => {
  const out = new Samples(frames);
  const [forwards, backwards] = [new Samples(frames), new Samples(frames)];
  for (const k of [0, 30]) out.set(k, { ...truth(k), ...placed });
  for (let k = 1; k < 30; k++) {
    const sample = { confidence: 0.95, rotation: 0, scale: 1, state: SampleState.tracked };
    // The one has drifted by a pixel on arrival; the other slips by twenty beyond frame 12.
    forwards.set(k, { ...sample, x: truth(k).x + k / 30, y: truth(k).y });
    backwards.set(k, { ...sample, x: truth(k).x + (k < 12 ? 20 : 0), y: truth(k).y });
  }
  const arrived = (x: number, frame: number) => ({
    ...truth(frame),
    x: truth(frame).x + x,
    confidence: 0.9,
    rotation: 0,
    scale: 1,
    state: SampleState.tracked,
  });
  fusePasses(
    out,
    0,
    30,
    { path: forwards, arrival: arrived(1, 30) },
    { path: backwards, arrival: arrived(20, 0) },
  );
  for (let k = 1; k < 30; k++) expect(errorAt(out, k)).toBeLessThan(0.05);
  expect(out.keys()).toEqual([0, 30]);
});

test('where passes disagree the surer one counts, frame by frame', () => {
  const out = new Samples(frames);
  const [forwards, backwards] = [new Samples(frames), new Samples(frames)];
  for (const k of [0, 30]) out.set(k, { ...truth(k), ...placed });
  // Each of them is on a distractor for a while, and less sure there; at no time both.
  const isOnDouble = [(k: number) => k >= 4 && k < 12, (k: number) => k >= 17 && k < 27];
  [forwards, backwards].forEach((path, i) => {
    for (let k = 1; k < 30; k++) {
      const doubled = isOnDouble[i](k);
      const found = { rotation: 0, scale: 1, state: SampleState.tracked, confidence: doubled ? 0.7 : 0.95 };
      path.set(k, { ...found, x: truth(k).x, y: truth(k).y + (doubled ? 84 : 0) });
    }
  });
  fusePasses(out, 0, 30, { path: forwards, arrival: undefined }, { path: backwards, arrival: undefined });
  for (let k = 1; k < 30; k++) {
    expect(errorAt(out, k)).toBeLessThan(1e-9);
    expect(out.confidence[k]).toBeCloseTo(0.95, 6);
  }
});

test('where passes disagree a little, the path goes from the one to the other and says so', () => {
  const out = new Samples(frames);
  const [forwards, backwards] = [new Samples(frames), new Samples(frames)];
  for (const k of [0, 30]) out.set(k, { x: 100, y: 100, ...placed });
  for (let k = 1; k < 30; k++) {
    const sample = { y: 100, confidence: 1, rotation: 0, scale: 1, state: SampleState.tracked };
    forwards.set(k, { ...sample, x: 100 });
    backwards.set(k, { ...sample, x: 101.2 });
  }
  fusePasses(out, 0, 30, { path: forwards, arrival: undefined }, { path: backwards, arrival: undefined });
  expect(out.x[15]).toBeCloseTo(100.6, 6);
  expect(out.x[3]).toBeCloseTo(100.12, 6);
  // 1.2 pixels apart: less than sure.
  expect(out.confidence[15]).toBeLessThan(0.5);
});

test('keys are joined by straight lines or by a smooth curve', () => {
  const byHand = (): Samples => {
    const samples = new Samples(frames);
    const xs = [0, 10, 40, 90];
    xs.forEach((x, i) => samples.set(10 * i, { x, y: 2 * x, ...placed }));
    return samples;
  };
  const straight = byHand();
  interpolateKeys(straight, 'linear');
  expect(straight.x[15]).toBeCloseTo(25, 9);
  expect(straight.state[15]).toBe(SampleState.bridged);
  expect(straight.state[35]).toBe(SampleState.none);
  const smooth = byHand();
  interpolateKeys(smooth, 'smooth');
  // x = t² / 10 on the keys: the curve through them is the parabola, exactly, where both ends have neighbours.
  expect(smooth.x[15]).toBeCloseTo(22.5, 6);
  expect(smooth.y[15]).toBeCloseTo(45, 6);
});
