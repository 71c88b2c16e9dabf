import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { matrixAt, multiply } from '../geometry/mat3.js';
import { identityPose, type Pose } from '../geometry/pose.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { motionMatrix } from '../solve/motion.js';
import { fitFraming } from './fit-framing.js';
import { framingMatrix, overhang } from './framing.js';

const size = { width: 1280, height: 720 };
const centre = { x: 640, y: 360 };

const shake = fc.array(
  fc.record({
    x: fc.double({ min: -60, max: 60, noNaN: true }),
    y: fc.double({ min: -60, max: 60, noNaN: true }),
    rotation: fc.double({ min: -0.08, max: 0.08, noNaN: true }),
    scale: fc.double({ min: 0.93, max: 1.07, noNaN: true }),
  }),
  { minLength: 1, maxLength: 30 },
);

/** Corrections that look at the picture from the side, too. */
const tilted = fc.array(
  fc.record({
    x: fc.double({ min: -60, max: 60, noNaN: true }),
    y: fc.double({ min: -60, max: 60, noNaN: true }),
    rotation: fc.double({ min: -0.08, max: 0.08, noNaN: true }),
    scale: fc.double({ min: 0.93, max: 1.07, noNaN: true }),
    stretch: fc.double({ min: -0.04, max: 0.04, noNaN: true }),
    shear: fc.double({ min: -0.04, max: 0.04, noNaN: true }),
    tiltX: fc.double({ min: -1e-4, max: 1e-4, noNaN: true }),
    tiltY: fc.double({ min: -1e-4, max: 1e-4, noNaN: true }),
  }),
  { minLength: 1, maxLength: 12 },
);

const perspectives = (list: Pose[]): Float64Array =>
  Float64Array.from(list.flatMap((pose) => [...motionMatrix(pose, centre)]));

const table = (list: { x: number; y: number; rotation: number; scale: number }[]): Float64Array =>
  Float64Array.from(list.flatMap((s) => [...similarityMatrix(s, centre)]));

const worst = (corrections: Float64Array, framing: Parameters<typeof framingMatrix>[0]): number => {
  let most = 0;
  for (let k = 0; 9 * k < corrections.length; k++) {
    most = Math.max(
      most,
      ...overhang(multiply(framingMatrix(framing, size), matrixAt(corrections, k)), size),
    );
  }
  return most;
};

const kinds = [
  ['similarities', shake.map(table)],
  ['perspective', tilted.map(perspectives)],
] as const;

test.each(kinds)('leaves no bare edge in any frame: %s', (_, kind) => {
  fc.assert(
    fc.property(kind, (corrections) => {
      const fit = fitFraming(corrections, 0, corrections.length / 9 - 1, size);
      expect(fit).not.toBeNull();
      if (fit) expect(worst(corrections, fit.framing)).toBeLessThan(1e-6);
    }),
  );
});

test.each(kinds)('no smaller zoom would do, wherever the picture is shifted: %s', (_, kind) => {
  fc.assert(
    fc.property(kind, (corrections) => {
      const fit = fitFraming(corrections, 0, corrections.length / 9 - 1, size);
      if (!fit || fit.framing.zoom < 1.0005) return;
      const { zoom, offsetX, offsetY } = fit.framing;
      // Were a smaller zoom possible at all, mixing its shift with this one would show it: search around.
      const smaller = zoom - 4e-4 * zoom;
      let least = Infinity;
      for (let dx = -20; dx <= 20; dx += 2) {
        for (let dy = -20; dy <= 20; dy += 2) {
          least = Math.min(
            least,
            worst(corrections, { zoom: smaller, offsetX: offsetX + dx, offsetY: offsetY + dy }),
          );
        }
      }
      expect(least).toBeGreaterThan(1e-3);
      expect(fit.forcedBy.length).toBeGreaterThan(0);
    }),
    { numRuns: 30 },
  );
});

test('a picture seen from so far aside that a corner lies behind the viewer has no zoom that helps', () => {
  const aside = motionMatrix({ ...identityPose, tiltX: 0.01 }, centre);
  const fit = fitFraming(Float64Array.from(aside), 0, 0, size);
  if (fit) expect(worst(Float64Array.from(aside), fit.framing)).toBeLessThan(1e-6);
  expect(overhang(aside, size)).toEqual([Infinity, Infinity, Infinity, Infinity]);
});

test('one shifted frame needs no zoom but a shift; two opposite ones need both', () => {
  const one = fitFraming(table([{ x: 30, y: 0, rotation: 0, scale: 1 }]), 0, 0, size);
  expect(one?.framing.zoom).toBe(1);
  expect(one?.framing.offsetX).toBeCloseTo(-30, 6);
  const two = fitFraming(
    table([
      { x: 30, y: 0, rotation: 0, scale: 1 },
      { x: -30, y: 0, rotation: 0, scale: 1 },
    ]),
    0,
    1,
    size,
  );
  // 1280 − 60 pixels are left of the width.
  expect(two?.framing.zoom).toBeCloseTo(1280 / 1220, 5);
  expect(two?.forcedBy.map((f) => f.edge).sort()).toEqual(['left', 'right']);
});

test('says so when no zoom can help', () => {
  const list = [-2000, 2000].map((x) => ({ x, y: 0, rotation: 0, scale: 1 }));
  expect(fitFraming(table(list), 0, 1, size)).toBeNull();
});
