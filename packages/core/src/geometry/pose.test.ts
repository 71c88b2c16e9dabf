import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { apply, multiply, translation } from './mat3.js';
import { poseMatrix, poseOf, identityPose, type Pose } from './pose.js';
import { similarityMatrix } from './similarity.js';

const near = (n: number) => fc.double({ min: -n, max: n, noNaN: true });
const pose = fc.record({
  x: near(2000),
  y: near(2000),
  rotation: near(3),
  scale: fc.double({ min: 0.2, max: 4, noNaN: true }),
  stretch: near(0.5),
  shear: near(0.5),
  tiltX: near(1e-3),
  tiltY: near(1e-3),
});

test('a pose and its matrix are the same thing', () => {
  fc.assert(
    fc.property(pose, (wanted: Pose) => {
      const back = poseOf(poseMatrix(wanted));
      for (const key of Object.keys(wanted) as (keyof Pose)[]) expect(back[key]).toBeCloseTo(wanted[key], 8);
    }),
  );
});

test('the point itself stands at x, y; a similarity is one', () => {
  const slanted = { ...identityPose, x: 300, y: 200, stretch: 0.1, tiltX: 1e-4 };
  expect(apply(poseMatrix(slanted), 0, 0)).toEqual({ x: 300, y: 200 });
  const similarity = { x: 5, y: -3, rotation: 0.3, scale: 1.2 };
  const m = multiply(translation(5, -3), similarityMatrix({ ...similarity, x: 0, y: 0 }, { x: 0, y: 0 }));
  poseMatrix({ ...identityPose, ...similarity }).forEach((v, i) => expect(v).toBeCloseTo(m[i], 12));
  expect(poseOf(m)).toMatchObject({ stretch: 0, shear: 0, tiltX: 0, tiltY: 0 });
});

test('turn and size are those of what lies just about the point', () => {
  // Seen from a distance of a thousand pixels, tilted: at the point itself it is neither turned nor grown.
  const tilted = poseMatrix({ ...identityPose, x: 700, y: 500, tiltX: 1e-3 });
  const [p, q] = [apply(tilted, -1e-3, 0), apply(tilted, 1e-3, 0)];
  expect((q.x - p.x) / 2e-3).toBeCloseTo(1, 6);
  expect(poseOf(tilted)).toMatchObject({ rotation: expect.closeTo(0, 12), scale: expect.closeTo(1, 12) });
});
