import 'reflect-metadata';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, readFile, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { ClipCard, ClipChange, ClipView, JobView, ProjectCard, ProjectView } from '@lurn/contract';
import { startFfmpeg } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import type { Test } from 'supertest';
import { ZipFile } from 'yazl';
import { ClipFiles } from './clips/clip-files.js';
import { DATABASE, type Database } from './database/database.js';
import { ProjectsService } from './projects/projects.service.js';
import { Harness, samplesOf, until } from './testing/harness.js';

jest.setTimeout(120_000);

const frames = 40;
const position = (k: number) => ({ x: 0.9 * k, y: 5 * Math.sin(k / 5) });

let lurn: Harness;
let film: string;
let shelf: string;

beforeAll(async () => {
  shelf = join(await mkdtemp(join(tmpdir(), 'lurn-shelf-')), 'shelf');
  await mkdir(join(shelf, 'day 1'), { recursive: true });
  lurn = await Harness.start({ media: [shelf] });
  film = join(lurn.folder, 'crossing.mp4');
  await makeStripClip({ path: film, frames, position });
});
afterAll(async () => {
  await lurn.end();
  await rm(dirname(shelf), { recursive: true, force: true });
});

const encoded = (metadata: Record<string, string>): string =>
  Object.entries(metadata)
    .map(([key, value]) => `${key} ${Buffer.from(value).toString('base64')}`)
    .join(',');

/** Begins an upload by the tus protocol; its address. */
async function begin(bytes: number, metadata: Record<string, string>, status = 201): Promise<string> {
  const answer = await lurn
    .api()
    .post('/api/uploads')
    .set('Tus-Resumable', '1.0.0')
    .set('Upload-Length', `${bytes}`)
    .set('Upload-Metadata', encoded({ project: lurn.project.id, ...metadata }))
    .expect(status);
  return status === 201 ? new URL(answer.headers.location, 'http://127.0.0.1').pathname : answer.text;
}

const send = (address: string, offset: number, data: Buffer) =>
  lurn
    .api()
    .patch(address)
    .set('Tus-Resumable', '1.0.0')
    .set('Content-Type', 'application/offset+octet-stream')
    .set('Upload-Offset', `${offset}`)
    .send(data);

const offsetOf = async (address: string): Promise<number> =>
  Number((await lurn.api().head(address).set('Tus-Resumable', '1.0.0').expect(200)).headers['upload-offset']);

const cards = async (): Promise<ClipCard[]> =>
  ((await lurn.api().get(`/api/projects/${lurn.project.id}`).expect(200)).body as ProjectView).clips;

test('an upload goes on where it broke off, after a restart of the server too', async () => {
  const data = await readFile(film);
  const half = data.length >> 1;
  const address = await begin(data.length, { filename: 'Überfahrt.mp4' });
  await send(address, 0, data.subarray(0, half)).expect(204);
  const { body } = await lurn.api().get(`/api/projects/${lurn.project.id}/uploads`).expect(200);
  expect(body).toMatchObject([{ name: 'Überfahrt.mp4', done: half, bytes: data.length }]);
  await lurn.restart();
  expect(await offsetOf(address)).toBe(half);
  await send(address, half, data.subarray(half)).expect(204);
  const card = (await cards()).find((c) => c.name === 'Überfahrt.mp4') as ClipCard;
  expect(await lurn.read(card.id)).toMatchObject({ state: 'ready', frames });
  expect(readdirSync(join(lurn.data, 'uploads'))).toEqual([]);
});

