import 'reflect-metadata';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { MessageEvent } from '@nestjs/common';
import type { ClipChange, ClipView, JobView, ProjectEvent, ProjectView } from '@lurn/contract';
import { rectangleSpline, SampleState } from '@lurn/core';
import { indexClip, openClip } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { DATABASE, type Database } from './database/database.js';
import { EventHub } from './events/event-hub.js';
import { Harness, samplesOf } from './testing/harness.js';

jest.setTimeout(60_000);

const frames = 40;
const position = (k: number) => ({ x: 0.9 * k, y: 5 * Math.sin(k / 5) });

let lurn: Harness;
let film: string;
const api = () => lurn.api();
const view = (id: string): Promise<ClipView> => lurn.view(id);
const uploaded = (): Promise<ClipView> => lurn.upload(film);

beforeAll(async () => {
  lurn = await Harness.start();
  film = join(lurn.folder, 'Überfahrt.mp4');
  await makeStripClip({ path: film, frames, position, sound: 1.6 });
  await writeFile(join(lurn.folder, 'notes.txt'), 'not a video');
});
afterAll(() => lurn.end());

test('says it is well, and describes itself', async () => {
  expect((await api().get('/api/health').expect(200)).body).toMatchObject({ status: 'ok' });
  const { body } = await api().get('/api/docs-json').expect(200);
  expect(Object.keys(body.paths as object)).toContain('/api/clips/{id}/track-runs');
  const page = await api().get('/projects/any').expect(200);
  expect(page.text).toContain('the page');
  expect(page.headers['cache-control']).toBe('no-cache');
});

test('an uploaded clip is read to the last frame, with its name as it was written', async () => {
  const clip = await uploaded();
  expect(clip).toMatchObject({
    name: 'Überfahrt.mp4',
    state: 'ready',
    frames,
    width: 320,
    height: 180,
    frameRate: '25/1',
  });
  expect(
    (await api().get(`/api/clips/${clip.id}/proxy`).set('Range', 'bytes=0-99').expect(206)).body,
  ).toHaveLength(100);
  expect((await api().get(`/api/clips/${clip.id}/frames/39`).expect(200)).headers['content-type']).toBe(
    'image/jpeg',
  );
  expect((await api().get(`/api/clips/${clip.id}/frames/40`).expect(404)).body.message).toMatch(
    /frames 0 to 39/,
  );
});

test('what is not a video gets one sentence and leaves nothing behind', async () => {
  const before = (await api().get(`/api/projects/${lurn.project.id}`)).body as ProjectView;
  const { body } = await api()
    .post(`/api/projects/${lurn.project.id}/clips`)
    .attach('file', join(lurn.folder, 'notes.txt'))
    .expect(422);
  expect(body.message).toBe('"notes.txt" is not a video that can be read.');
  expect((await api().get(`/api/projects/${lurn.project.id}`)).body).toEqual(before);
});

test.each([
  ['an unknown field', { x: 1, y: 1, frame: 0, colour: 'red' }, /colour should not exist/],
  ['no number', { x: 'left', y: 1, frame: 0 }, /x is a number/],
  ['a frame beyond the end', { x: 1, y: 1, frame: 40 }, /frames are 0 to 39/],
  [
    'a box too small',
    { x: 1, y: 1, frame: 0, template: { width: 2, height: 20 } },
    /width is a whole number/,
  ],
])('refuses a track with %s', async (_, body, reason) => {
  const clip = await uploaded();
  const { message } = (await api().post(`/api/clips/${clip.id}/tracks`).send(body).expect(422)).body as {
    message: string | string[];
  };
  expect(String(message)).toMatch(reason);
});

test('a run finds the point on every frame, is stored, and is one step of undo', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  const run = (
    await api()
      .post(`/api/clips/${clip.id}/track-runs`)
      .send({ trackIds: [id], direction: 'both', from: 0 })
      .expect(201)
  ).body as JobView;
  expect(await lurn.job(run.id)).toMatchObject({ state: 'done', kind: 'track' });
  const samples = samplesOf(await view(clip.id), id);
  for (const k of [1, 17, 39]) expect(samples.x[k]).toBeCloseTo(150 + position(k).x, 0);
  expect(samples.keys()).toEqual([0]);

  const undone = (await api().post(`/api/clips/${clip.id}/undo`).expect(200)).body as ClipChange;
  expect(undone.history).toEqual({ undo: 'Place track', redo: 'Track' });
  expect(samplesOf(await view(clip.id), id).extent()).toEqual({ first: 0, last: 0 });
  await api().post(`/api/clips/${clip.id}/redo`).expect(200);
  expect(samplesOf(await view(clip.id), id).extent()).toEqual({ first: 0, last: 39 });
});

