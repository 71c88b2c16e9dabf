import { expect, test } from '@jest/globals';
import type { ClipChange, ClipView, JobView, SteadyView, TrackView } from '@lurn/contract';
import { noSample, pageLength, Samples, SampleState } from '@lurn/core';
import {
  applyChange,
  documentOf,
  latestJob,
  runningJob,
  withJoinedPages,
  withRows,
  type Document,
  type Overlay,
} from './document.js';

const frames = 2 * pageLength;
const key = { x: 5, y: 6, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };

function packed(frame: number): string {
  const samples = new Samples(frames);
  samples.set(frame, key);
  return Buffer.from(samples.packPage(Math.floor(frame / pageLength)) as Uint8Array).toString('base64');
}

const track = (id: string, position: number, name = id): TrackView => ({ id, position, name }) as TrackView;
const steady = { mode: 'hold' } as SteadyView;

const clip = {
  id: 'quay',
  frames,
  tracks: [track('plate', 0), track('ring', 1)],
  steady,
  layers: [],
  kept: [{ id: 'wide', clipId: 'quay', name: 'Wide', steady }],
  revision: 3,
  stale: [],
  pages: [{ id: 'plate', column: 'samples', page: 0, bytes: packed(9) }],
  history: { undo: 'Place track', redo: null },
  jobs: [],
} as unknown as ClipView;

const document = (): Document => ({
  ...documentOf(clip),
  result: null,
  fault: null,
  trade: [],
  shake: null,
  room: null,
});
const change = (part: Partial<ClipChange>): ClipChange => ({
  clipId: 'quay',
  records: [],
  pages: [],
  stale: [],
  revision: 4,
  history: { undo: null, redo: null },
  ...part,
});

test('a clip is shown with the samples that came along, and none where none did', () => {
  const shown = document();
  expect(shown.samples.get('plate')?.keys()).toEqual([9]);
  expect(shown.samples.get('ring')?.keys()).toEqual([]);
  expect(shown.revision).toBe(3);
});

test('records come, change and go; what did not change stays the same object', () => {
  const before = document();
  const after = applyChange(
    before,
    change({
      records: [
        { kind: 'track', id: 'sign', view: track('sign', 0.5) },
        { kind: 'track', id: 'ring', view: null },
        { kind: 'steady', id: 'quay', view: { mode: 'smooth' } },
        { kind: 'kept-steady', id: 'tight', view: { id: 'tight', name: 'Tight', steady } },
        { kind: 'kept-steady', id: 'wide', view: null },
      ],
      pages: [{ id: 'sign', column: 'samples', page: 1, bytes: packed(pageLength + 2) }],
    }),
  );
  expect(after.tracks.map(({ id }) => id)).toEqual(['plate', 'sign']);
  expect([...after.samples.keys()].sort()).toEqual(['plate', 'sign']);
  expect(after.samples.get('sign')?.keys()).toEqual([pageLength + 2]);
  expect(after.samples.get('plate')).toBe(before.samples.get('plate'));
  expect(after.steady).toEqual({ mode: 'smooth' });
  expect(after.kept.map(({ name }) => name)).toEqual(['Tight']);
  expect(before.tracks).toHaveLength(2);
});

test('what the person is ahead in stays as it is shown, field by field and key by key', () => {
  const pages = [{ id: 'plate', column: 'samples', page: 0, bytes: null }];
  const records = [{ kind: 'steady', id: 'quay', view: { mode: 'smooth', edge: 'blur' } }];
  const overlay: Overlay = {
    record: (kind, _, view) => (kind === 'steady' ? { ...view, mode: 'hold' } : view),
    samples: (id, samples) => (id === 'plate' ? samples.with([[9, { ...noSample, ...key }]]) : samples),
  };
  const kept = applyChange(document(), change({ pages, records }), overlay);
  expect(kept.samples.get('plate')?.keys()).toEqual([9]);
  expect(kept.steady).toEqual({ mode: 'hold', edge: 'blur' });
  const taken = applyChange(document(), change({ pages, records }));
  expect(taken.samples.get('plate')?.keys()).toEqual([]);
});

test('packed data of another column is not taken for samples', () => {
  const pages = [{ id: 'plate', column: 'strokes', page: 0, bytes: packed(3) }];
  const after = applyChange(document(), change({ pages }));
  expect(after.samples.get('plate')?.keys()).toEqual([9]);
});

test('samples are taken in as they are found, of tracks that there still are', () => {
  const before = document();
  const after = withRows(
    before.samples,
    new Map([
      ['ring', [[4, 1, 2, 0.5, 0.25, 1.5, SampleState.tracked, 2, 0.1, 0, 1e-5, 0]]],
      ['gone', [[4, 1, 2, 0.5, 0, 1, SampleState.tracked, 0, 0, 0, 0, 0]]],
    ]),
  );
  expect(after.get('ring')?.get(4)).toMatchObject({ x: 1, y: 2, rotation: 0.25, scale: 1.5, reason: 2 });
  expect(after.get('ring')?.get(4)?.stretch).toBeCloseTo(0.1, 6);
  expect(after.has('gone')).toBe(false);
  expect(after.get('plate')).toBe(before.samples.get('plate'));
});

test('much packed data comes joined, each page after its number and length', () => {
  const samples = new Samples(frames);
  samples.set(3, key);
  samples.set(pageLength + 4, key);
  const joined = Buffer.concat(
    [0, 1].flatMap((page) => {
      const [head, bytes] = [Buffer.alloc(8), samples.packPage(page) as Uint8Array];
      head.writeUInt32LE(page, 0);
      head.writeUInt32LE(bytes.length, 4);
      return [head, bytes];
    }),
  );
  const buffer = joined.buffer.slice(joined.byteOffset, joined.byteOffset + joined.length);
  expect(withJoinedPages(frames, buffer).keys()).toEqual([3, pageLength + 4]);
});

test('jobs: the one that goes on, the one that began last', () => {
  const job = (id: string, kind: string, state: string, startedAt: string): JobView =>
    ({ id, kind, state, startedAt }) as JobView;
  const jobs = [
    job('a', 'track', 'done', '2026-01-01'),
    job('b', 'track', 'waiting', '2026-01-03'),
    job('c', 'export', 'done', '2026-01-04'),
    job('d', 'track', 'failed', '2026-01-02'),
  ];
  expect([latestJob('track')({ jobs })?.id, latestJob('import')({ jobs })]).toEqual(['b', undefined]);
  expect([runningJob('track')({ jobs })?.id, runningJob('export')({ jobs })]).toEqual(['b', undefined]);
});
