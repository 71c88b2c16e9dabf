import { access, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipView, ExportsView, JobView } from '@lurn/contract';
import { makeStripClip } from '@lurn/media/testing';
import { Harness } from '../testing/harness.js';

let harness: Harness;
let clip: ClipView;
let other: ClipView;
const api = () => harness.api();

beforeAll(async () => {
  harness = await Harness.start();
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

test('an export that was cut short is started again as it was asked for', async () => {
  const { id } = (
    await api().post(`/api/clips/${clip.id}/exports`).send({ codec: 'ffv1', container: 'mkv' }).expect(201)
  ).body as JobView;
  await harness.restart();
  const { state } = (await api().get(`/api/jobs/${id}`)).body as JobView;
  expect(['interrupted', 'done']).toContain(state);
  await api().post(`/api/jobs/${id}/again`).expect(201);
  const again = (await harness.view(clip.id)).jobs.find((job) => job.kind === 'export' && job.id !== id);
  expect(await harness.job(again?.id ?? '')).toMatchObject({ state: 'done', fileName: 'first-held.mkv' });
  await access(join(harness.data, 'exports', `${again?.id}.mp4`));
});

test('a frame is kept as PNG or TIFF', async () => {
  for (const format of ['png', 'tiff']) {
    const { body, headers } = await api()
      .get(`/api/clips/${clip.id}/frames/3/still.${format}`)
      .buffer(true)
      .expect(200);
    expect(headers['content-type']).toBe(`image/${format}`);
    const start = (body as Buffer).subarray(0, 4).toString('latin1');
    expect(start).toBe(format === 'png' ? '\x89PNG' : 'II*\0');
  }
});

test('the motion comes out as rows', async () => {
  const { text } = await api().get(`/api/clips/${clip.id}/motion.csv?of=corners`).expect(200);
  expect(text.split('\r\n')).toHaveLength(14);
  expect(text).toMatch(/^frame,x1,y1,/);
  await api().get(`/api/clips/${clip.id}/motion.csv?of=knees`).expect(400);
});