test('an upload that had arrived when the server was killed becomes a clip at the next start', async () => {
  const data = await readFile(film);
  const id = 'f'.repeat(32);
  const uploads = join(lurn.data, 'uploads');
  const metadata = { project: lurn.project.id, filename: 'late.mp4' };
  await writeFile(join(uploads, id), data);
  await writeFile(
    join(uploads, `${id}.json`),
    JSON.stringify({ id, size: data.length, offset: data.length, metadata, creation_date: new Date() }),
  );
  await lurn.restart();
  const card = (await cards()).find((c) => c.name === 'late.mp4') as ClipCard;
  expect(await lurn.read(card.id)).toMatchObject({ state: 'ready', frames });
  // Killed after the clip was stored and before the upload was cleared away: it stays one clip. And a folder whose
  // clip never came to be stored is gone.
  await writeFile(join(uploads, id), data);
  await writeFile(
    join(uploads, `${id}.json`),
    JSON.stringify({ id, size: data.length, offset: data.length, metadata, creation_date: new Date() }),
  );
  const orphan = join(lurn.data, 'clips', '0'.repeat(8));
  await mkdir(orphan);
  await lurn.restart();
  expect((await cards()).filter((c) => c.name === 'late.mp4')).toHaveLength(1);
  expect(readdirSync(uploads)).toEqual([]);
  expect(existsSync(orphan)).toBe(false);
});

test('uploads are refused in a sentence: no room, no project, no video', async () => {
  const free = jest.spyOn(lurn.app.get(ClipFiles), 'free').mockResolvedValue(1e9);
  expect(await begin(5e9, { filename: 'long.mov' }, 507)).toBe(
    '"long.mov" needs 5.5 GB, and only 1.0 GB are free on the server\'s disk.',
  );
  free.mockRestore();
  expect(await begin(10, { filename: 'a.mov', project: '../etc' }, 422)).toMatch(/belongs to/);
  const address = await begin(11, { filename: 'notes.txt' });
  expect((await send(address, 0, Buffer.from('not a video')).expect(422)).text).toBe(
    '"notes.txt" is not a video that can be read.',
  );
  expect(readdirSync(join(lurn.data, 'uploads'))).toEqual([]);
});

test('a zip of pictures, and pictures one by one, become a clip at the rate asked for', async () => {
  const pattern = join(lurn.folder, 'p%d.png');
  await startFfmpeg(['-i', film, '-frames:v', '12', '-y', pattern]).done;
  const pictures = await Promise.all(
    Array.from({ length: 12 }, (_, i) => readFile(join(lurn.folder, `p${i + 1}.png`))),
  );
  const zip = new ZipFile();
  pictures.forEach((data, i) => zip.addBuffer(data, `shot/p${i + 1}.png`));
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  const whole = Buffer.concat(parts);
  const plain = await begin(whole.length, { filename: 'shot.zip' });
  expect((await send(plain, 0, whole).expect(422)).text).toMatch(/needs a rate/);
  await send(await begin(whole.length, { filename: 'shot.zip', rate: '24000/1001' }), 0, whole).expect(204);
  const shot = (await cards()).find((c) => c.name === 'shot') as ClipCard;
  expect(await lurn.read(shot.id)).toMatchObject({ frames: 12, frameRate: '24000/1001', state: 'ready' });

  const uploads: string[] = [];
  for (const [i, data] of pictures.entries()) {
    const address = await begin(data.length, { filename: `p${i + 1}.png`, purpose: 'picture' });
    await send(address, 0, data).expect(204);
    uploads.push(address.split('/').pop() as string);
  }
  const sequences = `/api/projects/${lurn.project.id}/sequences`;
  await lurn.api().post(sequences).send({ name: 'set', rate: 'often', uploads }).expect(422);
  const { body } = await lurn.api().post(sequences).send({ name: 'set', rate: '12', uploads }).expect(201);
  expect(await lurn.read(body.id as string)).toMatchObject({ frames: 12, frameRate: '12/1', state: 'ready' });
  // The answer was lost with the line: asked once more it is the same clip.
  const again = await lurn.api().post(sequences).send({ name: 'set', rate: '12', uploads }).expect(201);
  expect(again.body.id).toBe(body.id);
  // Ten thousand pictures are refused for not being there, not for being many.
  const many = Array.from({ length: 10_000 }, (_, i) => `${i}`.padStart(32, '0'));
  await lurn.api().post(sequences).send({ name: 'set', rate: '12', uploads: many }).expect(404);
});

