import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { identityPose } from '../../geometry/pose.js';
import type { Place } from '../samples.js';
import { between, blend, speedThrough, type Knot } from './place-curve.js';

const number = fc.double({ min: -500, max: 500, noNaN: true });
const place: fc.Arbitrary<Place> = fc.record({
  x: number,
  y: number,
  rotation: number,
  scale: number,
  stretch: number,
  shear: number,
  tiltX: number,
  tiltY: number,
});

test('a curve starts and ends where it is told, and without speeds runs straight', () => {
  fc.assert(
    fc.property(place, place, fc.integer({ min: 2, max: 400 }), (from, to, length) => {
      const [a, b]: Knot[] = [
        { frame: 10, place: from },
        { frame: 10 + length, place: to },
      ];
      expect(between(a, b, 10).x).toBeCloseTo(from.x, 9);
      expect(between(a, b, 10 + length).y).toBeCloseTo(to.y, 9);
      const t = 1 / length;
      expect(between(a, b, 11).rotation).toBeCloseTo(from.rotation + t * (to.rotation - from.rotation), 6);
    }),
  );
});

test('it leaves and arrives with the speeds given', () => {
  const still: Place = identityPose;
  const a: Knot = { frame: 0, place: still, speed: blend((c) => (c === 'x' ? 2 : 0)) };
  const b: Knot = { frame: 1000, place: { ...still, x: 50 }, speed: blend((c) => (c === 'x' ? -1 : 0)) };
  expect(between(a, b, 1).x).toBeCloseTo(2, 1);
  expect(between(a, b, 999).x).toBeCloseTo(51, 1);
});

test('the speed at the middle of three places is that of the parabola through them', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 50 }),
      fc.integer({ min: 1, max: 50 }),
      fc.double({ min: -3, max: 3, noNaN: true }),
      (before, after, bend) => {
        const at = (frame: number): Knot => ({
          frame,
          place: { ...identityPose, x: bend * frame * frame + 3 * frame },
        });
        const { x } = speedThrough(at(-before), at(0), at(after));
        expect(x).toBeCloseTo(3, 6);
      },
    ),
  );
});
