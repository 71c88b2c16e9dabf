import { expect, test } from '@jest/globals';
import type { Action } from './action';
import { searchActions } from './search-actions.js';

const action = (id: string, label: string, wish?: string): Action => ({
  id,
  label,
  wish,
  group: 'Steady',
  run: () => undefined,
});
const all = [
  action('import', 'Take tracks in…', 'import paste csv'),
  action('csv', 'Tracks as CSV', 'save table'),
  action('edges', 'Hide bare edges', 'black borders zoom'),
];
const found = (typed: string): string[] => searchActions(all, typed).map(({ id }) => id);

test('an action is found by its name and by what one wants of it, its own name first', () => {
  expect(found('tracks as csv')).toEqual(['csv', 'import']);
  expect(found('Black edges')).toEqual(['edges']);
  expect(found('csv')).toEqual(['csv', 'import']);
  expect(found('nothing such')).toEqual([]);
});