test('a file is worked on where it lies; changed or gone it says so, and mends by itself', async () => {
  const path = join(shelf, 'day 1', 'in place.mp4');
  await writeFile(path, await readFile(film));
  await writeFile(join(shelf, 'day 1', 'notes.txt'), 'nothing to see');
  await symlink('/etc', join(shelf, 'way out'));
  const entries = (await lurn.api().get('/api/media/0?path=day%201').expect(200)).body as object[];
  expect(entries).toMatchObject([{ name: 'in place.mp4', kind: 'file' }]);
  await lurn.api().get('/api/media/0?path=way%20out').expect(404);
  await lurn.api().get('/api/media/0?path=..').expect(404);
  const outside = `/api/projects/${lurn.project.id}/outside`;
  await lurn.api().post(outside).send({ folder: 0, path: '../crossing.mp4' }).expect(404);
  const { body } = await lurn.api().post(outside).send({ folder: 0, path: 'day 1/in place.mp4' }).expect(201);
  const clip = await lurn.read(body.id as string);
  expect(clip).toMatchObject({ state: 'ready', outside: path, trouble: null });
  expect(readdirSync(join(lurn.data, 'clips', clip.id)).sort()).toEqual(['poster.jpg', 'proxy.mp4']);

  const track = await lurn.place(clip.id);
  await rename(shelf, `${shelf}, unplugged`);
  expect(await lurn.view(clip.id)).toMatchObject({
    trouble: 'missing',
    error: expect.stringMatching(/Put it/),
  });
  const run = { trackIds: [track], direction: 'forwards', from: 0 };
  const refused = await lurn.api().post(`/api/clips/${clip.id}/track-runs`).send(run).expect(409);
  expect(refused.body.message).toMatch(/is not at .* any more/);
  await lurn.api().get('/api/media/0').expect(409);
  // What needs no original goes on.
  await lurn.api().put(`/api/tracks/${track}/keys/3`).send({ x: 151, y: 101 }).expect(200);
  await rename(`${shelf}, unplugged`, shelf);
  expect(await lurn.view(clip.id)).toMatchObject({ trouble: null, error: null });

  await utimes(path, new Date(), new Date(0));
  expect(await lurn.view(clip.id)).toMatchObject({ trouble: 'changed' });
  await lurn.api().post(`/api/clips/${clip.id}/read`).send({}).expect(200);
  expect(await lurn.read(clip.id)).toMatchObject({ state: 'ready', trouble: null, frames });
  expect((await lurn.view(clip.id)).tracks).toHaveLength(1);
});

test('an original that is gone can be added again, and what was made of it is kept', async () => {
  const clip = await lurn.upload(film);
  const track = await lurn.place(clip.id);
  await lurn.follow(clip.id, track);
  const before = samplesOf(await lurn.view(clip.id), track);
  await rename(join(lurn.data, 'clips', clip.id, 'original'), join(lurn.folder, 'lost'));
  expect(await lurn.view(clip.id)).toMatchObject({ trouble: 'missing' });
  expect((await lurn.api().post(`/api/clips/${clip.id}/exports`).expect(409)).body.message).toMatch(/gone/);
  const other = join(lurn.folder, 'other.mp4');
  await makeStripClip({ path: other, frames: 10, width: 256, height: 144 });
  const wrong = await readFile(other);
  const place = { filename: 'other.mp4', purpose: 'original', clip: clip.id };
  expect((await send(await begin(wrong.length, place), 0, wrong).expect(422)).text).toMatch(/another clip/);
  const short = join(lurn.folder, 'short.mp4');
  await makeStripClip({ path: short, frames: 10 });
  const fewer = await readFile(short);
  expect((await send(await begin(fewer.length, place), 0, fewer).expect(422)).text).toMatch(
    /has 10 frames.*it is another clip/,
  );
  const data = await readFile(film);
  await send(await begin(data.length, place), 0, data).expect(204);
  expect(await lurn.read(clip.id)).toMatchObject({ state: 'ready', trouble: null });
  expect(samplesOf(await lurn.view(clip.id), track)).toEqual(before);
});

