import { expect, test } from '@jest/globals';
import { makePlane } from '../track/image/plane.js';
import { identity, translation } from '../geometry/mat3.js';
import { warpPlane } from './warp.js';

const source = makePlane(40, 30);
source.data.forEach((_, i) => (source.data[i] = 128 + 100 * Math.sin(i * 0.37) * Math.cos(i * 0.011)));
const bounds = { left: 0, top: 0, right: 40, bottom: 30 };

test.each(['linear', 'cubic'] as const)('%s: standing still copies every pixel', (interpolation) => {
  const target = makePlane(40, 30);
  warpPlane(source, target, identity, bounds, interpolation, 16);
  expect([...target.data]).toEqual([...source.data]);
});

test.each(['linear', 'cubic'] as const)(
  '%s: whole-pixel shifts are exact, and what comes from outside is filled',
  (interpolation) => {
    const target = makePlane(40, 30);
    warpPlane(source, target, translation(3, -2), bounds, interpolation, 16);
    for (let y = 0; y < 30; y++) {
      for (let x = 0; x < 40; x++) {
        const inside = x + 3 < 40 && y - 2 >= 0;
        expect(target.data[y * 40 + x]).toBe(inside ? source.data[(y - 2) * 40 + x + 3] : 16);
      }
    }
  },
);

test('half a pixel between two is their mean', () => {
  const target = makePlane(40, 30);
  warpPlane(source, target, translation(0.5, 0), bounds, 'linear', 16);
  expect(target.data[45]).toBe(Math.floor((source.data[45] + source.data[46]) / 2 + 0.5));
});
