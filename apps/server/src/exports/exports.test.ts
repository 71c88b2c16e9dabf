import { access, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipView, ExportsView, JobView } from '@lurn/contract';
import { openClip } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { Harness, samplesOf } from '../testing/harness.js';

let harness: Harness;
let clip: ClipView;
let other: ClipView;
const api = () => harness.api();

beforeAll(async () => {
  harness = await Harness.start({}, 'out');
  for (const name of ['first.mp4', 'second.mp4'])
    await makeStripClip({ path: join(harness.folder, name), frames: 12, width: 192, height: 112 });
  clip = await harness.upload(join(harness.folder, 'first.mp4'));
  other = await harness.upload(join(harness.folder, 'second.mp4'));
  // Something to be exported without following anything.
  const steady = {
    ...clip.steady,
    output: { width: 96, height: 96 },
    keys: [{ frame: 0, x: 3, y: 0, rotation: 0.02, zoom: 0.9, easing: 'linear' }],
  };
  await api().patch(`/api/clips/${clip.id}/steady`).send({ steady, label: 'By hand' }).expect(200);
});
afterAll(() => harness.end());

const exported = async (body: object): Promise<JobView> =>
  harness.job(
    ((await api().post(`/api/clips/${clip.id}/exports`).send(body).expect(201)).body as JobView).id,
  );

test('a movie is written as asked for; the project remembers, and finished ones are kept until cleared', async () => {
  const first = await exported({ codec: 'vp9', container: 'webm', bits: 10 });
  expect(first).toMatchObject({ state: 'done', fileName: 'first-held.webm' });
  const second = await exported({ codec: 'png', container: 'png' });
  expect(second).toMatchObject({ state: 'done', fileName: 'first-held.zip' });
  // The next clip of the project begins with what was chosen for this one.
  expect((await harness.view(other.id)).lastExport).toEqual({ codec: 'png', container: 'png' });
  const files = join(harness.data, 'exports');
  expect(await readdir(files)).toHaveLength(2);
  await api().get(`/api/exports/${first.id}/file`).expect(200);
  await api().delete(`/api/exports/${first.id}`).expect(204);
  await api().get(`/api/exports/${first.id}/file`).expect(404);
  await api().delete(`/api/exports/${first.id}`).expect(404);
  expect(await readdir(files)).toEqual([`${second.id}.mp4`]);
  expect((await harness.view(clip.id)).jobs.map(({ id }) => id)).not.toContain(first.id);
});

test('what cannot be written is refused before the work starts', async () => {
  const refused = async (body: object): Promise<string> =>
    ((await api().post(`/api/clips/${clip.id}/exports`).send(body).expect(422)).body as { message: string })
      .message;
  expect(await refused({ codec: 'prores', bits: 8 })).toBe('ProRes 422 has no 8 bits: choose 10.');
  expect(await refused({ codec: 'av1', container: 'mov' })).toContain('choose .webm, .mp4 or .mkv');
  const { steady } = await harness.view(clip.id);
  const clear = { steady: { ...steady, edge: 'transparent' }, label: 'Edges' };
  await api().patch(`/api/clips/${clip.id}/steady`).send(clear).expect(200);
  expect(await refused({ codec: 'h264' })).toContain('H.264 has no transparency');
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
});

test('several clips are exported by the same settings; one without motion is named', async () => {
  const body = { clipIds: [clip.id, other.id], codec: 'h265', container: 'mp4' };
  const { jobs, refused } = (await api().post('/api/exports').send(body).expect(201)).body as ExportsView;
  expect(jobs).toHaveLength(1);
  expect(refused).toEqual([{ clipId: other.id, message: expect.stringContaining('no motion to take out') }]);
  expect(await harness.job(jobs[0].id)).toMatchObject({ state: 'done', fileName: 'first-held.mp4' });
});

test('the queue goes in order, one after another, and on by itself after the server was ended', async () => {
  const asked: string[] = [];
  for (const codec of ['ffv1', 'h265', 'h264'])
    asked.push(
      (
        (await api().post(`/api/clips/${clip.id}/exports`).send({ codec, container: 'mkv' }).expect(201))
          .body as JobView
      ).id,
    );
  const states = async (): Promise<string[]> =>
    Promise.all(asked.map(async (id) => ((await api().get(`/api/jobs/${id}`)).body as JobView).state));
  const begun = await states();
  expect(begun.filter((state) => state === 'running').length).toBeLessThanOrEqual(1);
  // A later one is never further on than an earlier one.
  const progress = begun.map((state) => ['waiting', 'running', 'done'].indexOf(state));
  expect(progress).toEqual([...progress].sort((a, b) => b - a));
  await harness.restart();
  const queue = async (): Promise<JobView[]> =>
    (await api().get(`/api/projects/${harness.project.id}/queue`).expect(200)).body as JobView[];
  const left = await queue();
  for (const { id } of left) await harness.job(id);
  const ended = await queue();
  const names = ended.filter(({ fileName }) => fileName === 'first-held.mkv');
  expect(names).toHaveLength(3);
  for (const { id, state } of names) {
    expect(state).toBe('done');
    await access(join(harness.data, 'exports', `${id}.mp4`));
  }
});