test('a deleted clip or project can be brought back until it is cleared away', async () => {
  const clip = await lurn.upload(film);
  const track = await lurn.place(clip.id);
  await lurn.api().patch(`/api/clips/${clip.id}`).send({ name: 'The crossing' }).expect(200);
  await lurn.api().delete(`/api/clips/${clip.id}`).expect(204);
  await lurn.api().get(`/api/clips/${clip.id}`).expect(404);
  await lurn.api().post(`/api/clips/${clip.id}/restore`).expect(200);
  expect(await lurn.view(clip.id)).toMatchObject({ name: 'The crossing', tracks: [{ id: track }] });

  const { body } = await lurn.api().post(`/api/projects/${lurn.project.id}/copies`).expect(201);
  const copy = body as ProjectView;
  const all = async () => (await lurn.api().get('/api/projects')).body as ProjectCard[];
  await lurn.api().delete(`/api/projects/${copy.id}`).expect(204);
  expect((await all()).map((p) => p.id)).not.toContain(copy.id);
  await lurn.api().post(`/api/projects/${copy.id}/restore`).expect(200);
  expect((await all()).find((p) => p.id === copy.id)?.clips).toBe(copy.clips.length);
  await lurn.api().delete(`/api/projects/${copy.id}`).expect(204);
  await lurn.app.get(ProjectsService).purge(new Date(Date.now() + 1000));
  await lurn.api().post(`/api/projects/${copy.id}/restore`).expect(404);
  for (const { id } of copy.clips) expect(readdirSync(join(lurn.data, 'clips'))).not.toContain(id);
  // Originals shared with the copy are still there.
  expect(await lurn.view(clip.id)).toMatchObject({ trouble: null });
});

test.each([true, false])('a project leaves and comes back as one file, with media: %s', async (withMedia) => {
  const own = await Harness.start();
  const [elsewhere, here] = [own, lurn];
  try {
    const clip = await here.upload(film);
    const track = await here.place(clip.id);
    await here.follow(clip.id, track);
    const steady = { ...clip.steady, mode: 'smooth', smoothSeconds: 2.5 };
    await here.api().patch(`/api/clips/${clip.id}/steady`).send({ steady, label: 'Mode' }).expect(200);
    const { body } = await here
      .api()
      .get(`/api/projects/${here.project.id}/package${withMedia ? '?media=1' : ''}`)
      .buffer(true)
      .parse((response, done) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () => done(null, Buffer.concat(parts)));
      })
      .expect(200);
    const file = body as Buffer;
    lurn = elsewhere;
    const address = await begin(file.length, { filename: 'Crossing.lurn.zip', purpose: 'project' });
    const answer = await send(address, 0, file).expect(204);
    const project = (await lurn.api().get(`/api/projects/${answer.headers['x-lurn-project']}`))
      .body as ProjectView;
    expect(project.name).toBe('Crossing');
    const found = project.clips.find((c) => c.name === 'crossing.mp4' && c.frames === frames) as ClipCard;
    const all = await Promise.all(project.clips.map((c) => lurn.read(c.id)));
    const view = all.find((c) => c.steady.smoothSeconds === 2.5) as ClipView;
    expect(found).toBeDefined();
    expect(view).toMatchObject({ state: withMedia ? 'ready' : 'failed', frames, steady });
    const [there] = view.tracks;
    const before = samplesOf(await here.view(clip.id), track);
    expect(samplesOf(view, there.id)).toEqual(before);
    if (withMedia) return;
    expect(view.error).toMatch(/came without its file/);
    const data = await readFile(film);
    const place = { filename: 'x.mp4', purpose: 'original', clip: view.id };
    await send(await begin(data.length, place), 0, data).expect(204);
    expect(await lurn.read(view.id)).toMatchObject({ state: 'ready', frames, steady });
    expect(samplesOf(await lurn.view(view.id), there.id)).toEqual(before);
    for (const junk of [Buffer.from('PK\x03\x04 no zip at all'), Buffer.from('{}')]) {
      const bad = await begin(junk.length, { filename: 'x.zip', purpose: 'project' });
      await send(bad, 0, junk).expect(422);
    }
  } finally {
    lurn = here;
    await elsewhere.end();
  }
});

