import { expect, test } from '@jest/globals';
import { confidenceOf, likeness } from './confidence.js';

const perfect = { score: 0.99, trusted: 0.99, share: 0.9, error: 0.02, parted: 0, lag: 0, slide: 0 };
const sure = 0.8;

test('what fits as it always did, exactly, is sure', () => {
  expect(confidenceOf(perfect, 0.99)).toBeGreaterThan(0.97);
});

test('grain alone does not make a place doubtful: likeness counts against the best there was', () => {
  expect(confidenceOf({ ...perfect, score: 0.55, trusted: 0.6, error: 0.1 }, 0.56)).toBeGreaterThan(sure);
  expect(confidenceOf({ ...perfect, score: 0.55, trusted: 0.6, error: 0.1 }, 0.98)).toBeLessThan(0.5);
});

test('what can slide, what is mostly covered and what only resembles is not sure', () => {
  expect(confidenceOf({ ...perfect, error: 0.3 }, 0.99)).toBeLessThan(sure);
  expect(confidenceOf({ ...perfect, error: Infinity }, 0.99)).toBe(0);
  expect(confidenceOf({ ...perfect, parted: 0.09 }, 0.99)).toBeLessThan(sure);
  // Two things in one box are a reason for doubt, not for giving up.
  expect(confidenceOf({ ...perfect, parted: 9 }, 0.99)).toBeGreaterThan(0.5);
  expect(confidenceOf({ ...perfect, score: 0.5, share: 0.4 }, 0.99)).toBeLessThan(sure);
  expect(confidenceOf({ ...perfect, score: 0.86, share: 0.3 }, 0.99)).toBeLessThan(sure);
});

test('parts that have lately gone apart make doubtful what just now agrees, but not lost', () => {
  expect(confidenceOf(perfect, 0.99, 0.02, 0.03)).toBeGreaterThan(sure);
  expect(confidenceOf(perfect, 0.99, 0.02, 0.15)).toBeLessThan(sure);
  expect(confidenceOf(perfect, 0.99, 0.02, 5)).toBeGreaterThan(0.5);
});

test('where a codec may have moved it unseen it is not sure, but not lost', () => {
  expect(confidenceOf({ ...perfect, lag: 0.1 }, 0.99)).toBeGreaterThan(sure);
  expect(confidenceOf({ ...perfect, lag: 0.2 }, 0.99)).toBeLessThan(sure);
  expect(confidenceOf({ ...perfect, lag: 5 }, 0.99)).toBeGreaterThan(0.5);
});

test('a part of the box that is believed speaks for the whole, by its share', () => {
  const covered = { ...perfect, score: 0.4, trusted: 0.98, share: 0.6 };
  expect(likeness(covered, 1)).toBeGreaterThan(0.7);
  expect(likeness({ ...covered, share: 0.2 }, 1)).toBeLessThan(0.5);
});