test('what is done to several tracks is done to all or to none, in one step of undo', async () => {
  const clip = await uploaded();
  const trackIds = [
    await lurn.place(clip.id),
    await lurn.place(clip.id, 90, 60),
    await lurn.place(clip.id, 60, 90),
  ];
  const shapes = async () => (await view(clip.id)).tracks.map(({ shape }) => shape);
  const all = (patch: object) => api().patch('/api/tracks').send({ trackIds, patch });
  const { body } = await all({ shape: 'affine' }).expect(200);
  expect((body as ClipChange).records).toHaveLength(3);
  expect(await shapes()).toEqual(['affine', 'affine', 'affine']);
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect(await shapes()).toEqual(['similarity', 'similarity', 'similarity']);

  // One that is locked keeps the boxes of all as they are; one of another clip keeps everything as it is.
  await api().patch(`/api/tracks/${trackIds[1]}`).send({ locked: true }).expect(200);
  const box = { template: { width: 21, height: 21 } };
  expect((await all(box).expect(409)).body.message).toMatch(/"Point 2" is locked/);
  const span = { first: 5, last: 9 };
  await api().post('/api/tracks/clear').send({ trackIds, span }).expect(409);
  await api().patch(`/api/tracks/${trackIds[1]}`).send({ locked: false }).expect(200);
  const other = await lurn.place((await uploaded()).id);
  const mixed = { trackIds: [...trackIds, other], patch: { shape: 'affine' } };
  expect((await api().patch('/api/tracks').send(mixed).expect(422)).body.message).toMatch(/another clip/);
  expect(await shapes()).toEqual(['similarity', 'similarity', 'similarity']);

  const run = { trackIds, direction: 'forwards', from: 0 };
  await lurn.job(
    (await api().post(`/api/clips/${clip.id}/track-runs`).send(run).expect(201)).body.id as string,
  );
  await api().post('/api/tracks/clear').send({ trackIds, span }).expect(200);
  const cleared = await view(clip.id);
  for (const id of trackIds) {
    const samples = samplesOf(cleared, id);
    expect([4, 5, 9, 10].map((frame) => samples.found(frame))).toEqual([true, false, false, true]);
  }
  await api().post('/api/tracks/delete').send({ trackIds }).expect(200);
  const gone = await view(clip.id);
  expect([gone.tracks, gone.history.undo]).toEqual([[], 'Delete 3 tracks']);
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  const back = await view(clip.id);
  expect(back.tracks.map(({ id }) => id)).toEqual(trackIds);
  expect(samplesOf(back, trackIds[2]).extent()).toEqual({ first: 0, last: 39 });
});

test('a key placed by hand outlives tracking again', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  await api().put(`/api/tracks/${id}/keys/20`).send({ x: 171.5, y: 96 }).expect(200);
  const run = (
    await api()
      .post(`/api/clips/${clip.id}/track-runs`)
      .send({ trackIds: [id], direction: 'forwards', from: 0 })
      .expect(201)
  ).body as JobView;
  await lurn.job(run.id);
  const samples = samplesOf(await view(clip.id), id);
  expect(samples.get(20)).toMatchObject({ x: 171.5, y: 96, state: SampleState.placed });
  expect(samples.keys()).toEqual([0, 20]);
  await api().post(`/api/tracks/${id}/clear`).send({ first: 20, last: 20 }).expect(200);
  expect(
    (await api().post(`/api/tracks/${id}/clear`).send({ first: 0, last: 0 }).expect(409)).body.message,
  ).toMatch(/at least one/);
});

test('how a track is followed is kept, checked, and used', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  const choice = { shape: 'shift', channel: 'green', filter: 'soften', below: 'bridge', threshold: 0.4 };
  await api().patch(`/api/tracks/${id}`).send(choice).expect(200);
  expect((await view(clip.id)).tracks[0]).toMatchObject({
    ...choice,
    fields: 'both',
    longestGap: 25,
    offsets: [],
  });
  for (const wrong of [{ shape: 'bendy' }, { threshold: 1.5 }, { longestGap: 0 }, { channel: 7 }])
    await api().patch(`/api/tracks/${id}`).send(wrong).expect(422);
  const run = await api()
    .post(`/api/clips/${clip.id}/track-runs`)
    .send({ trackIds: [id], direction: 'next', from: 0 });
  expect(await lurn.job((run.body as JobView).id)).toMatchObject({ state: 'done' });
  const samples = samplesOf(await view(clip.id), id);
  expect(samples.extent()).toEqual({ first: 0, last: 1 });
  expect(samples.x[1]).toBeCloseTo(150 + position(1).x, 0);
  // A shift does not turn.
  expect(samples.rotation[1]).toBe(0);
});