test('an edit that would write over what its window has not seen is refused with a choice', async () => {
  const clip = await lurn.upload(film);
  const track = await lurn.place(clip.id);
  const { revision: base } = await lurn.view(clip.id);
  const from =
    (window: string, seen: number | null) =>
    (call: Test): Test => {
      call.set('X-Lurn-Window', window);
      return seen === null ? call : call.set('X-Lurn-Base', `${seen}`);
    };
  const key = (frame: number) => lurn.api().put(`/api/tracks/${track}/keys/${frame}`);
  await from('a', base)(key(5)).send({ x: 151, y: 101 }).expect(200);
  // Another frame, and another thing: nothing is written over.
  await from('b', base)(key(6)).send({ x: 152, y: 101 }).expect(200);
  await from(
    'b',
    base,
  )(lurn.api().patch(`/api/tracks/${track}`))
    .send({ name: 'Rail' })
    .expect(200);
  const { body } = await from('b', base)(key(5)).send({ x: 160, y: 90 }).expect(409);
  expect(body).toMatchObject({ conflict: 'Place key', message: expect.stringMatching(/Another window/) });
  expect(samplesOf(await lurn.view(clip.id), track).x[5]).toBe(151);
  // Its own edits do not stand in a window's way; seen, or chosen, the other's do not either.
  await from('a', base)(key(5)).send({ x: 153, y: 101 }).expect(200);
  await from(
    'b',
    (await lurn.view(clip.id)).revision,
  )(key(5))
    .send({ x: 160, y: 90 })
    .expect(200);
  await from('a', null)(key(5)).send({ x: 154, y: 101 }).expect(200);
  await from('b', base)(lurn.api().post(`/api/clips/${clip.id}/undo`)).expect(409);
  await from(
    'a',
    (await lurn.view(clip.id)).revision,
  )(lurn.api().post(`/api/clips/${clip.id}/undo`)).expect(200);
  await from('b', base)(lurn.api().delete(`/api/tracks/${track}`)).expect(409);
});

test('an edit that is sent twice, because its answer was lost, is done once', async () => {
  const clip = await lurn.upload(film);
  const place = () =>
    lurn
      .api()
      .post(`/api/clips/${clip.id}/tracks`)
      .set('X-Lurn-Edit', 'edit-1')
      .send({ x: 150, y: 100, frame: 0 })
      .expect(201);
  const first = (await place()).body as ClipChange;
  await lurn.restart();
  // Others have gone on meanwhile: it is still told as the edit it was.
  const { steady } = await lurn.view(clip.id);
  const later = { ...steady, smoothSeconds: 2 };
  await lurn
    .api()
    .patch(`/api/clips/${clip.id}/steady`)
    .send({ steady: later, label: 'Smoothing' })
    .expect(200);
  const second = (await place()).body as ClipChange;
  expect(second.records).toEqual(first.records);
  expect(second.revision).toBe(first.revision);
  expect((await lurn.view(clip.id)).tracks).toHaveLength(1);
});

