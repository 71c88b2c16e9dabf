import 'reflect-metadata';
import { randomUUID } from 'node:crypto';
import { cp, mkdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { ClipChange, ClipView, ProjectCard, TrackView } from '@lurn/contract';
import { pageLength, Samples, SampleState } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { Words } from '@lurn/model';
import { DATABASE, type Database } from '../database/database.js';
import { PackageService } from '../projects/package.service.js';
import { Harness, samplesOf } from '../testing/harness.js';
import { pageOf } from '../tracks/track-record.js';
import type { Change } from './change.js';
import { EditsService } from './edits.service.js';
import { splitPages } from '@lurn/core';
import { recordKinds } from './record-kinds.js';
import { RecordsService } from './records.service.js';

jest.setTimeout(120_000);

let lurn: Harness;
let clip: ClipView;
const edits = (): EditsService => lurn.app.get(EditsService);
const records = (): RecordsService => lurn.app.get(RecordsService);
const count = async (table: string): Promise<number> => {
  const { $client } = lurn.app.get<Database>(DATABASE);
  return Number((await $client.execute(`SELECT count(*) FROM ${table}`)).rows[0][0]);
};

beforeAll(async () => {
  lurn = await Harness.start();
  const film = join(lurn.folder, 'clip.mp4');
  await makeStripClip({ path: film, frames: 12 });
  clip = await lurn.upload(film);
});
afterAll(() => lurn.end());

/** A kind of record that is nowhere but here: a note with strokes, a byte each. */
class Note {
  @Words(1, 80) text!: string;
  @Words(1, 20) colour!: string;
}
const strokes = (...bytes: number[]): Buffer => Buffer.from(bytes);

test('a new kind of record is one entry: undo, conflicts, project files and copies know it', async () => {
  recordKinds.set('note', {
    description: Note,
    columns: {
      strokes: {
        differing: (page, one, other) =>
          [0, 1, 2, 3].filter((i) => one?.[i] !== other?.[i]).map((i) => 4 * page + i),
        isPage: (_, bytes) => bytes.length === 4,
      },
    },
    read: (kept) => ({ colour: 'grey', ...kept }),
  });
  const id = randomUUID();
  const placed: Change[] = [
    { kind: 'note', id, before: null, after: { text: 'mind the rope' } },
    { kind: 'note', id, column: 'strokes', page: 2, before: null, after: strokes(1, 2, 3, 4) },
  ];
  const change = await edits().commit(clip.id, 'Write note', placed);
  // What an older version did not know has its default.
  expect(change.records).toEqual([{ kind: 'note', id, view: { text: 'mind the rope', colour: 'grey' } }]);
  expect(change.pages).toEqual([
    { id, column: 'strokes', page: 2, bytes: strokes(1, 2, 3, 4).toString('base64') },
  ]);
  const [before] = await records().find([id]);
  await edits().commit(clip.id, 'Change note', [
    { kind: 'note', id, before: before.view, after: { ...before.view, colour: 'red' } },
    { kind: 'note', id, column: 'strokes', page: 2, before: strokes(1, 2, 3, 4), after: strokes(1, 2, 9, 4) },
  ]);
  const pages = async () => (await records().pagesOf(id, 'strokes')).map(({ bytes }) => [...bytes]);
  expect(await pages()).toEqual([[1, 2, 9, 4]]);
  await edits().undo(clip.id);
  expect(await pages()).toEqual([[1, 2, 3, 4]]);
  await edits().undo(clip.id);
  expect([await records().find([id]), await pages()]).toEqual([[], []]);
  await edits().redo(clip.id);
  expect(await pages()).toEqual([[1, 2, 3, 4]]);
  await edits().redo(clip.id);
  expect(await pages()).toEqual([[1, 2, 9, 4]]);

  const copy = await lurn.app.get(PackageService).duplicate(lurn.project.id);
  const read = await lurn.app.get(PackageService).read(await lurn.packed());
  for (const project of [copy, read]) {
    const notes = (await records().ofClip(project.clips[0].id)).filter(({ kind }) => kind === 'note');
    expect(notes.map(({ view }) => view)).toEqual([{ text: 'mind the rope', colour: 'red' }]);
    expect(notes[0].id).not.toBe(id);
    const [{ page, bytes }] = await records().pagesOf(notes[0].id, 'strokes');
    expect([page, ...bytes]).toEqual([2, 1, 2, 9, 4]);
  }
  const joined = await lurn.api().get(`/api/records/${id}/strokes`).buffer(true).expect(200);
  expect(splitPages(joined.body as Buffer)).toEqual([{ page: 2, bytes: strokes(1, 2, 9, 4) }]);
  await lurn.api().get(`/api/records/${id}/samples`).expect(404);
  await edits().commit(clip.id, 'Delete note', [
    { kind: 'note', id, column: 'strokes', page: 2, before: strokes(1, 2, 9, 4), after: null },
    { kind: 'note', id, before: { text: 'mind the rope', colour: 'red' }, after: null },
  ]);
  await edits().undo(clip.id);
  expect(await pages()).toEqual([[1, 2, 9, 4]]);
  await edits().redo(clip.id);
  recordKinds.delete('note');
});

/** Changes that give a track samples on so many pages. */
function followed(id: string, pages: number): Change[] {
  const samples = new Samples(pages * pageLength);
  const sample = { y: 2, confidence: 1, rotation: 0, scale: 1, state: SampleState.tracked };
  for (let k = 0; k < samples.frames; k++) samples.set(k, { ...sample, x: k });
  return Array.from({ length: pages }, (_, page) => ({
    kind: 'track',
    id,
    column: 'samples',
    page,
    before: null,
    after: pageOf(samples, page),
  }));
}

test('an edit of much packed data makes no large row and is not sent back; undo says what is to be fetched', async () => {
  const id = await lurn.place(clip.id);
  // As much as 24 tracks over ten thousand frames.
  const changes = followed(id, 40 * 24);
  const change = await edits().commit(clip.id, 'Track', changes);
  expect(JSON.stringify(change).length).toBeLessThan(2000);
  expect(change).toMatchObject({ pages: [], stale: [id] });
  const { $client } = lurn.app.get<Database>(DATABASE);
  const row = await $client.execute('SELECT max(length(changes) + length(touches)) FROM edits');
  expect(Number(row.rows[0][0])).toBeLessThan(5000);
  expect((await records().pagesOf(id, 'samples')).length).toBe(changes.length);
  const view = await lurn.view(clip.id);
  expect(view).toMatchObject({ pages: [], stale: [id] });
  const back = (await lurn.api().post(`/api/clips/${clip.id}/undo`).expect(200)).body as ClipChange;
  expect(back.pages.every(({ bytes }) => bytes === null)).toBe(true);
  expect(await records().pagesOf(id, 'samples')).toEqual([]);
  const again = (await lurn.api().post(`/api/clips/${clip.id}/redo`).expect(200)).body as ClipChange;
  expect(again).toMatchObject({ pages: [], stale: [id] });
  const { body } = await lurn.api().get(`/api/records/${id}/samples`).buffer(true).expect(200);
  expect(splitPages(body as Buffer)).toHaveLength(changes.length);
  await edits().undo(clip.id);
  await edits().undo(clip.id);
});

test('old edits are let go beyond a count, with their pages', async () => {
  const id = await lurn.place(clip.id);
  const before = (await lurn.view(clip.id)).tracks.find((track) => track.id === id) as TrackView;
  for (let n = 0; n < 510; n++)
    await edits().commit(clip.id, 'Rename track', [
      { kind: 'track', id, before, after: { ...before, name: `Name ${n}` } },
    ]);
  expect(await count(`edits WHERE clip_id = '${clip.id}'`)).toBe(500);
  expect(await count('edit_pages')).toBe(0);
});

test('a database of the first version opens with its work, and undo still leads back through it', async () => {
  const fixtures = fileURLToPath(new URL('../../fixtures/version-1', import.meta.url));
  const expected = JSON.parse(await readFile(join(fixtures, 'expected.json'), 'utf8')) as {
    clipId: string;
    tracks: string[];
    frames: { frame: number; outputFromFrame: number[]; frameFromReference: number[] }[];
    samples: string[];
  };
  const old = await Harness.start();
  await old.app.close();
  await mkdir(old.data, { recursive: true });
  for (const end of ['-wal', '-shm']) await rm(join(old.data, `lurn.db${end}`), { force: true });
  await cp(join(fixtures, 'lurn.db'), join(old.data, 'lurn.db'));
  await old.restart();
  const { clipId, tracks } = expected;
  const csv = async () =>
    (await old.api().get(`/api/clips/${clipId}/tracks.csv`).expect(200)).text.split('\r\n');
  const lines = await csv();
  for (const line of expected.samples) expect(lines.some((one) => one.startsWith(line))).toBe(true);
  const { body } = await old.api().get(`/api/clips/${clipId}/motion.json`).expect(200);
  // The same to a billionth of a pixel, by way of matrices.
  for (const { frame, ...matrices } of expected.frames)
    for (const name of ['outputFromFrame', 'frameFromReference'] as const)
      matrices[name].forEach((v, i) => expect(Math.abs(body.frames[frame][name][i] - v)).toBeLessThan(1e-9));
  const post = (await old.view(clipId)).tracks.find(({ name }) => name === 'Post') as TrackView;
  expect(post).toMatchObject({
    id: tracks[1],
    filter: 'local-contrast',
    offsets: [{ frame: 40, x: 6, y: -4 }],
  });

  // Smoothing was taken back: done again, then everything back to the empty clip and forth.
  const step = async (way: 'undo' | 'redo') =>
    (await old.api().post(`/api/clips/${clipId}/${way}`).expect(200)).body as ClipChange;
  expect((await step('redo')).records).toMatchObject([{ kind: 'steady', view: { smoothSeconds: 2 } }]);
  const whole = await csv();
  let steps = 0;
  while ((await old.view(clipId)).history.undo) {
    await step('undo');
    steps++;
  }
  expect(steps).toBe(8);
  expect((await old.view(clipId)).tracks).toEqual([]);
  while ((await old.view(clipId)).history.redo) await step('redo');
  expect(await csv()).toEqual(whole);
  await old.end();
});

test('a project file of the first version opens with its work', async () => {
  const path = fileURLToPath(new URL('../../fixtures/version-1/crossing.lurn.zip', import.meta.url));
  const { id, clips } = await lurn.app.get(PackageService).read(path);
  const cards = (await lurn.api().get('/api/projects').expect(200)).body as ProjectCard[];
  expect(cards.map((card) => card.id)).toContain(id);
  const opened = await lurn.view(clips[0].id);
  expect(opened.tracks.map(({ name, filter }) => [name, filter])).toEqual([
    ['Point 1', 'none'],
    ['Post', 'local-contrast'],
  ]);
  expect(opened.steady).toMatchObject({ mode: 'smooth', smoothSeconds: 0.4 });
  const samples = samplesOf(opened, opened.tracks[1].id);
  expect(samples.keys()).toEqual([0, 40]);
  expect(samples.found(299)).toBe(true);
  expect(samples.x[299]).toBeCloseTo(249.472, 3);
});
