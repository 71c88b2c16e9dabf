import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { CancelledError, indexClip, openClip, type Clip, type ClipIndex } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { brightnessModule, type Brightness } from '../testing/brightness.js';
import type { Analysis, SharedAnalysis } from './analyser.js';
import { Passes } from './pass.js';

const frames = 30;
let folder: string;
let clip: Clip;
let index: ClipIndex;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-pass-'));
  const path = join(folder, 'clip.mp4');
  await makeStripClip({ path, frames });
  clip = await openClip(path);
  index = await indexClip(clip);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** An analysis that keeps what it is given, one order for each thread. */
function brightness(until: number, into: Brightness[]): Analysis {
  return {
    module: brightnessModule,
    share: (threads) => Array.from({ length: threads }, (_, t) => (t === 0 ? { until } : null)),
    take: (found) => into.push(found as Brightness),
  };
}

const way: SharedAnalysis = { look: (_, before, at) => `${before.frame} to ${at.frame}` };
const passes = (threads: number, known: ClipIndex | undefined = index) =>
  new Passes({ clip, index: known, planes: 'luma', threads });

test.each([
  { direction: 1 as const, threads: 1 },
  { direction: 1 as const, threads: 2 },
  { direction: -1 as const, threads: 1 },
  { direction: -1 as const, threads: 2 },
])(
  'every frame is looked at once, in order, by all analysers ($direction, $threads)',
  async ({ direction, threads }) => {
    const [one, other]: Brightness[][] = [[], []];
    const pass = passes(threads);
    const [first, last] = [3, 27];
    const [begin, end] = direction > 0 ? [first, last] : [last, first];
    await pass.run(direction, [{ first, last }], [brightness(end, one), brightness(end, other)], way);
    pass.end();
    const order = Array.from({ length: 25 }, (_, k) => begin + direction * k);
    expect(one.map(({ frame }) => frame)).toEqual(order);
    expect(other).toEqual(one);
    // The first picture comes from nowhere; each of the others is told of the way from the one before.
    expect(one.map(({ shared }) => shared)).toEqual(
      order.map((k, i) => (i === 0 ? undefined : `${k - direction} to ${k}`)),
    );
  },
);

test('what is shared is worked out once for all who ask', async () => {
  let asked = 0;
  const counting: SharedAnalysis = { look: () => ++asked };
  const pass = passes(1);
  const found: Brightness[] = [];
  await pass.run(1, [{ first: 0, last: 9 }], [brightness(9, found), brightness(9, [])], counting);
  pass.end();
  expect(found).toHaveLength(10);
  expect(asked).toBe(9);
});

test('ranges that lie apart are read apart, and nobody is told of a way between them', async () => {
  const found: Brightness[] = [];
  const pass = passes(1);
  const ranges = [
    { first: 2, last: 4 },
    { first: 20, last: 21 },
  ];
  await pass.run(1, ranges, [brightness(21, found)], way);
  pass.end();
  expect(found.map(({ frame }) => frame)).toEqual([2, 3, 4, 20, 21]);
  expect(found[3].shared).toBeUndefined();
});

test('without an index the whole clip is read, which makes one; else a pass ends when all is found', async () => {
  const through = passes(1, undefined);
  await through.run(1, [], [brightness(5, [])]);
  through.end();
  expect(through.index?.pts).toEqual(index.pts);
  const found: Brightness[] = [];
  const early = passes(1);
  await early.run(1, [{ first: 0, last: 29 }], [brightness(5, found)]);
  early.end();
  expect(found).toHaveLength(6);
});

test('an analyser that fails ends the pass with its reason, and threads are fit for the next', async () => {
  const broken: Analysis = { ...brightness(9, []), module: 'file:///nowhere/at-all.js' };
  for (const threads of [1, 2]) {
    const pass = passes(threads);
    await expect(pass.run(1, [{ first: 0, last: 9 }], [broken])).rejects.toThrow(/at-all/);
    pass.end();
    const found: Brightness[] = [];
    const next = passes(threads);
    await next.run(1, [{ first: 0, last: 9 }], [brightness(9, found)]);
    next.end();
    expect(found).toHaveLength(10);
  }
});

test('called off, a pass ends', async () => {
  const stop = new AbortController();
  const found: Brightness[] = [];
  const pass = new Passes({ clip, index, planes: 'luma', threads: 1, signal: stop.signal });
  const stopping: Analysis = {
    ...brightness(29, []),
    take: (one) => found.push(one as Brightness) === 4 && stop.abort(),
  };
  await expect(pass.run(1, [{ first: 0, last: 29 }], [stopping])).rejects.toThrow(CancelledError);
  pass.end();
  expect(found.length).toBeLessThan(frames);
});
