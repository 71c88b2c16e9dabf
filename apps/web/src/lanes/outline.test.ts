import { expect, test } from '@jest/globals';
import { outline } from './outline';

test('a short curve keeps every frame', () => {
  expect(outline([3, 1, 2], 2)).toEqual([0, 1, 2]);
});

test('a long curve keeps what stands out of each column, in order', () => {
  const values = Float64Array.from({ length: 100_000 }, (_, k) => Math.sin(k / 3000));
  values[54_321] = 9;
  values[54_322] = -9;
  const kept = outline(values, 1000);
  expect(kept.length).toBeLessThanOrEqual(2000);
  expect(kept).toEqual([...kept].sort((a, b) => a - b));
  expect(kept).toContain(54_321);
  expect(kept).toContain(54_322);
  // Nowhere is a frame farther from what is drawn than the curve moves within a column.
  const within = 100 / 3000;
  for (let k = 0; k < 100_000; k += 997) {
    const near = kept.filter((j) => Math.abs(j - k) <= 100).map((j) => Math.abs(values[j] - values[k]));
    expect(Math.min(...near)).toBeLessThanOrEqual(within);
  }
});

test('only what is seen of a long curve is looked through', () => {
  const values = Float64Array.from({ length: 10_000 }, (_, k) => k % 7);
  expect(outline(values, 500, 100, 104)).toEqual([100, 101, 102, 103, 104]);
  const kept = outline(values, 50, 2000, 7999);
  expect([Math.min(...kept) >= 2000, Math.max(...kept) <= 7999, kept.length <= 100]).toEqual([
    true,
    true,
    true,
  ]);
});
