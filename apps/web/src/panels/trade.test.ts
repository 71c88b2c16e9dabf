import { expect, test } from '@jest/globals';
import { shakeAt } from './trade.js';

test('between two zooms the shake is between theirs, beyond the last it is its', () => {
  const trade = [
    { zoom: 1.1, shake: 0.4 },
    { zoom: 1.2, shake: 0.2 },
  ];
  expect([1, 1.1, 1.15, 1.2, 1.5].map((zoom) => shakeAt(trade, zoom)?.toFixed(3))).toEqual([
    '0.400',
    '0.400',
    '0.300',
    '0.200',
    '0.200',
  ]);
  expect(shakeAt([], 1.1)).toBeNull();
});