test('before and after come in one movie, and what was treated has its motion put back', async () => {
  const compared = await exported({
    codec: 'ffv1',
    container: 'mkv',
    comparison: { layout: 'stack', words: true },
  });
  expect(compared).toMatchObject({ state: 'done', fileName: 'first-compared.mkv' });
  const pair = await openClip(join(harness.data, 'exports', `${compared.id}.mp4`));
  // The square output is fitted to the source's width, below it.
  expect([pair.width, pair.height]).toEqual([192, 112 + 192]);

  const held = await exported({ codec: 'ffv1', container: 'mkv' });
  const treated = await harness.upload(join(harness.data, 'exports', `${held.id}.mp4`));
  const back = await exported({ codec: 'ffv1', container: 'mkv', treated: treated.id });
  expect(back).toMatchObject({ state: 'done', fileName: 'first-given-back.mkv', total: 12 });
  const refused = await api().post(`/api/clips/${clip.id}/exports`).send({ treated: other.id }).expect(422);
  expect((refused.body as { message: string }).message).toBe(
    '"second.mp4" is 192×112, what was exported 96×96: treat it at that size.',
  );
  const both = { treated: treated.id, comparison: { layout: 'side', words: false } };
  await api().post(`/api/clips/${clip.id}/exports`).send(both).expect(422);
  await api().delete(`/api/clips/${treated.id}`).expect(204);
});

test('pictures go to a folder below the one that the server was given', async () => {
  const asked = { codec: 'png', container: 'png', folder: 'held' };
  expect(await exported(asked)).toMatchObject({ state: 'done', fileName: 'held/' });
  expect(await readdir(join(harness.folder, 'out', 'held'))).toHaveLength(12);
  const refusal = async (body: object): Promise<string> =>
    ((await api().post(`/api/clips/${clip.id}/exports`).send(body).expect(422)).body as { message: string })
      .message;
  expect(await refusal(asked)).toContain('There is something in');
  expect(await refusal({ ...asked, folder: '../held' })).toContain('no name of one folder');
  expect(await refusal({ codec: 'h264', folder: 'other' })).toContain('Only pictures go to a folder');
});

test('another clip is steadied as this one is, followed anew, and exported', async () => {
  const point = await harness.place(clip.id, 96, 56);
  const { jobs, refused } = (
    await api()
      .post(`/api/clips/${clip.id}/like`)
      .send({ clipIds: [other.id, clip.id], export: { codec: 'h264', container: 'mp4' } })
      .expect(201)
  ).body as ExportsView;
  expect(refused).toEqual([{ clipId: clip.id, message: expect.stringContaining('not as itself') }]);
  expect(await harness.job(jobs[0].id)).toMatchObject({ state: 'done', kind: 'like' });
  const view = await harness.view(other.id);
  expect(view.steady.keys).toEqual((await harness.view(clip.id)).steady.keys);
  const [track] = view.tracks;
  expect(track).toMatchObject({ name: 'Point 1', used: true });
  expect(track.id).not.toBe(point);
  // Both clips are the same strip: what was followed in it stands on all of its frames.
  const samples = samplesOf(view, track.id);
  expect(Array.from({ length: view.frames }, (_, k) => samples.found(k))).not.toContain(false);
  const movie = view.jobs.find(({ kind }) => kind === 'export');
  expect(await harness.job(movie?.id ?? '')).toMatchObject({ state: 'done', fileName: 'second-held.mp4' });
  await api()
    .post('/api/tracks/delete')
    .send({ trackIds: [point] })
    .expect(200);
});

test.each([
  ['png', ''],
  ['tiff', ''],
  ['png', '?steadied=true'],
  ['tiff', '?steadied=true'],
])('a frame is kept as %s%s', async (format, query) => {
  {
    const { body, headers } = await api()
      .get(`/api/clips/${clip.id}/frames/3/still.${format}${query}`)
      .buffer(true)
      .expect(200);
    expect(headers['content-type']).toBe(`image/${format}`);
    const start = (body as Buffer).subarray(0, 4).toString('latin1');
    expect(start).toBe(format === 'png' ? '\x89PNG' : 'II*\0');
    // A PNG says its size in its head: the output's where it is steadied.
    if (format === 'png') expect((body as Buffer).readUInt32BE(16)).toBe(query ? 96 : 192);
  }
});

test('settings are kept by name, and dropped, each undone like any edit', async () => {
  const keep = (name: string) => api().post(`/api/clips/${clip.id}/kept`).send({ name });
  await keep('Wide').expect(201);
  const wide = (await harness.view(clip.id)).steady;
  await api()
    .patch(`/api/clips/${clip.id}/steady`)
    .send({ steady: { ...wide, edge: 'mirror' }, label: 'Edges' })
    .expect(200);
  await keep('Mirrored').expect(201);
  const { kept } = await harness.view(clip.id);
  expect(kept.map(({ name, steady }) => [name, steady.edge])).toEqual([
    ['Wide', 'black'],
    ['Mirrored', 'mirror'],
  ]);
  await api().delete(`/api/clips/${clip.id}/kept/${kept[0].id}`).expect(200);
  await api().delete(`/api/clips/${clip.id}/kept/${kept[0].id}`).expect(404);
  expect((await harness.view(clip.id)).kept).toHaveLength(1);
  for (let i = 0; i < 4; i++) await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  const after = await harness.view(clip.id);
  expect([after.kept, after.steady]).toEqual([[], wide]);
});

test('the motion comes out as rows', async () => {
  const { text } = await api().get(`/api/clips/${clip.id}/motion.csv?of=corners`).expect(200);
  expect(text.split('\r\n')).toHaveLength(14);
  expect(text).toMatch(/^frame,x1,y1,/);
  await api().get(`/api/clips/${clip.id}/motion.csv?of=knees`).expect(400);
  const { text: own } = await api().get(`/api/clips/${clip.id}/motion.csv?of=corners&by=track`).expect(200);
  expect(own).toBe('track,frame,x1,y1,x2,y2,x3,y3,x4,y4\r\n');
});