test('keys are filled between, spans removed, something else followed; each is one step of undo', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  const fill = { how: 'linear', first: 0, last: 39 };
  expect((await api().post(`/api/tracks/${id}/interpolate`).send(fill).expect(409)).body.message).toMatch(
    /two/,
  );
  await api().put(`/api/tracks/${id}/keys/10`).send({ x: 170, y: 90 }).expect(200);
  await api().post(`/api/tracks/${id}/interpolate`).send(fill).expect(200);
  const filled = samplesOf(await view(clip.id), id);
  expect(filled.x[5]).toBeCloseTo(160, 9);
  expect(filled.state[5]).toBe(SampleState.bridged);
  await api().post(`/api/tracks/${id}/clear`).send({ first: 3, last: 39 }).expect(200);
  expect(samplesOf(await view(clip.id), id).extent()).toEqual({ first: 0, last: 2 });
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect(samplesOf(await view(clip.id), id).extent()).toEqual({ first: 0, last: 10 });

  const aside = { x: 30, y: -12 };
  await api().put(`/api/tracks/${id}/keys/10`).send({ x: 170, y: 90, aside }).expect(200);
  expect((await view(clip.id)).tracks[0].offsets).toEqual([{ frame: 10, ...aside }]);
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect((await view(clip.id)).tracks[0].offsets).toEqual([]);
});

test('points are suggested within areas and scored; several are placed as one step of undo', async () => {
  const clip = await uploaded();
  const within = [rectangleSpline(160, 0, 320, 180)];
  const found = (
    await api().post(`/api/clips/${clip.id}/suggestions`).send({ frame: 5, count: 3, within }).expect(200)
  ).body as { x: number; y: number; score: number }[];
  expect(found.length).toBeGreaterThan(0);
  for (const { x, score } of found) {
    expect(x).toBeGreaterThanOrEqual(160);
    expect(score).toBeGreaterThan(0);
  }
  const { x, y } = found[0];
  const scored = (await api().get(`/api/clips/${clip.id}/frames/5/score?x=${x}&y=${y}`).expect(200)).body;
  expect(scored.score).toBeCloseTo(found[0].score, 1);
  await api().get(`/api/clips/${clip.id}/frames/5/score?x=-4&y=2`).expect(422);
  await api().get(`/api/clips/${clip.id}/frames/4000/score?x=4&y=2`).expect(404);
  await api().post(`/api/clips/${clip.id}/suggestions`).send({ frame: 4000, count: 3 }).expect(422);
  await api().post(`/api/clips/${clip.id}/frames/5/warm`).expect(204);
  const points = found.map((p) => ({ x: p.x, y: p.y }));
  await api().post(`/api/clips/${clip.id}/tracks/many`).send({ frame: 5, points }).expect(201);
  expect((await view(clip.id)).tracks).toHaveLength(points.length);
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect((await view(clip.id)).tracks).toHaveLength(0);
});

test('a locked track is left alone until it is unlocked; names, boxes and deletion can be undone', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  await api().patch(`/api/tracks/${id}`).send({ locked: true, name: 'Crane' }).expect(200);
  expect((await api().put(`/api/tracks/${id}/keys/3`).send({ x: 1, y: 1 }).expect(409)).body.message).toBe(
    '"Crane" is locked; unlock it first.',
  );
  await api()
    .patch(`/api/tracks/${id}`)
    .send({ locked: false, template: { width: 61, height: 31 } })
    .expect(200);
  await api().delete(`/api/tracks/${id}`).expect(200);
  expect((await view(clip.id)).tracks).toEqual([]);
  const back = (await api().post(`/api/clips/${clip.id}/undo`).expect(200)).body as ClipChange;
  expect(back.records[0].view).toMatchObject({ id, name: 'Crane', template: { width: 61, height: 31 } });
  expect(samplesOf(await view(clip.id), id).keys()).toEqual([0]);
});

