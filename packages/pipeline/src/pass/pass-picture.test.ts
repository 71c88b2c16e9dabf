import { expect, test } from '@jest/globals';
import { asPicture, pictureFormat } from './pass-picture.js';

test('bytes become planes without a copy, with the matrix the clip is tagged with', () => {
  const clip = {
    width: 6,
    height: 4,
    subsampling: '420' as const,
    pixelAspect: '1:1',
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
