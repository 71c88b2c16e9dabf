import { expect, test } from '@jest/globals';
import { defaultFollowOptions, makePlane, Samples, SampleState, type Plane } from '@lurn/core';
import { packFindings, unpackFindings } from './crew.js';
import { LegWalkers, type Finding } from './legs.js';
import { asPicture, pictureFormat } from './track-picture.js';

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

function walk(direction: 1 | -1, start: number, end: number, keys: number[], order: number[]): Finding[] {
  const path = new Samples(30);
  for (const k of keys) path.set(k, { x: 70 + 1.5 * k, y: 75, ...key });
  const walkers = new LegWalkers();
  const options = { ...defaultFollowOptions, search: { width: 61, height: 61 } };
  walkers.begin(direction, [{ leg: { run: 4, start, end }, subject: { path, options, offsets: [] } }]);
  return order.flatMap((frame) => walkers.look(picture(frame), frame));
}

const upTo = (n: number): number[] => Array.from({ length: n }, (_, k) => k);

test('pictures in the kernels’ own memory are seen as any others', () => {
  const path = new Samples(30);
  path.set(0, { x: 70, y: 75, ...key });
  const walkers = new LegWalkers();
  const options = { ...defaultFollowOptions, search: { width: 61, height: 61 } };
  const subject = { path, options, offsets: [] };
  walkers.begin(1, [{ leg: { run: 4, start: 0, end: 12 }, subject }]);
  const ring = [0, 1, 2].map(() => walkers.buffer(200 * 150));
  const found = upTo(13).flatMap((frame) => {
    const data = ring[frame % ring.length];
    data.set(picture(frame).data);
    return walkers.look({ ...picture(frame), data, wasmAddress: walkers.wasmAddress(data) }, frame);
  });
  expect(found).toEqual(walk(1, 0, 12, [0], upTo(13)));
  expect(walkers.wasmAddress(new Uint8Array(4))).toBeUndefined();
});

test('a leg is walked from its start to its end and no farther', () => {
  const found = walk(1, 5, 12, [5], upTo(20));
  expect(found.map((f) => f.frame)).toEqual([6, 7, 8, 9, 10, 11, 12]);
  for (const { frame, x, run } of found) {
    expect(run).toBe(4);
    expect(Math.abs(x - 70 - 1.5 * frame)).toBeLessThan(0.05);
  }
});

test('backwards likewise; what a pass finds on a key’s frame is told apart', () => {
  const found = walk(-1, 12, 4, [12, 8], upTo(20).reverse());
  expect(found.filter((f) => !f.arrival).map((f) => f.frame)).toEqual([11, 10, 9, 7, 6, 5, 4]);
  const arrivals = found.filter((f) => f.arrival);
  expect(arrivals.map((f) => f.frame)).toEqual([8]);
  expect(Math.abs(arrivals[0].x - 70 - 12)).toBeLessThan(0.05);
});

test('findings cross between threads unharmed', () => {
  const found = walk(1, 0, 6, [0, 4], upTo(8));
  expect(unpackFindings(packFindings(found))).toEqual(found);
});

test('bytes become planes without a copy, with the matrix the clip is tagged with', () => {
  const clip = {
    ...{ width: 6, height: 4, subsampling: '420' as const, pixelAspect: '1:1' },
    colour: { range: 'pc' as const, space: null, primaries: null, transfer: null },
  };
  const data = Uint8Array.from({ length: 36 }, (_, i) => i);
  const format = pictureFormat(clip as never, 'all');
  const seen = asPicture(data, format);
  expect(seen).toMatchObject({ width: 6, height: 4, stride: 6, matrix: 'bt601', range: 'full' });
  expect(seen.chroma?.map((p) => p.data[0])).toEqual([24, 30]);
  data[24] = 99;
  expect(seen.chroma?.[0].data[0]).toBe(99);
  expect(asPicture(data, { ...format, planes: 'luma' }).chroma).toBeUndefined();
});