test('an export is the steadied movie under the name it should have', async () => {
  const clip = await uploaded();
  expect((await api().post(`/api/clips/${clip.id}/exports`).expect(422)).body.message).toMatch(/no motion/);
  const id = await lurn.place(clip.id);
  const run = (
    await api()
      .post(`/api/clips/${clip.id}/track-runs`)
      .send({ trackIds: [id], direction: 'forwards', from: 0 })
  ).body as JobView;
  await lurn.job(run.id);
  const steady = { ...clip.steady, range: { first: 5, last: 30 } };
  await api().patch(`/api/clips/${clip.id}/steady`).send({ steady, label: 'Range' }).expect(200);
  const job = await lurn.job(
    ((await api().post(`/api/clips/${clip.id}/exports`).expect(201)).body as JobView).id,
  );
  expect(job).toMatchObject({ state: 'done', fileName: 'Überfahrt-held.mp4', done: 26, total: 26 });
  const file = await api()
    .get(`/api/exports/${job.id}/file`)
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on('data', (part: Buffer) => parts.push(part));
      res.on('end', () => done(null, Buffer.concat(parts)));
    });
  const path = join(lurn.folder, 'download.mp4');
  await writeFile(path, file.body as Buffer);
  expect((await indexClip(await openClip(path))).pts).toHaveLength(26);
  const motion = JSON.parse(
    (
      await api()
        .get(`/api/clips/${clip.id}/motion.json`)
        .buffer(true)
        .parse((res, done) => {
          let text = '';
          res.on('data', (part: Buffer) => (text += part.toString()));
          res.on('end', () => done(null, text));
        })
    ).body as string,
  ) as { format: string; frames: unknown[] };
  expect(motion).toMatchObject({ format: 'lurn-motion', referenceFrame: 0, model: 'translation' });
  expect(motion.frames).toHaveLength(26);
});

test('settings that make no sense are refused, and change nothing', async () => {
  const clip = await uploaded();
  const bad = [
    { ...clip.steady, range: { first: 30, last: 3 } },
    { ...clip.steady, referenceFrame: 40 },
    { ...clip.steady, mode: 'float' },
    { ...clip.steady, framing: { zoom: -1, offsetX: 0, offsetY: 0 } },
  ];
  for (const steady of bad)
    await api().patch(`/api/clips/${clip.id}/steady`).send({ steady, label: 'Range' }).expect(422);
  expect((await view(clip.id)).steady).toEqual(clip.steady);
});

