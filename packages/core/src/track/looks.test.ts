import { beforeEach, expect, test } from '@jest/globals';
import { identity, translation } from '../geometry/mat3.js';
import { TrackKernels } from '../kernels/track-kernels.js';
import { shoot } from '../testing/film.js';
import { kernelModule } from '../testing/kernel-module.js';
import type { Look } from './look.js';
import { Reason } from './reason.js';
import { Looks } from './looks.js';
import type { Match } from './match.js';
import type { Fit } from './refine.js';
import { cutTemplate, type Template } from './template.js';

const kernels = new TrackKernels(kernelModule());
const picture = shoot(120, 100);
const cut = ({ x, y } = { x: 60, y: 50 }): Template =>
  cutTemplate(kernels, picture, { x, y }, { width: 21, height: 21 }, 'similarity');

const asEver: Fit = {
  ...{
    matrix: identity,
    gain: 1,
    bias: 0,
    residual: 1,
    score: 0.98,
    trusted: 0.98,
    believed: 0.95,
    share: 0.95,
  },
  ...{ balance: 1, error: 0.02, parted: 0, lag: 0, slide: 0, cause: Reason.faint, smear: null },
  hold: { normal: new Float64Array(36), gathered: 1 },
};
const found = (look: Look, fit: Partial<Fit> = {}): Match => ({
  ...{
    look,
    shape: 'similarity',
    pose: translation(60, 50),
    likeness: 1,
    doubt: 1,
    credible: true,
    confidence: 0.9,
    reason: Reason.none,
  },
  fit: { ...asEver, ...fit },
});

let looks: Looks;
let key: Look;
beforeEach(() => {
  looks = new Looks(kernels);
  key = looks.begin(cut());
});

/** Fits that go from the best there was to `end` within so many frames. */
function fade(end: Partial<Fit>, frames: number): void {
  for (let k = 0; k <= frames; k++) {
    const share = k / frames;
    const between = (from: number, to = from): number => from + share * (to - from);
    looks.keepUp(
      found(looks.newest, {
        ...{ score: between(asEver.score, end.score), trusted: between(asEver.trusted, end.trusted) },
        ...{ share: between(asEver.share, end.share), balance: between(asEver.balance, end.balance) },
        error: between(asEver.error, end.error),
      }),
      cut,
    );
  }
}

test('what fits as ever needs no other look', () => {
  for (let k = 0; k < 30; k++) looks.keepUp(found(key), cut);
  expect(looks.all).toEqual([key]);
});

test('what has changed slowly and evenly is looked at anew, beside the key’s own look', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  expect(looks.all.length).toBeGreaterThan(1);
  expect(looks.all[0]).toBe(key);
  // The new one lies where the key's box was found.
  const [a, , x, , d, y] = looks.newest.fromKey;
  expect([a, d]).toEqual([1, 1]);
  expect([x + looks.newest.template.centre.x, y + looks.newest.template.centre.y]).toEqual([60, 50]);
});

test.each<[string, Partial<Fit>, number]>([
  ['comes within two frames', { score: 0.7, trusted: 0.7 }, 2],
  ['leaves what is seen as it was', { score: 0.8, trusted: 0.97 }, 20],
  ['covers a part', { score: 0.8, trusted: 0.85, share: 0.6 }, 20],
  ['covers one side', { score: 0.8, trusted: 0.85, balance: 0.7 }, 20],
  ['is soon too blurred to say where', { error: 0.4 }, 6],
])('what %s is no new look', (_, end, frames) => {
  fade(end, frames);
  expect(looks.all).toHaveLength(1);
});

test('when it drifts though it correlates, a new look is taken as well', () => {
  fade({ error: 0.15 }, 12);
  expect(looks.all.length).toBeGreaterThan(1);
});

test('of many looks the key’s and the newest few are kept', () => {
  for (let k = 0; k < 9; k++) fade({ score: 0.8, trusted: 0.85 }, 20);
  expect(looks.all).toHaveLength(5);
  expect(looks.all[0]).toBe(key);
});

test('an older look that decides for some frames, as well as ever, has returned; then the newer go', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  const told = Array.from({ length: 6 }, () => looks.hasReturned(found(key)));
  expect(told).toEqual([false, false, false, false, true, true]);
  looks.dropNewerThan(key);
  expect(looks.all).toEqual([key]);
});

test('it has not while it fits worse than it did, and a newer one deciding starts the count over', () => {
  fade({ score: 0.8, trusted: 0.85 }, 20);
  for (let k = 0; k < 10; k++) expect(looks.hasReturned(found(key, { score: 0.85 }))).toBe(false);
  for (let k = 0; k < 4; k++) looks.hasReturned(found(key));
  expect(looks.hasReturned(found(looks.newest))).toBe(false);
  expect(looks.hasReturned(found(key))).toBe(false);
});

test('their memory is used again', () => {
  const drop = (): number => {
    looks.drop();
    return looks.begin(cut()).template.start;
  };
  const [first, second, third] = [drop(), drop(), drop()];
  expect(second).toBe(first);
  expect(third).toBe(first);
});
