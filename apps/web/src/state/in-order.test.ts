import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import fc from 'fast-check';
import { InOrder } from './in-order';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

function listener(start = 0) {
  const applied: number[] = [];
  const gaps: number[] = [];
  let seen = start;
  const row = new InOrder<{ revision: number }>(
    () => seen,
    ({ revision }) => {
      applied.push(revision);
      seen = revision;
    },
    () => gaps.push(seen),
  );
  return { row, applied, gaps, jump: (to: number) => (seen = to) };
}

test('whatever order things come in, and however often, each is handed on once and in its turn', () => {
  const shuffled = fc.shuffledSubarray([1, 2, 3, 4, 5, 6, 7, 8], { minLength: 8 });
  const again = fc.array(fc.integer({ min: 1, max: 8 }), { maxLength: 10 });
  fc.assert(
    fc.property(shuffled, again, (order, repeats) => {
      const { row, applied, gaps } = listener();
      for (const revision of [...order, ...repeats]) row.take({ revision });
      expect(applied).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
      jest.runAllTimers();
      expect(gaps).toEqual([]);
    }),
  );
});

test('what stays away is told of after a while, not before', () => {
  const { row, applied, gaps } = listener(4);
  row.take({ revision: 6 });
  jest.advanceTimersByTime(1900);
  row.take({ revision: 7 });
  jest.advanceTimersByTime(1900);
  expect([applied, gaps]).toEqual([[], []]);
  jest.advanceTimersByTime(200);
  expect(gaps).toEqual([4]);
});

test('after starting over, what came too early is not kept', () => {
  const { row, applied, gaps, jump } = listener();
  row.take({ revision: 3 });
  row.forget();
  jump(2);
  row.take({ revision: 4 });
  expect(applied).toEqual([]);
  row.take({ revision: 3 });
  expect(applied).toEqual([3, 4]);
  jest.runAllTimers();
  expect(gaps).toEqual([]);
});
