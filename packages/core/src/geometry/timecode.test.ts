import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { timecodeAfter } from './timecode.js';

const ntsc = { numerator: 30000, denominator: 1001 };
const pal = { numerator: 25, denominator: 1 };

test('frames are counted on through seconds, minutes and midnight', () => {
  expect(timecodeAfter('10:59:59:24', 1, pal)).toBe('11:00:00:00');
  expect(timecodeAfter('23:59:59:20', 6, pal)).toBe('00:00:00:01');
  expect(timecodeAfter('01:00:00:00', 90, pal)).toBe('01:00:03:15');
});

test('drop-frame leaves out two numbers a minute, but not in each tenth', () => {
  expect(timecodeAfter('00:00:59;29', 1, ntsc)).toBe('00:01:00;02');
  expect(timecodeAfter('00:09:59;29', 1, ntsc)).toBe('00:10:00;00');
  // An hour of 29.97 frames a second has 107,892 of them.
  expect(timecodeAfter('00:00:00;00', 107892, ntsc)).toBe('01:00:00;00');
  expect(timecodeAfter('00:00:59:29', 1, ntsc)).toBe('00:01:00:00');
  expect(timecodeAfter('00:00:59;59', 1, { numerator: 60000, denominator: 1001 })).toBe('00:01:00;04');
});

test('so many frames at once come to the same as one after another', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 40000 }), fc.integer({ min: 0, max: 4000 }), (start, more) => {
      const from = timecodeAfter('00:00:00;00', start, ntsc) ?? '';
      expect(timecodeAfter(from, more, ntsc)).toBe(timecodeAfter('00:00:00;00', start + more, ntsc));
    }),
    { seed: 5 },
  );
});

test('what is no timecode of the rate is none', () => {
  expect(timecodeAfter('1:00', 1, pal)).toBeNull();
  expect(timecodeAfter('00:00:00:25', 1, pal)).toBeNull();
});
