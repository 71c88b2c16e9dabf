import { expect, test } from '@jest/globals';
import { estimate, lastChoice } from './exporting';

test('size and time go by what the codec came to last, and by something near where it has not been used yet', () => {
  const pixels = 1920 * 1080 * 100;
  const paces = { h264: { bitsPerPixel: 0.5, pixelsPerSecond: 1e8 } };
  expect(estimate({ codec: 'h264' }, pixels, paces)).toEqual({ bytes: pixels / 16, seconds: pixels / 1e8 });
  const rough = estimate({ codec: 'ffv1' }, pixels, paces);
  // Without loss a picture of the world comes to two to twelve bits a pixel.
  expect((8 * rough.bytes) / pixels).toBeGreaterThan(2);
  expect((8 * rough.bytes) / pixels).toBeLessThan(12);
});

test('what belongs to one clip is not taken over to the next', () => {
  const comparison = { layout: 'side', words: true } as const;
  expect(lastChoice({ codec: 'png', treated: 'x', folder: 'held', comparison })).toEqual({
    codec: 'png',
    container: 'png',
    bits: undefined,
    comparison,
  });
});
