import { beforeAll, describe, expect, test } from '@jest/globals';
import { apply, invert, matrixAt, multiply, type Mat3 } from '../../geometry/mat3.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { filmScene, seenFrom, texture, type Ground } from '../../testing/scene-film.js';
import { mapPlane } from '../image/patch.js';
import type { Plane } from '../image/plane.js';
import type { MotionGroup, ShotGroups } from './motion-group.js';
import { findGroups } from './motion-groups.js';
import { SceneFeatures } from './shot-features.js';
import { ShotTracker } from './shot-tracker.js';

const { hypot, max, sqrt } = Math;
const kernels = new TrackKernels(kernelModule());
const [width, height] = [480, 270];
const size = { width, height };

function analyse(frames: number, film: (frame: number) => Plane): ShotGroups[] {
  const tracker = new ShotTracker(kernels);
  const features = new SceneFeatures();
  for (let k = 0; k < frames; k++) features.add(tracker.look(mapPlane(kernels, film(k)), k));
  features.add(tracker.end());
  return features.shots().map((shot) => findGroups(shot, size));
}

/** How far a group's motion is from the truth where it lies: RMS, and on its last frame; pixels. */
function errorOf(shot: ShotGroups, group: MotionGroup, truth: (frame: number) => Mat3) {
  const { matrices } = group.models[group.proposed];
  const back = invert(truth(group.first));
  const start = invert(matrixAt(matrices, group.first - shot.first));
  const middle = apply(matrixAt(matrices, group.first - shot.first), group.middle.x, group.middle.y);
  let [sum, count, last, worst] = [0, 0, 0, 0];
  for (let k = group.first; k <= group.last; k++) {
    const found = multiply(matrixAt(matrices, k - shot.first), start);
    const right = multiply(truth(k), back);
    for (const [dx, dy] of [
      [0, 0],
      [25, 12],
      [-25, 12],
      [25, -12],
    ]) {
      const [a, b] = [found, right].map((m) => apply(m, middle.x + dx, middle.y + dy));
      const off = hypot(a.x - b.x, a.y - b.y);
      sum += off * off;
      count++;
      worst = max(worst, off);
      if (k === group.last) last = max(last, off);
    }
  }
  return { rms: sqrt(sum / count), last, worst };
}

describe('a long pan', () => {
  const frames = 240;
  const ground = texture(3, 2100, 420);
  const seen = (k: number) => seenFrom(k, width, height, { x: -60 - 4.6 * k, y: -70 });
  let shots: ShotGroups[];
  beforeAll(() => {
    shots = analyse(frames, (k) =>
      filmScene(width, height, [{ plane: ground, frameFromGround: seen }], k, { noise: 1.5 }),
    );
  });

  test('is one shot of one group, whose first and last frame agree', () => {
    expect(shots.map(({ first, last }) => [first, last])).toEqual([[0, frames - 1]]);
    const [group] = shots[0].groups;
    expect(shots[0].groups).toHaveLength(1);
    expect(group.proposed).toBe('similarity');
    const { last } = errorOf(shots[0], group, seen);
    expect(group.models.similarity.residual).toBeLessThan(0.25);
    expect(last).toBeLessThan(0.3);
  });
});

