import { expect, test } from '@jest/globals';
import { identity, multiply, translation } from '../../geometry/mat3.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import { SceneTable, scenePageLength } from './scene-table.js';

const turned = similarityMatrix({ x: 3.25, y: -1, rotation: 0.02, scale: 1.01 }, { x: 200, y: 90 });

test('a change is told in either direction', () => {
  const table = new SceneTable();
  table.set(8, { motion: turned, other: translation(5, 0), cut: false });
  expect(table.between(7, 8)).toEqual({ motion: turned, other: translation(5, 0), cut: false });
  const back = table.between(8, 7);
  multiply(back?.motion ?? identity, turned).forEach((v, i) => expect(v).toBeCloseTo(identity[i], 9));
  expect(back?.other?.[2]).toBe(-5);
  expect(table.between(8, 9)).toBeUndefined();
});

test('pages keep what is known to the last bit; pages of another version are passed over', () => {
  const table = new SceneTable();
  const known = scenePageLength + 3;
  table.set(1, { motion: turned, cut: false });
  table.set(2, { motion: null, cut: true });
  table.set(3, { motion: null, cut: false });
  table.set(known, { motion: turned, other: translation(1, 2), cut: false });
  expect([...table.touched]).toEqual([0, 1]);
  const read = new SceneTable();
  for (const page of table.touched) read.unpackPage(page, table.packPage(page));
  expect(read.size).toBe(4);
  for (const k of [1, 2, 3, known]) expect(read.between(k - 1, k)).toEqual(table.between(k - 1, k));
  expect(read.touched.size).toBe(0);
  const later = table.packPage(0);
  later[0] = 9;
  read.unpackPage(5, later);
  read.unpackPage(5, new Uint8Array(12));
  expect(read.size).toBe(4);
});