test('a full disk and a killed ffmpeg are said, with a way on that works', async () => {
  const clip = await lurn.upload(film);
  const partial = join(lurn.data, 'clips', clip.id, 'proxy.mp4.partial');
  await symlink('/dev/full', partial);
  await lurn.api().post(`/api/clips/${clip.id}/read`).send({}).expect(200);
  expect(await lurn.read(clip.id)).toMatchObject({
    state: 'failed',
    error: 'The disk is full. Free some space, then read the clip again.',
  });
  await lurn.api().post(`/api/clips/${clip.id}/read`).send({}).expect(200);
  expect(await lurn.read(clip.id)).toMatchObject({ state: 'ready', error: null, frames });

  const long = join(lurn.folder, 'long.mp4');
  await makeStripClip({ path: long, frames: 600 });
  const { body } = await lurn.api().post(`/api/projects/${lurn.project.id}/clips`).attach('file', long);
  const { id } = body as ClipCard;
  const pid = await until(() => Promise.resolve(ffmpegOn(id)));
  process.kill(pid, 'SIGKILL');
  const broken = await lurn.read(id);
  expect(broken).toMatchObject({ state: 'failed', error: expect.stringMatching(/broken off from outside/) });
  await lurn.api().post(`/api/jobs/${broken.jobs[0].id}/again`).expect(201);
  expect(await lurn.read(id)).toMatchObject({ state: 'ready', frames: 600 });

  const track = await lurn.place(id);
  const run = { trackIds: [track], direction: 'forwards', from: 0 };
  const started = (await lurn.api().post(`/api/clips/${id}/track-runs`).send(run)).body as JobView;
  const decoder = await until(() => Promise.resolve(ffmpegOn(id)));
  process.kill(decoder, 'SIGKILL');
  const failed = await lurn.job(started.id);
  expect(failed).toMatchObject({ state: 'failed', error: expect.stringMatching(/was ended by SIGKILL/) });
  const kept = samplesOf(await lurn.view(id), track).extent()?.last ?? 0;
  await lurn.api().post(`/api/jobs/${failed.id}/again`).expect(201);
  const [again] = (await lurn.view(id)).jobs;
  expect(await lurn.job(again.id)).toMatchObject({ state: 'done' });
  expect(samplesOf(await lurn.view(id), track).extent()?.last).toBe(599);
  expect(kept).toBeLessThan(599);
});

test('an export whose ffmpeg is killed, or whose original is gone, says so and is started again by one press', async () => {
  const long = join(lurn.folder, 'longer.mp4');
  await makeStripClip({ path: long, frames: 600 });
  const { id, steady } = await lurn.upload(long);
  const keys = [{ frame: 0, x: 3, y: 0, rotation: 0, zoom: 1, easing: 'linear' }];
  await lurn
    .api()
    .patch(`/api/clips/${id}/steady`)
    .send({ steady: { ...steady, keys }, label: 'By hand' })
    .expect(200);
  const start = async (): Promise<JobView> =>
    (await lurn.api().post(`/api/clips/${id}/exports`).send({ codec: 'vp9', container: 'webm' }).expect(201))
      .body as JobView;
  const { id: killed } = await start();
  process.kill(await until(() => Promise.resolve(ffmpegOn(id))), 'SIGKILL');
  expect(await lurn.job(killed)).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/SIGKILL|broken off/),
  });
  expect((await readdir(join(lurn.data, 'exports'))).filter((name) => name.startsWith(killed))).toEqual([]);

  const original = join(lurn.data, 'clips', id, 'original');
  await rename(original, `${original}.away`);
  const refused = await lurn.api().post(`/api/jobs/${killed}/again`).expect(409);
  expect((refused.body as { message: string }).message).toMatch(/original of "longer.mp4" is gone/);
  await rename(`${original}.away`, original);
  await lurn.api().post(`/api/jobs/${killed}/again`).expect(201);
  const [again] = (await lurn.view(id)).jobs;
  expect(await lurn.job(again.id)).toMatchObject({ kind: 'export', state: 'done' });
}, 30_000);

test('where the database has no room an edit is refused, and done when there is room again', async () => {
  const clip = await lurn.upload(film);
  const track = await lurn.place(clip.id);
  const { $client } = lurn.app.get<Database>(DATABASE);
  const pages = async (pragma: string): Promise<number> =>
    Number((await $client.execute(`PRAGMA ${pragma}`)).rows[0][0]);
  const room = await pages('max_page_count');
  await pages(`max_page_count = ${await pages('page_count')}`);
  const points = Array.from({ length: 50 }, (_, i) => ({ x: 20 + 5 * i, y: 60 }));
  let refused: string | null = null;
  for (let n = 0; n < 40 && refused === null; n++) {
    const { status, body } = await lurn
      .api()
      .post(`/api/clips/${clip.id}/tracks/many`)
      .send({ frame: 1, points });
    if (status === 507) refused = (body as { message: string }).message;
  }
  expect(refused).toBe('The disk is full. Free some space; this is tried again.');
  const [first, ...rest] = (await lurn.view(clip.id)).tracks;
  await pages(`max_page_count = ${room}`);
  await lurn.api().patch(`/api/tracks/${track}`).send({ name: 'Rail' }).expect(200);
  expect((await lurn.view(clip.id)).tracks).toEqual([{ ...first, name: 'Rail' }, ...rest]);
});

