import { expect, test } from '@jest/globals';
import { renew, sectionOf, type Table } from './tables.js';

const speed: Table = {
  part: 'kernels',
  title: 'Kernels',
  columns: ['what', 'ratio'],
  rows: [['flow', '0.4']],
};

test('a table is a section of the document', () => {
  expect(sectionOf(speed).split('\n')).toEqual([
    ...['## Kernels', '', '`npm run bench -- kernels`', ''],
    ...['| what | ratio |', '| --- | --- |', '| flow | 0.4 |', ''],
  ]);
});

test('what is measured anew takes its old place, and the rest stays', () => {
  const document = '# Measured\n\nOn two cores.\n\n## Kernels\n\nold\n\n## Import\n\nkept\n';
  const other: Table = { ...speed, part: 'viewer', title: 'Viewer' };
  const renewed = renew(document, [speed, other]);
  expect(renewed).toBe(
    `# Measured\n\nOn two cores.\n\n${sectionOf(speed)}\n## Import\n\nkept\n\n${sectionOf(other)}`,
  );
  expect(renew(renewed, [speed, other])).toBe(renewed);
});
