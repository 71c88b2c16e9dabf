import { expect, test } from '@jest/globals';
import { formatFrameRate, framesPerSecond, parseFrameRate } from '../geometry/frame-rate.js';
import { apply } from '../geometry/mat3.js';
import { lumaFromChroma, pictureBytes, planeLayout, type YuvFormat } from './yuv-picture.js';

const format: YuvFormat = {
  width: 7,
  height: 5,
  subsampling: '420',
  siting: 'left',
  range: 'limited',
  bits: 8,
};

test.each([
  ['420', 4, 3],
  ['422', 4, 5],
  ['444', 7, 5],
] as const)('%s: odd sizes round the chroma planes up', (subsampling, width, height) => {
  const layout = planeLayout({ ...format, subsampling });
  expect(layout).toEqual([
    { offset: 0, width: 7, height: 5 },
    { offset: 35, width, height },
    { offset: 35 + width * height, width, height },
  ]);
  expect(pictureBytes({ ...format, subsampling })).toBe(35 + 2 * width * height);
  expect(pictureBytes({ ...format, subsampling, bits: 10 })).toBe(2 * (35 + 2 * width * height));
});

test('a chroma sample lies where its siting says, among its luma pixels', () => {
  // The first sample's centre: level with the first luma pixel's, or between the first two.
  expect(apply(lumaFromChroma(format), 0.5, 0.5)).toEqual({ x: 0.5, y: 1 });
  expect(apply(lumaFromChroma({ ...format, siting: 'center' }), 0.5, 0.5)).toEqual({ x: 1, y: 1 });
  expect(apply(lumaFromChroma({ ...format, subsampling: '444' }), 2.5, 3.5)).toEqual({ x: 2.5, y: 3.5 });
});

test('frame rates stay exact', () => {
  expect(formatFrameRate(parseFrameRate('30000/1001'))).toBe('30000/1001');
  expect(formatFrameRate(parseFrameRate('25'))).toBe('25/1');
  expect(framesPerSecond(parseFrameRate('24000/1001'))).toBeCloseTo(23.976, 3);
  for (const text of ['', '0', '25/0', '29.97', '-25', '25/1/1'])
    expect(() => parseFrameRate(text)).toThrow(RangeError);
});
