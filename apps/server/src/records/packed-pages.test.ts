import { expect, test } from '@jest/globals';
import { joinPages, splitPages } from './packed-pages.js';

test('pages come back as they went; what is cut short is no pages', () => {
  const pages = [
    { page: 0, bytes: Buffer.from([1, 2, 3]) },
    { page: 70_000, bytes: Buffer.alloc(0) },
    { page: 3, bytes: Buffer.from('samples') },
  ];
  const joined = joinPages(pages);
  expect(splitPages(joined)).toEqual(pages);
  expect(splitPages(Buffer.alloc(0))).toEqual([]);
  expect(splitPages(joined.subarray(0, joined.length - 1))).toBeNull();
  expect(splitPages(joined.subarray(0, 5))).toBeNull();
});
