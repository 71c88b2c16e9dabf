import { beforeEach, expect, test } from '@jest/globals';
import { identity, translation } from '../../geometry/mat3.js';
import { TrackKernels } from '../../kernels/track-kernels.js';
import { shoot } from '../../testing/film.js';
import { kernelModule } from '../../testing/kernel-module.js';
import type { BankedTemplate } from './banked-template.js';
import { Reason } from '../sample-reason.js';
import { TemplateBank } from './template-bank.js';
import type { Match } from '../point/match.js';
import type { Fit } from '../register/registration.js';
import { prepareTemplate } from '../register/prepare-template.js';
import type { Template } from '../template/types.js';

const kernels = new TrackKernels(kernelModule());
const picture = shoot(120, 100);
const cut = ({ x, y } = { x: 60, y: 50 }): Template =>
  prepareTemplate(kernels, picture, { x, y }, { width: 21, height: 21 }, 'similarity');

const asEver: Fit = {
  matrix: identity,
  gain: 1,
  bias: 0,
  residual: 1,
  score: 0.98,
  trusted: 0.98,
  believed: 0.95,
  share: 0.95,
  balance: 1,
  error: 0.02,
  parallax: 0,
  codecBias: 0,
  slide: 0,
  cause: Reason.faint,
  blur: null,
  hessian: { normal: new Float64Array(36), gathered: 1 },
};
const found = (banked: BankedTemplate, fit: Partial<Fit> = {}): Match => ({
  banked,
  model: 'similarity',
  pose: translation(60, 50),
  likeness: 1,
  ambiguity: 1,
  credible: true,
  confidence: 0.9,
  reason: Reason.none,
  fit: { ...asEver, ...fit },
});

let bank: TemplateBank;
let key: BankedTemplate;
beforeEach(() => {
  bank = new TemplateBank(kernels);
  key = bank.begin(cut());
});

/** Fits that go from the best there was to `end` within so many frames. */
function fade(end: Partial<Fit>, frames: number): void {
  for (let k = 0; k <= frames; k++) {
    const share = k / frames;
    const between = (from: number, to = from): number => from + share * (to - from);
    bank.update(
      found(bank.newest, {
        score: between(asEver.score, end.score),
        trusted: between(asEver.trusted, end.trusted),
        share: between(asEver.share, end.share),
        balance: between(asEver.balance, end.balance),
        error: between(asEver.error, end.error),
      }),
      cut,
    );
  }
}

test('what fits as ever needs no other look', () => {
  for (let k = 0; k < 30; k++) bank.update(found(key), cut);
  expect(bank.all).toEqual([key]);
});

test('what has changed slowly and evenly is looked at anew, beside the key’s own look', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  expect(bank.all.length).toBeGreaterThan(1);
  expect(bank.all[0]).toBe(key);
  // The new one lies where the key's box was found.
  const [a, , x, , d, y] = bank.newest.fromKey;
  expect([a, d]).toEqual([1, 1]);
  expect([x + bank.newest.template.centre.x, y + bank.newest.template.centre.y]).toEqual([60, 50]);
});

test.each<[string, Partial<Fit>, number]>([
  ['comes within two frames', { score: 0.7, trusted: 0.7 }, 2],
  ['leaves what is seen as it was', { score: 0.8, trusted: 0.97 }, 20],
  ['covers a part', { score: 0.8, trusted: 0.85, share: 0.6 }, 20],
  ['covers one side', { score: 0.8, trusted: 0.85, balance: 0.7 }, 20],
  ['is soon too blurred to say where', { error: 0.4 }, 6],
])('what %s is no new look', (_, end, frames) => {
  fade(end, frames);
  expect(bank.all).toHaveLength(1);
});

test('when it drifts though it correlates, a new look is taken as well', () => {
  fade({ error: 0.15 }, 12);
  expect(bank.all.length).toBeGreaterThan(1);
});

test('of many looks the key’s and the newest few are kept', () => {
  for (let k = 0; k < 9; k++) fade({ score: 0.8, trusted: 0.85 }, 20);
  expect(bank.all).toHaveLength(5);
  expect(bank.all[0]).toBe(key);
});

test('an older look that decides for some frames, as well as ever, has returned; then the newer go', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  const told = Array.from({ length: 6 }, () => bank.hasReturned(found(key)));
  expect(told).toEqual([false, false, false, false, true, true]);
  bank.dropNewerThan(key);
  expect(bank.all).toEqual([key]);
});

test('it has not while it fits worse than it did, and a newer one deciding starts the count over', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  for (let k = 0; k < 10; k++) expect(bank.hasReturned(found(key, { score: 0.85 }))).toBe(false);
  for (let k = 0; k < 4; k++) bank.hasReturned(found(key));
  expect(bank.hasReturned(found(bank.newest))).toBe(false);
  expect(bank.hasReturned(found(key))).toBe(false);
});

test('their memory is used again', () => {
  const drop = (): number => {
    bank.drop();
    return bank.begin(cut()).template.start;
  };
  const [first, second, third] = [drop(), drop(), drop()];
  expect(second).toBe(first);
  expect(third).toBe(first);
});
