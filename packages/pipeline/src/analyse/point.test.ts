import { expect, test } from '@jest/globals';
import {
  defaultFollowOptions,
  makePlane,
  Samples,
  SampleState,
  type Plane,
  type TrackPicture,
} from '@lurn/core';
import { ThreadWork } from '../pass/thread-work.js';
import { packSamples } from './packed-samples.js';
import { pointModule, unpackFindings, type Finding, type PointOrder } from './point.js';

const { sin, cos, round } = Math;
const key = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };

/** A texture that moves by a pixel and a half a frame. */
function picture(frame: number): Plane {
  const plane = makePlane(200, 150);
  for (let y = 0; y < 150; y++)
    for (let x = 0; x < 200; x++) {
      const u = x - 1.5 * frame;
      plane.data[y * 200 + x] = round(
        128 + 40 * sin(u * 0.23 + sin(y * 0.06)) + 40 * cos(y * 0.19 + sin(u * 0.05)),
      );
    }
  return plane;
}

const options = { ...defaultFollowOptions, search: { width: 61, height: 61 } };

async function working(direction: 1 | -1, start: number, end: number, keys: number[]): Promise<ThreadWork> {
  const path = new Samples(30);
  for (const k of keys) path.set(k, { x: 70 + 1.5 * k, y: 75, ...key });
  const work = new ThreadWork();
  const segment = { run: 4, start, end };
  const order: PointOrder = {
    segments: [{ segment, path: packSamples(path), options, offsets: [], lent: null }],
  };
  await work.begin(direction, [{ number: 0, module: pointModule, order }]);
  return work;
}

const foundIn = (work: ThreadWork, seen: TrackPicture, frame: number): Finding[] => {
  const [{ found }] = work.look(seen, frame, null);
  return unpackFindings(found as Float64Array);
};

async function walk(
  direction: 1 | -1,
  start: number,
  end: number,
  keys: number[],
  order: number[],
): Promise<Finding[]> {
  const work = await working(direction, start, end, keys);
  return order.flatMap((frame) => foundIn(work, picture(frame), frame));
}

const upTo = (n: number): number[] => Array.from({ length: n }, (_, k) => k);

test('pictures in the kernels’ own memory are seen as any others', async () => {
  const work = await working(1, 0, 12, [0]);
  const ring = [0, 1, 2].map(() => work.buffer(200 * 150));
  const found = upTo(13).flatMap((frame) => {
    const data = ring[frame % ring.length];
    data.set(picture(frame).data);
    return foundIn(work, { ...picture(frame), data, wasmAddress: work.wasmAddress(data) }, frame);
  });
  expect(found).toEqual(await walk(1, 0, 12, [0], upTo(13)));
  expect(work.wasmAddress(new Uint8Array(4))).toBeUndefined();
});

test('a segment is walked from its start to its end and no farther', async () => {
  const found = await walk(1, 5, 12, [5], upTo(20));
  expect(found.map((f) => f.frame)).toEqual([6, 7, 8, 9, 10, 11, 12]);
  for (const { frame, x, run } of found) {
    expect(run).toBe(4);
    expect(Math.abs(x - 70 - 1.5 * frame)).toBeLessThan(0.05);
  }
});

test('backwards likewise; what a pass finds on a key’s frame is told apart', async () => {
  const found = await walk(-1, 12, 4, [12, 8], upTo(20).reverse());
  expect(found.filter((f) => !f.arrival).map((f) => f.frame)).toEqual([11, 10, 9, 7, 6, 5, 4]);
  const arrivals = found.filter((f) => f.arrival);
  expect(arrivals.map((f) => f.frame)).toEqual([8]);
  expect(Math.abs(arrivals[0].x - 70 - 12)).toBeLessThan(0.05);
});
