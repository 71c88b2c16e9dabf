import { describe, expect, test } from '@jest/globals';
import { apply, identity, translation, type Mat3 } from '../../geometry/mat3.js';
import { similarityMatrix, type PointPair } from '../../geometry/similarity.js';
import { grainFrom } from '../../testing/grain.js';
import { robustSimilarity, dominantMotion } from './dominant-motion.js';

const { hypot } = Math;
const pivot = { x: 480, y: 270 };

/** Windows all over a picture of 960 × 540, or over a part of it. */
const spread = (across: number, down: number, left = 0, top = 0, width = 960, height = 540) =>
  Array.from({ length: across * down }, (_, i) => ({
    x: left + (((i % across) + 0.5) * width) / across,
    y: top + ((Math.floor(i / across) + 0.5) * height) / down,
  }));

/** Windows that go a share of the way that a motion takes them, give or take. */
function going(places: readonly { x: number; y: number }[], motion: Mat3, share = 1, give = 0): PointPair[] {
  const grain = grainFrom(3);
  return places.map((from) => {
    const { x, y } = apply(motion, from.x, from.y);
    const to = {
      x: from.x + share * (x - from.x) + give * grain(),
      y: from.y + share * (y - from.y) + give * grain(),
    };
    return { from, to, weight: 1 };
  });
}

/** How far two motions take the picture's corners apart, pixels. */
const apart = (a: Mat3 | null, b: Mat3): number =>
  a === null
    ? Infinity
    : Math.max(
        ...[0, 960].flatMap((u) =>
          [0, 540].map((v) => {
            const [p, q] = [apply(a, u, v), apply(b, u, v)];
            return hypot(p.x - q.x, p.y - q.y);
          }),
        ),
      );

const turned = similarityMatrix({ x: 5, y: -3, rotation: 0.05, scale: 1.02 }, pivot);
const plain = spread(8, 6);

test('most windows lead, some may go elsewhere', () => {
  const pairs = [...going(plain, turned, 1, 0.05), ...going(spread(4, 4), translation(70, 50))];
  const found = robustSimilarity(pairs, pivot);
  expect(apart(found?.motion ?? null, turned)).toBeLessThan(0.2);
  expect(found?.along).toHaveLength(48);
  expect(found?.off).toBeLessThan(0.15);
  expect(robustSimilarity([], pivot)).toBeNull();
});

describe('the motion of a picture', () => {
  test('is that of the few windows that tell, where most fall short of it', () => {
    const { motion, other } = dominantMotion(
      going(spread(4, 2), turned),
      going(plain, turned, 0.5, 1.5),
      pivot,
    );
    expect(apart(motion, turned)).toBeLessThan(0.01);
    expect(other).toBeUndefined();
  });

  test('is not that of what crosses it, though that tells most', () => {
    const crossing = going(spread(3, 6, 300, 100, 150, 300), translation(6, 0));
    const wall = going(spread(4, 2), identity);
    const { motion, other } = dominantMotion([...crossing, ...wall], going(plain, identity, 1, 1.5), pivot);
    expect(apart(motion, identity)).toBeLessThan(0.01);
    expect(apart(other ?? null, translation(6, 0))).toBeLessThan(0.01);
  });

  test('stays with what it was a picture before, where the plain windows say little', () => {
    const left = going(spread(3, 5, 0, 0, 300, 540), translation(4, 0));
    const right = going(spread(4, 5, 560, 0, 400, 540), identity);
    // They fall short of either motion: by half of the one they stand still as well.
    const vague = going(plain, translation(0.7, 0), 1, 1.5);
    const taken = (last: readonly PointPair[]) =>
      dominantMotion([...left, ...right], vague, pivot, last).motion;
    expect(apart(taken(left), translation(4, 0))).toBeLessThan(0.01);
    expect(apart(taken(right), identity)).toBeLessThan(0.01);
  });

  test('is that of most where all of them tell', () => {
    const { motion, other } = dominantMotion(
      [...going(plain, turned), ...going(spread(3, 3, 300, 100, 150, 300), identity)],
      [],
      pivot,
    );
    expect(apart(motion, turned)).toBeLessThan(0.01);
    expect(other).toBeUndefined();
  });

  test('is that of soft shade which all goes one way, though hard things before it go another', () => {
    const twigs = translation(-25, 21);
    const shade = similarityMatrix({ x: 3, y: 2, rotation: 0.01, scale: 1 }, pivot);
    const { motion, other } = dominantMotion(going(spread(5, 4), twigs), going(plain, shade, 1, 0.2), pivot);
    expect(apart(motion, shade)).toBeLessThan(0.5);
    expect(apart(other ?? null, twigs)).toBeLessThan(0.01);
  });

  test('is unknown where nothing can be fitted', () => {
    expect(dominantMotion([], going(plain, turned), pivot)).toEqual({ motion: null });
  });
});
