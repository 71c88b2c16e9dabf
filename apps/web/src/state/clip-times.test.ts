import { expect, test } from '@jest/globals';
import { frameAtShare, frameWhilePlaying, middleShareOf, shareOf, timesOf } from './clip-times';

const even = timesOf({ frames: 100, frameRate: '25/1', times: null });
/** Four frames: one of eight seconds among short ones. */
const uneven = timesOf({ frames: 4, frameRate: '15/1', times: [0, 1, 9, 9.5, 10] });

test('along an even clip all frames are as wide', () => {
  expect([0, 25, 100].map((k) => shareOf(even, k))).toEqual([0, 0.25, 1]);
  expect([-1, 0, 0.259, 1].map((s) => frameAtShare(even, s))).toEqual([0, 0, 25, 99]);
});

test('along an uneven one each frame is as wide as it is long', () => {
  expect([0, 1, 2, 3, 4].map((k) => shareOf(uneven, k))).toEqual([0, 0.1, 0.9, 0.95, 1]);
  expect(middleShareOf(uneven, 1)).toBeCloseTo(0.5, 12);
  expect([0.09, 0.1, 0.89, 0.91, 1].map((s) => frameAtShare(uneven, s))).toEqual([0, 1, 1, 2, 3]);
});

test('playing goes by the clock and begins the range again', () => {
  const range = { from: 10, first: 5, last: 14 };
  expect([0, 0.04, 0.19, 0.2, 0.4].map((s) => frameWhilePlaying(even, range, s))).toEqual([
    10, 11, 14, 5, 10,
  ]);
  const once = { ...range, loop: false };
  expect([0, 0.19, 0.2].map((s) => frameWhilePlaying(even, once, s))).toEqual([10, 14, null]);
  const all = { from: 0, first: 0, last: 3 };
  expect([0, 0.9, 1, 8.9, 9.1, 9.6, 10.5].map((s) => frameWhilePlaying(uneven, all, s))).toEqual([
    0, 0, 1, 1, 2, 3, 0,
  ]);
});
