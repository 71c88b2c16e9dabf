import { expect, test } from '@jest/globals';
import { multiply, type Mat3 } from '../geometry/mat3.js';
import { similarityMatrix } from '../geometry/similarity.js';
import { framingMatrix, overhang } from './framing.js';
import { roomAt, roomOver } from './room.js';

const size = { width: 400, height: 200 };
const middle = { x: 200, y: 100 };

test('zoomed in, the picture may go as far as the zoom has cut away', () => {
  const { x, y, scale } = roomAt(framingMatrix({ zoom: 1.1, offsetX: 0, offsetY: 0 }, size), size);
  // A tenth more of 400 pixels is 20 on either side, of 200 is 10.
  expect(x[0]).toBeCloseTo(-20, 1);
  expect(x[1]).toBeCloseTo(20, 1);
  expect(y[1]).toBeCloseTo(10, 1);
  expect(scale[0]).toBeCloseTo(1 / 1.1, 3);
});

test('a turn goes until a corner comes in, one way as far as the other', () => {
  const zoom = 1.1;
  const { rotation } = roomAt(framingMatrix({ zoom, offsetX: 0, offsetY: 0 }, size), size);
  expect(rotation[0]).toBeCloseTo(-rotation[1], 5);
  // The output's corner reaches half of its height times the cosine and half of its width times the sine.
  expect(100 * Math.cos(rotation[1]) + 200 * Math.sin(rotation[1])).toBeCloseTo(100 * zoom, 1);
});

test('in perspective the edge of the room is where a bare edge begins; where one shows there is none', () => {
  const leaning: Mat3 = [1.2, 0.02, -30, -0.01, 1.25, -20, 1e-4, -5e-5, 1];
  const { y } = roomAt(leaning, size);
  const bareAt = (by: number): number =>
    Math.max(
      ...overhang(multiply(similarityMatrix({ x: 0, y: by, rotation: 0, scale: 1 }, middle), leaning), size),
    );
  expect(bareAt(y[1] - 0.05)).toBe(0);
  expect(bareAt(y[1] + 0.05)).toBeGreaterThan(0);
  const bare = roomAt(framingMatrix({ zoom: 0.9, offsetX: 0, offsetY: 0 }, size), size);
  expect(bare.x).toEqual([0, 0]);
});

test('of a long range some frames are looked at, the first and the last among them', () => {
  const placements = new Float64Array(9 * 1000);
  for (let k = 0; k < 1000; k++) placements.set([1.1, 0, -20, 0, 1.1, -10, 0, 0, 1], 9 * k);
  const { frames } = roomOver(placements, size, { first: 5, last: 990 }, 100);
  expect([frames[0], frames.at(-1)]).toEqual([5, 990]);
  expect(frames.length).toBeLessThan(102);
});
