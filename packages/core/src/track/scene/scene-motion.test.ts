import { describe, expect, test } from '@jest/globals';
import { apply, multiply, translation, type Mat3 } from '../../geometry/mat3.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import { makePlane, type Plane } from '../image/plane.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { groundLevel, shoot, shootLevels, type Shot } from '../../testing/film.js';
import { grainFrom } from '../../testing/grain.js';
import { kernelModule } from '../../testing/kernel-module.js';
import { disc } from '../../testing/marks.js';
import { SceneMotion } from './scene-motion.js';

const { abs, cos, hypot, max, round, sin } = Math;
const kernels = new TrackKernels(kernelModule());

/** From the ground to the picture, as `shoot` draws it. */
const seenBy = (width: number, height: number, { x = 0, y = 0, angle = 0, size = 1 }: Shot): Mat3 =>
  multiply(
    similarityMatrix({ x, y, rotation: angle, scale: size }, { x: width / 2, y: height / 2 }),
    translation(0, 0),
  );

const compare = (before: Plane, after: Plane) =>
  new SceneMotion(kernels).compare({ picture: before, frame: 0 }, { picture: after, frame: 1 });

/** The most that a motion has a corner of the picture wrong, pixels. */
function wrongBy(motion: Mat3 | null, width: number, height: number, shot: Shot): number {
  if (!motion) return Infinity;
  const truth = seenBy(width, height, shot);
  const corners = [
    [0, 0],
    [width, 0],
    [0, height],
    [width, height],
  ];
  return max(
    ...corners.map(([u, v]) => {
      const [a, b] = [apply(motion, u, v), apply(truth, u, v)];
      return hypot(a.x - b.x, a.y - b.y);
    }),
  );
}

describe('the motion of the whole picture', () => {
  test.each([
    ['small', 160, 120],
    ['as it is', 400, 300],
    ['halved on the way', 960, 540],
  ])('%s: moved, turned and grown, to a fraction of a pixel at the corners', (_, width, height) => {
    const still = shoot(width, height);
    const share = width / 400;
    for (const shot of [
      { x: 5 * share, y: -3 * share },
      { angle: 0.02 },
      { size: 1.03 },
      { x: -7 * share, y: 4 * share, angle: -0.015, size: 0.98 },
    ]) {
      const { motion, cut } = compare(still, shoot(width, height, shot));
      expect(cut).toBe(false);
      // A tenth of a pixel of the small copy that is looked at.
      expect(wrongBy(motion, width, height, shot)).toBeLessThan(0.15 * max(1, share));
    }
  });

  test('someone who walks through a third of it does not count', () => {
    const [width, height] = [400, 300];
    const walker = (from: number) => (u: number, v: number) =>
      u >= from && u < from + 120 && v > 40 ? 60 + ((u - from) % 40) : null;
    const shot = { x: 4, y: 2 };
    const before = shoot(width, height, { paint: walker(60) });
    const after = shoot(width, height, { ...shot, paint: walker(72) });
    expect(wrongBy(compare(before, after).motion, width, height, shot)).toBeLessThan(0.2);
  });

  test('grain may lie over it', () => {
    const [width, height] = [400, 300];
    const shot = { x: 3, y: -2, noise: 5 };
    const { motion, cut } = compare(shoot(width, height, { noise: 5 }), shoot(width, height, shot));
    expect(cut).toBe(false);
    expect(wrongBy(motion, width, height, shot)).toBeLessThan(0.4);
  });

  test.each([0.7, 0.93, 1.2])('the light may change to %f of what it was', (gain) => {
    const [width, height] = [400, 300];
    const shot = { x: 6, y: -4, angle: 0.01 };
    const dim = shoot(width, height, { gain: 0.8 });
    const { motion, cut } = compare(dim, shoot(width, height, { ...shot, gain: 0.8 * gain }));
    expect(cut).toBe(false);
    expect(wrongBy(motion, width, height, shot)).toBeLessThan(0.15);
  });

  describe('before a plain wall', () => {
    const side = 400;
    const marks = [
      [60, 50],
      [330, 70],
      [210, 130],
      [90, 260],
      [300, 330],
      [180, 350],
      [360, 210],
      [270, 200],
      [30, 160],
      [40, 350],
      [260, 40],
      [380, 380],
      [310, 260],
      [240, 300],
    ].map(([x, y]) => ({ x, y }));
    /** A shaded wall with a few discs on it, turned about the picture's middle, and what is before it. */
    const wall = (seed: number, dx: number, angle: number, before: (x: number, y: number) => number | null) =>
      shootLevels(
        side,
        (x, y) => {
          const near = before(x, y);
          if (near !== null) return near;
          const [u, v] = [x - dx - side / 2, y - side / 2];
          const [p, q] = [
            side / 2 + cos(angle) * u + sin(angle) * v,
            side / 2 - sin(angle) * u + cos(angle) * v,
          ];
          const shade = 120 + 12 * sin(p / 70) + 9 * cos(q / 60);
          return marks.reduce((level, m) => level + (disc(5)(p - m.x, q - m.y) - 90) / 2, shade);
        },
        0,
        0,
        2,
        grainFrom(seed),
      );
    const nothing = (): null => null;

    test('it is what the few marks do, not what the grain does', () => {
      const { motion, cut } = compare(wall(1, 0, 0, nothing), wall(2, 6, 0.03, nothing));
      expect(cut).toBe(false);
      // Windows on the wall alone fall short by a third, or two pixels at the corners.
      expect(wrongBy(motion, side, side, { x: 6, angle: 0.03 })).toBeLessThan(0.3);
    });

    test('someone who crosses is not the picture, though there is more of him to see', () => {
      const walker = (at: number) => (x: number, y: number) =>
        abs(x - at) < 55 && y > 30 ? groundLevel(x - at, y) : null;
      const { motion, other } = compare(wall(3, 0, 0, walker(150)), wall(4, 0, 0, walker(156)));
      expect(wrongBy(motion, side, side, {})).toBeLessThan(0.5);
      expect(wrongBy(other ?? null, side, side, { x: 6 })).toBeLessThan(1);
    });
  });

  test('where there is nothing to see nothing is said, and no cut either', () => {
    const grey = makePlane(320, 240);
    grey.data.fill(90);
    expect(compare(grey, grey)).toEqual({ motion: null, cut: false });
  });
});