describe('a camera that travels past things at three depths, and something that crosses', () => {
  const frames = 100;
  const far = texture(5, 900, 420);
  const middle = cutOut(texture(6, 900, 420), (y) => y > 210);
  const near = cutOut(texture(7, 1000, 420), (y) => y > 290);
  const boat = texture(8, 110, 60);
  const at = (share: number) => (k: number) =>
    seenFrom(k, width, height, { x: -150 - share * (1.5 * k + 7 * Math.sin(k / 9)), y: -75 });
  const crossing = (k: number): Mat3 => seenFrom(k, width, height, { x: -90 + 5.4 * k, y: 70 });
  const grounds: Ground[] = [
    { plane: far, frameFromGround: at(0.2) },
    { plane: boat, frameFromGround: crossing },
    { plane: middle, frameFromGround: at(0.6) },
    { plane: near, frameFromGround: at(1.6) },
  ];
  let shot: ShotGroups;
  beforeAll(() => {
    [shot] = analyse(frames, (k) => filmScene(width, height, grounds, k, { noise: 1.5 }));
  });

  test('the largest comes first, and each depth is found where it is', () => {
    const errors = shot.groups.map((group) => ({
      group,
      off: [at(0.2), at(0.6), at(1.6), crossing].map((truth) => errorOf(shot, group, truth).rms),
    }));
    // The far bank is most of the picture.
    expect(errors[0].off[0]).toBeLessThan(0.25);
    const [, second, third] = [0, 1, 2].map((truth) => errors.find(({ off }) => off[truth] < 0.25));
    expect(second?.group.depth).toBeGreaterThan(0);
    // As deep as it is: 0.4 of the way that the nearest slides in 1.4.
    expect(third?.group.depth).toBeCloseTo(1, 1);
    expect(second?.group.depth).toBeCloseTo(0.4 / 1.4, 1);
    const boatGroup = errors.find(({ off }) => off[3] < 0.4);
    expect(boatGroup?.group.depth).toBeNull();
  });
});

describe('shots', () => {
  const grounds = [11, 12].map((seed, i): Ground => ({
    plane: texture(seed, 760, 420),
    frameFromGround: (k) =>
      seenFrom(k + 40 * i, width, height, { x: -120 - k * (i === 0 ? 0.6 : -0.4), y: -70 }),
  }));
  const cut = 40;
  const [frames, flash, dark] = [80, 20, 60];
  let shots: ShotGroups[];
  beforeAll(() => {
    shots = analyse(frames, (k) => {
      if (k === dark || k === dark + 1) return filmScene(width, height, [], k, { noise: 1 });
      const gain = k === flash ? 9 : 1;
      return filmScene(width, height, [grounds[k < cut ? 0 : 1]], k, { noise: 1.5, gain });
    });
  });

  test('end at cuts, and only there: a flash and black frames are bridged', () => {
    expect(shots.map(({ first, last }) => [first, last])).toEqual([
      [0, cut - 1],
      [cut, frames - 1],
    ]);
    const bridged = shots.flatMap((shot) =>
      [...shot.bridged.keys()].filter((k) => shot.bridged[k]).map((k) => shot.first + k),
    );
    expect(bridged).toEqual([flash, dark, dark + 1]);
  });

  test('are solved each by itself, and across what is bridged', () => {
    shots.forEach((shot, i) => {
      const { last, worst } = errorOf(shot, shot.groups[0], grounds[i].frameFromGround);
      expect(last).toBeLessThan(0.25);
      // Between the frames on either side the shake goes on unseen: no farther off than it reaches.
      expect(worst).toBeLessThan(5);
    });
  });
});

test('a fast whip is followed', () => {
  const ground = texture(21, 2600, 420);
  // Up to 75 pixels a frame: a sixth of the picture.
  const way = (k: number): number => 1500 / (1 + Math.exp(-(k - 30) / 5));
  const seen = (k: number) => seenFrom(k, width, height, { x: -100 - way(k), y: -70 }, 0.5);
  const [shot, ...others] = analyse(60, (k) =>
    filmScene(width, height, [{ plane: ground, frameFromGround: seen }], k, { noise: 1.5 }),
  );
  expect(others).toHaveLength(0);
  const { rms, last } = errorOf(shot, shot.groups[0], seen);
  expect(rms).toBeLessThan(0.25);
  expect(last).toBeLessThan(0.3);
});

test.each([
  ['of one colour', 30, 0],
  ['of noise only', 30, 25],
  ['of one frame', 1, 1],
])('a clip %s has no groups', (_, frames, noise) => {
  const shots = analyse(frames, (k) => filmScene(width, height, [], k, { noise, gain: 0 }));
  expect(shots.flatMap(({ groups }) => groups)).toEqual([]);
});

/** Lets through what is not wanted of a texture. */
function cutOut(plane: Plane, wanted: (y: number) => boolean): Plane {
  plane.data.forEach((_, i) => {
    if (!wanted(Math.floor(i / plane.width))) plane.data[i] = 0;
  });
  return plane;
}
