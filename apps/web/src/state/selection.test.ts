import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { allOf, alone, restrict, pointedAt, choose, type Selection } from './selection.js';

const ids = ['a', 'b', 'c', 'd', 'e'];
const told = ({ selected, chosen }: Selection): string =>
  ids.filter((id) => chosen.has(id)).join('') + ` led by ${selected}`;

test('one alone, others besides, and no longer', () => {
  let choice = choose(ids, alone('a'), 'c', 'alone');
  expect(told(choice)).toBe('c led by c');
  choice = choose(ids, choice, 'e', 'besides');
  expect(told(choice)).toBe('ce led by e');
  choice = choose(ids, choice, 'e', 'besides');
  expect(told(choice)).toBe('c led by c');
  expect(told(choose(ids, choice, 'c', 'besides'))).toBe('c led by c');
});

test('through goes from the selected one, whichever way, and can be drawn anew', () => {
  const start = alone('c');
  const down = choose(ids, start, 'e', 'through');
  expect(told(down)).toBe('cde led by c');
  expect(told(choose(ids, down, 'a', 'through'))).toBe('abc led by c');
  expect(told(choose(ids, alone(null), 'd', 'through'))).toBe('d led by d');
});

test('what goes leaves the rest of the choice, or the first of the list', () => {
  const choice = allOf(['b', 'd'], 'd');
  expect(told(restrict(['a', 'b', 'c'], choice))).toBe('b led by b');
  expect(told(restrict(ids, choice))).toBe('bd led by d');
  expect(told(restrict(['a', 'c'], choice))).toBe('a led by a');
  expect(restrict([], choice)).toEqual({ selected: null, chosen: new Set() });
});

test('whatever is pointed at, the selected one is chosen, and nothing that is not there', () => {
  const pointing = fc.tuple(
    fc.constantFrom(...ids),
    fc.constantFrom('alone' as const, 'besides' as const, 'through' as const),
  );
  fc.assert(
    fc.property(fc.array(pointing, { minLength: 1, maxLength: 20 }), (pointings) => {
      let choice = alone(null);
      for (const [id, kind] of pointings) {
        choice = choose(ids, choice, id, kind);
        expect(choice.chosen.has(choice.selected as string)).toBe(true);
        expect([...choice.chosen].every((one) => ids.includes(one))).toBe(true);
      }
    }),
  );
});

test('keys held say how', () => {
  const held = { shiftKey: false, ctrlKey: false, metaKey: false };
  expect(pointedAt(held)).toBe('alone');
  expect(pointedAt({ ...held, shiftKey: true })).toBe('through');
  expect(pointedAt({ ...held, metaKey: true })).toBe('besides');
  expect(pointedAt({ ...held, ctrlKey: true, shiftKey: true })).toBe('besides');
});