describe('a cut', () => {
  const [width, height] = [400, 300];
  const other = (seed: number): Plane => {
    const far = shoot(width + 900, height);
    const plane = makePlane(width, height);
    for (let y = 0; y < height; y++)
      plane.data.set(far.data.subarray(y * far.width + seed, y * far.width + seed + width), y * width);
    return plane;
  };

  test('is told between pictures of different places', () => {
    for (const seed of [0, 880]) {
      const found = compare(shoot(width, height), other(seed));
      expect(found).toEqual({ motion: null, cut: true });
    }
  });

  test('a knocked camera and a fade are none', () => {
    expect(compare(shoot(width, height), shoot(width, height, { x: 30, y: 18 })).cut).toBe(false);
    const faded = shoot(width, height);
    faded.data.forEach((level, i) => (faded.data[i] = round(0.5 * level)));
    expect(compare(shoot(width, height), faded).cut).toBe(false);
    const flash = shoot(width, height, { x: 7.3, y: -4.1, angle: 0.02, gain: 1.35 });
    expect(compare(shoot(width, height, { x: 7.3, y: -4.1, angle: 0.02 }), flash).cut).toBe(false);
  });
});

test('points are carried along to a fraction of a pixel; where nothing holds them nothing is said', () => {
  const [width, height] = [960, 540];
  const flat = (u: number): number | null => (u < 200 ? 100 : null);
  const shot = { x: 6, y: -4, angle: 0.01 };
  const watch = new SceneMotion(kernels);
  const before = { picture: shoot(width, height, { paint: flat }), frame: 4 };
  const after = { picture: shoot(width, height, { ...shot, paint: flat }), frame: 5 };
  const points = [480, 270, 700, 100, 400, 450, 850, 330];
  const moved = watch.carry(before, after, points);
  const truth = seenBy(width, height, shot);
  for (let i = 0; i < points.length; i += 2) {
    const { x, y } = apply(truth, points[i], points[i + 1]);
    expect(hypot(moved[i] - (x - points[i]), moved[i + 1] - (y - points[i + 1]))).toBeLessThan(0.3);
  }
  expect(watch.carry(before, after, [80, 270])[0]).toBeNaN();
  // Pictures that were looked at are kept; the next pair needs only one more.
  const next = { picture: shoot(width, height, { x: 9, y: -6, paint: flat }), frame: 6 };
  const on = watch.compare(after, next);
  expect(on.motion).not.toBeNull();
});
