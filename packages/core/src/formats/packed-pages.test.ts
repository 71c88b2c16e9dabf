import { expect, test } from '@jest/globals';
import { joinPages, splitPages } from './packed-pages.js';

test('pages come back as they went; what is cut short is no pages', () => {
  const pages = [
    { page: 0, bytes: Uint8Array.of(1, 2, 3) },
    { page: 70_000, bytes: new Uint8Array(0) },
    { page: 3, bytes: Uint8Array.of(115, 97) },
  ];
  const joined = joinPages(pages);
  expect(splitPages(joined)).toEqual(pages);
  expect(splitPages(new Uint8Array(0))).toEqual([]);
  expect(splitPages(joined.subarray(0, joined.length - 1))).toBeNull();
  expect(splitPages(joined.subarray(0, 5))).toBeNull();
});