/** The ffmpeg that works on a clip's file. */
function ffmpegOn(clipId: string): number | null {
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      const line = readFileSync(`/proc/${pid}/cmdline`, 'latin1');
      if (line.startsWith('ffmpeg') && line.includes(clipId)) return Number(pid);
    } catch {
      // It has ended meanwhile.
    }
  }
  return null;
}

test('as many jobs run as cores are given; what waits can be called off', async () => {
  const long = join(lurn.folder, 'long.mp4');
  const most = (await lurn.api().get('/api/settings')).body.mostCores as number;
  await lurn.api().patch('/api/settings').send({ cores: 0 }).expect(422);
  expect((await lurn.api().patch('/api/settings').send({ cores: 1 }).expect(200)).body).toMatchObject({
    cores: 1,
  });
  const ids: string[] = [];
  for (let n = 0; n < 3; n++) {
    const { body } = await lurn.api().post(`/api/projects/${lurn.project.id}/clips`).attach('file', long);
    ids.push(body.id as string);
  }
  const states = async () => Promise.all(ids.map(async (id) => (await lurn.view(id)).jobs[0].state));
  expect(await states()).toEqual(['running', 'waiting', 'waiting']);
  // One that has begun is called off at once, and so is one that waits.
  const [first, second] = await Promise.all(ids.map((id) => lurn.view(id)));
  await lurn.api().delete(`/api/jobs/${first.jobs[0].id}`).expect(202);
  await lurn.api().delete(`/api/jobs/${second.jobs[0].id}`).expect(202);
  expect((await lurn.job(first.jobs[0].id)).state).toBe('cancelled');
  expect((await lurn.job(second.jobs[0].id)).state).toBe('cancelled');
  expect(await lurn.read(first.id)).toMatchObject({ state: 'failed' });
  expect(await lurn.read(second.id)).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/called off/),
  });
  await lurn.api().post(`/api/clips/${second.id}/read`).send({}).expect(200);
  await lurn.api().post(`/api/jobs/${first.jobs[0].id}/again`).expect(201);
  await lurn.restart();
  // The choice is kept, what was interrupted begins by itself.
  expect((await lurn.api().get('/api/settings')).body).toMatchObject({ cores: 1 });
  for (const id of ids) expect(await lurn.read(id)).toMatchObject({ state: 'ready', frames: 600 });
  await lurn.api().patch('/api/settings').send({ cores: most }).expect(200);
});

test('while a clip is read, what has been read of it can be looked at', async () => {
  const path = join(lurn.folder, 'early.mp4');
  await makeStripClip({ path, frames: 1200, width: 640, height: 360 });
  const { body } = await lurn.api().post(`/api/projects/${lurn.project.id}/clips`).attach('file', path);
  const { id } = body as ClipCard;
  const { frames: ready } = await until(async () => {
    const early = (await lurn.api().get(`/api/clips/${id}/early`).expect(200)).body as { frames: number };
    return early.frames > 10 && early;
  });
  expect((await lurn.view(id)).state).toBe('reading');
  const { headers } = await lurn
    .api()
    .get(`/api/clips/${id}/early/${ready - 1}`)
    .expect(200);
  expect(headers['content-type']).toBe('image/jpeg');
  await lurn.api().get(`/api/clips/${id}/early/1199`).expect(404);
  expect(await lurn.read(id)).toMatchObject({ frames: 1200 });
});
