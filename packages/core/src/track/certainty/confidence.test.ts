import { expect, test } from '@jest/globals';
import { likeness, sure, verdictOn } from './confidence.js';
import { Reason } from '../sample-reason.js';

const perfect = {
  score: 0.99,
  trusted: 0.99,
  share: 0.9,
  error: 0.02,
  parallax: 0,
  codecBias: 0,
  slide: 0,
  cause: Reason.faint,
};

test('what fits as it always did, exactly, is sure', () => {
  expect(verdictOn(perfect, 0.99).confidence).toBeGreaterThan(0.97);
});

test('grain alone does not make a place doubtful: likeness counts against the best there was', () => {
  expect(verdictOn({ ...perfect, score: 0.55, trusted: 0.6, error: 0.1 }, 0.56).confidence).toBeGreaterThan(
    sure,
  );
  expect(verdictOn({ ...perfect, score: 0.55, trusted: 0.6, error: 0.1 }, 0.98).confidence).toBeLessThan(0.5);
});

test('what can slide, what is mostly covered and what only resembles is not sure', () => {
  expect(verdictOn({ ...perfect, error: 0.3 }, 0.99).confidence).toBeLessThan(sure);
  expect(verdictOn({ ...perfect, error: Infinity }, 0.99).confidence).toBe(0);
  expect(verdictOn({ ...perfect, parallax: 0.09 }, 0.99).confidence).toBeLessThan(sure);
  // Two things in one box are a reason for doubt, not for giving up.
  expect(verdictOn({ ...perfect, parallax: 9 }, 0.99).confidence).toBeGreaterThan(0.5);
  expect(verdictOn({ ...perfect, score: 0.5, share: 0.4 }, 0.99).confidence).toBeLessThan(sure);
  expect(verdictOn({ ...perfect, score: 0.86, share: 0.3 }, 0.99).confidence).toBeLessThan(sure);
});

test('parts that have lately gone apart make doubtful what just now agrees, but not lost', () => {
  expect(verdictOn(perfect, 0.99, 0.02, 0.03).confidence).toBeGreaterThan(sure);
  expect(verdictOn(perfect, 0.99, 0.02, 0.15).confidence).toBeLessThan(sure);
  expect(verdictOn(perfect, 0.99, 0.02, 5).confidence).toBeGreaterThan(0.5);
});

test('where a codec may have moved it unseen it is not sure, but not lost', () => {
  expect(verdictOn({ ...perfect, codecBias: 0.1 }, 0.99).confidence).toBeGreaterThan(sure);
  expect(verdictOn({ ...perfect, codecBias: 0.2 }, 0.99).confidence).toBeLessThan(sure);
  expect(verdictOn({ ...perfect, codecBias: 5 }, 0.99).confidence).toBeGreaterThan(0.5);
});

test('a part of the box that is believed speaks for the whole, by its share', () => {
  const covered = { ...perfect, score: 0.4, trusted: 0.98, share: 0.6 };
  expect(likeness(covered, 1)).toBeGreaterThan(0.7);
  expect(likeness({ ...covered, share: 0.2 }, 1)).toBeLessThan(0.5);
});

test.each<[Reason, Partial<typeof perfect & { expected: number; apart: number }>]>([
  [Reason.missing, { score: 0.5, trusted: 0.5 }],
  [Reason.unlike, { score: 0.68, trusted: 0.68 }],
  [Reason.covered, { score: 0.86, share: 0.4, error: 0.2 }],
  [Reason.faint, { error: 0.3 }],
  [Reason.turn, { expected: 0.2 }],
  [Reason.parted, { parallax: 0.2 }],
  [Reason.parted, { apart: 0.4 }],
  [Reason.coded, { codecBias: 0.3 }],
])('reason %i for %j', (reason, { expected, apart, ...worse }) => {
  const verdict = verdictOn({ ...perfect, ...worse }, 0.99, expected, apart);
  expect(verdict.confidence).toBeLessThan(sure);
  expect(verdict.reason).toBe(reason);
});