test('a run can be called off; what it has found stays', async () => {
  const path = join(lurn.folder, 'long.mp4');
  await makeStripClip({ path, frames: 400 });
  const body = await lurn.upload(path);
  const id = await lurn.place(body.id, 150, 100);
  const run = (
    await api()
      .post(`/api/clips/${body.id}/track-runs`)
      .send({ trackIds: [id], direction: 'forwards', from: 0 })
  ).body as JobView;
  expect((await api().put(`/api/tracks/${id}/keys/3`).send({ x: 1, y: 1 }).expect(409)).body.message).toMatch(
    /being followed/,
  );
  for (;;) {
    const extent = samplesOf(await view(body.id), id).extent();
    if (extent && extent.last > 20) break;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  await api().delete(`/api/jobs/${run.id}`).expect(202);
  expect((await lurn.job(run.id)).state).toBe('cancelled');
  const { last } = samplesOf(await view(body.id), id).extent() ?? { last: 0 };
  expect(last).toBeGreaterThan(20);
  expect(last).toBeLessThan(399);
  await api().put(`/api/tracks/${id}/keys/3`).send({ x: 151, y: 100 }).expect(200);
});

test('after a restart all is as it was, and undo still knows the way back', async () => {
  const clip = await uploaded();
  const id = await lurn.place(clip.id);
  const steady = { ...clip.steady, mode: 'smooth', smoothSeconds: 2.5 };
  await api().patch(`/api/clips/${clip.id}/steady`).send({ steady, label: 'Mode' }).expect(200);
  const before = await view(clip.id);
  await lurn.restart();
  expect(await view(clip.id)).toEqual(before);
  await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect((await view(clip.id)).steady.mode).toBe('hold');
  expect(samplesOf(await view(clip.id), id).keys()).toEqual([0]);
});

test('the event stream goes on where it broke off, or says that it cannot', async () => {
  const hub = new EventHub();
  const note = (clipId: string): ProjectEvent => ({ type: 'clip-removed', clipId });
  const heard: { id: string; event: ProjectEvent }[] = [];
  const take = (message: MessageEvent): void =>
    void heard.push({ id: String(message.id), event: message.data as ProjectEvent });
  const first = hub.stream('p', undefined).subscribe(take);
  hub.tell('p', note('a'));
  hub.tell('other', note('x'));
  first.unsubscribe();
  hub.tell('p', note('b'));
  const again = hub.stream('p', heard[0].id).subscribe(take);
  again.unsubscribe();
  expect(heard.map((h) => h.event)).toEqual([note('a'), note('b')]);
  hub.stream('p', 'earlierrun-7').subscribe(take).unsubscribe();
  expect(heard.at(-1)?.event).toEqual({ type: 'reset' });
});

test('samples that cannot be stored end the run with its reason; what was stored stays, the tracks are free', async () => {
  const long = join(lurn.folder, 'long.mp4');
  await makeStripClip({ path: long, frames: 300, position: (k) => ({ x: 0.4 * k, y: 0 }) });
  const { id } = await lurn.upload(long);
  const trackId = await lurn.place(id);
  const { $client: database } = lurn.app.get<Database>(DATABASE);
  const refuse = (table: string, when: string): Promise<unknown> =>
    database.execute(
      `CREATE TRIGGER refuse_${table} BEFORE INSERT ON ${table} WHEN ${when} BEGIN SELECT RAISE(ABORT, 'no more'); END`,
    );
  await refuse('record_pages', 'NEW.page > 0');
  const job = await lurn.follow(id, trackId);
  expect(job).toMatchObject({ state: 'failed', error: expect.stringMatching(/its log says what/) });
  let clip = await lurn.view(id);
  expect(clip.pages.map(({ page }) => page)).toEqual([0]);
  expect(samplesOf(clip, trackId).found(200)).toBe(true);
  expect(samplesOf(clip, trackId).found(260)).toBe(false);
  expect(clip.history.undo).toBe('Track');

  // Not even the edit can be stored.
  await refuse('edits', 'NEW.clip_id IS NOT NULL');
  expect((await lurn.follow(id, trackId)).state).toBe('failed');
  await database.executeMultiple('DROP TRIGGER refuse_record_pages; DROP TRIGGER refuse_edits');
  expect((await lurn.follow(id, trackId)).state).toBe('done');
  clip = await lurn.view(id);
  expect(samplesOf(clip, trackId).found(299)).toBe(true);
  await api().post(`/api/clips/${id}/undo`).expect(200);
  await api().post(`/api/clips/${id}/undo`).expect(200);
  clip = await lurn.view(id);
  expect([0, 1, 200].map((k) => samplesOf(clip, trackId).found(k))).toEqual([true, false, false]);
});

test('a clip whose frames come unevenly is told by its own times, and smoothed by them', async () => {
  const path = join(lurn.folder, 'sparse.avi');
  // A frame each 0.2 s, but for the last third, where they come each 1.2 s; the camera pans evenly in time.
  const at = (k: number): number => (k < 20 ? 5 * k : 100 + 30 * (k - 20));
  await makeStripClip({
    path,
    frames: 30,
    position: (k: number) => ({ x: 0.12 * at(k), y: 0 }),
    encode: [
      ...['-vf', 'settb=1/25,setpts=if(lt(N\\,20)\\,5*N\\,100+30*(N-20))', '-fps_mode', 'passthrough'],
      ...['-c:v', 'mpeg4', '-q:v', '2'],
    ],
  });
  const clip = await lurn.upload(path);
  expect(clip).toMatchObject({ frames: 30, uneven: true });
  // AVI counts whole ticks: the last frame lasts one.
  expect(clip.seconds).toBeCloseTo((at(29) + 1) / 25, 6);
  expect(clip.times?.slice(0, 30)).toEqual(
    Array.from({ length: 30 }, (_, k) => expect.closeTo(at(k) / 25, 6)),
  );
  const trackId = await lurn.place(clip.id);
  await lurn.follow(clip.id, trackId);
  const steady = { ...clip.steady, mode: 'smooth', smoothSeconds: 1 };
  await api().patch(`/api/clips/${clip.id}/steady`).send({ label: 'Mode', steady }).expect(200);
  const { body } = await api().get(`/api/clips/${clip.id}/motion.json`).expect(200);
  const shifts = (body as { frames: { outputFromFrame: number[] }[] }).frames.map(
    (f) => f.outputFromFrame[2],
  );
  // A pan that is even in time is kept: nothing is corrected, though by frame it changes its speed sixfold.
  shifts.forEach((shift) => expect(Math.abs(shift)).toBeLessThan(0.25));
});
