import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipChange, LeftOutView, ProjectView, TrackView } from '@lurn/contract';
import { unpackPatch, type RoundTrip } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { PackageService } from '../projects/package.service.js';
import { Harness } from '../testing/harness.js';

const size = { width: 320, height: 180 };
const frames = 12;
let harness: Harness;
let clipId: string;
let board: TrackView;
let pole: TrackView;
const api = () => harness.api();

const knots = (left: number, top: number, right: number, bottom: number) =>
  [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ].map(([x, y]) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 }));

async function draw(name: string, ...box: [number, number, number, number]): Promise<TrackView> {
  const body = { frame: 0, name, splines: [{ knots: knots(...box) }] };
  const change = (await api().post(`/api/clips/${clipId}/regions`).send(body).expect(201)).body as ClipChange;
  return change.records.find(({ kind }) => kind === 'track')?.view as TrackView;
}

beforeAll(async () => {
  harness = await Harness.start();
  const path = join(harness.folder, 'strip.mkv');
  // What is painted goes two pixels to the right a frame; the last frames are covered.
  await makeStripClip({
    ...{ path, frames, ...size, encode: ['-c:v', 'ffv1'] },
    position: (k) => ({ x: 2 * k, y: 0 }),
    covered: (k) => k >= 10,
  });
  clipId = (await harness.upload(path)).id;
  await harness.read(clipId);
  board = await draw('Board', 60, 50, 220, 150);
  pole = await draw('Pole', 80, 60, 130, 120);
  const holdOuts = [{ frame: 0, spline: { knots: knots(90, 70, 120, 110) }, trackId: pole.id }];
  await api()
    .patch('/api/tracks')
    .send({ trackIds: [board.id], patch: { region: { holdOuts } } })
    .expect(200);
  const run = { trackIds: [pole.id, board.id], direction: 'forwards', from: 0 };
  const { body } = await api().post(`/api/clips/${clipId}/track-runs`).send(run).expect(201);
  await harness.job((body as { id: string }).id);
});
afterAll(() => harness.end());

test('what of a region is left out is told where it has a place, and only of a region', async () => {
  const { body } = await api().get(`/api/tracks/${board.id}/frames/6/left-out`).expect(200);
  const { share, quads } = body as LeftOutView;
  // What is held out was not looked at: about a fourteenth of it.
  expect(share).toBeLessThan(0.3);
  for (const quad of quads) expect(quad).toHaveLength(8);
  expect((await api().get(`/api/tracks/${board.id}/frames/11/left-out`).expect(200)).body).toEqual({});
  const point = (
    await api().post(`/api/clips/${clipId}/tracks`).send({ x: 150, y: 90, frame: 0 }).expect(201)
  ).body as ClipChange;
  const refused = await api().get(`/api/tracks/${point.records[0].id}/frames/6/left-out`).expect(422);
  expect((refused.body as { message: string }).message).toContain('is no region');
});

test('what carries a hold-out goes by its name in a file, and is what is taken in with it', async () => {
  const { text } = await api()
    .get(`/api/clips/${clipId}/tracks.json?tracks=${board.id},${pole.id}`)
    .buffer(true);
  const file = JSON.parse(text) as {
    tracks: { name: string; region: { holdOuts: { trackId?: string }[] } }[];
  };
  expect(file.tracks.find(({ name }) => name === 'Board')?.region.holdOuts[0].trackId).toBe('Pole');
  const take = async (what: object): Promise<TrackView[]> => {
    const { body } = await api()
      .post(`/api/clips/${clipId}/tracks/import`)
      .set('content-type', 'application/vnd.lurn.tracks+json')
      .send(JSON.stringify(what))
      .expect(201);
    return (body as ClipChange).records.flatMap(({ kind, view }) =>
      kind === 'track' ? [view as TrackView] : [],
    );
  };
  const taken = await take(file);
  const [again, other] = ['Board', 'Pole'].map((name) => taken.find((track) => track.name.startsWith(name)));
  expect(again?.region?.holdOuts[0].trackId).toBe(other?.id);
  // Without what carries it, it stays where it was drawn.
  const [alone] = await take({ ...file, tracks: file.tracks.filter(({ name }) => name === 'Board') });
  expect(alone.region?.holdOuts).toEqual([expect.not.objectContaining({ trackId: expect.anything() })]);
});

const repair = (strokes: object[]) => ({
  layer: {
    ...{ name: 'Mark', frame: 0, content: { kind: 'repair', strokes } },
    carrier: { kind: 'tracks', trackIds: [board.id], model: 'perspective' },
  },
});

test('a repair that is not stored yet is painted as it is sent, and its way there and back measured', async () => {
  const white = { how: 'colour', points: [140, 100, 1], width: 20, soft: 0, colour: [1, 1, 1] };
  const patch = (frame: number, body: object) =>
    api()
      .post(`/api/clips/${clipId}/frames/${frame}/patch`)
      .send(body)
      .buffer(true)
      .parse((response, done) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () => done(null, Buffer.concat(parts)));
      });
  const { body } = await patch(3, repair([white])).expect(200);
  const bytes = body as Buffer;
  const { width, height, rgba } = unpackPatch(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer,
  );
  // A disc of 20 pixels, and a rim about it.
  expect([width, height]).toEqual([46, 46]);
  const painted = rgba.filter((_, i) => i % 4 === 3).reduce((sum, a) => sum + a / 255, 0);
  expect(painted).toBeCloseTo(Math.PI * 10 ** 2, -1);
  const middle = 4 * (23 * width + 23);
  expect([...rgba.subarray(middle, middle + 4)]).toEqual([255, 255, 255, 255]);
  const trip = async (frame: number): Promise<RoundTrip> =>
    (
      await api()
        .post(`/api/clips/${clipId}/frames/${frame}/round-trip`)
        .send(repair([white]))
        .expect(200)
    ).body as RoundTrip;
  expect((await trip(0)).rms).toBe(0);
  // Two whole pixels a frame: but for what following is off by, nothing is lost.
  expect((await trip(5)).rms).toBeLessThan(3);
  await patch(3, repair([])).expect(404);
  await patch(77, repair([white])).expect(404);
  await patch(3, repair([{ ...white, how: 'smear' }])).expect(422);
  await patch(3, { layer: { name: 'Number', content: { kind: 'text' } } }).expect(422);
});

test('what carries a hold-out, and the clip that a layer shows, are the copy’s own in a duplicate and in what is read of a file', async () => {
  const { body: movie } = await api()
    .post(`/api/clips/${clipId}/layers`)
    .send({
      layer: { name: 'Film', content: { kind: 'clip', clip: clipId, quad: [0, 0, 90, 0, 90, 60, 0, 60] } },
    })
    .expect(201);
  const { body: copy } = await api().post(`/api/projects/${harness.project.id}/copies`).expect(201);
  const read = await harness.app.get(PackageService).read(await harness.packed());
  for (const project of [copy as ProjectView, read]) {
    const own = await harness.view(project.clips[0].id);
    const [itsBoard, itsPole] = ['Board', 'Pole'].map((name) => own.tracks.find((one) => one.name === name));
    expect(itsPole?.id).not.toBe(pole.id);
    expect(itsBoard?.region?.holdOuts.map(({ trackId }) => trackId)).toEqual([itsPole?.id]);
    const layers = own.layers as unknown as { content: { clip: string } }[];
    expect(layers.map(({ content }) => content.clip)).toEqual([own.id]);
  }
  await api()
    .post(`/api/clips/${(copy as ProjectView).clips[0].id}/exports`)
    .send({})
    .expect(201);
  await api()
    .delete(`/api/layers/${(movie as ClipChange).records[0].id}`)
    .expect(200);
});

test('steadied like another, a region keeps what holds parts of it out', async () => {
  const path = join(harness.folder, 'other.mkv');
  await makeStripClip({
    path,
    frames,
    ...size,
    encode: ['-c:v', 'ffv1'],
    position: (k) => ({ x: 2 * k, y: 0 }),
  });
  const other = (await harness.upload(path)).id;
  await harness.read(other);
  // What carries it need not have a say itself.
  await api()
    .patch('/api/tracks')
    .send({ trackIds: [pole.id], patch: { used: false } })
    .expect(200);
  const { body } = await api()
    .post(`/api/clips/${clipId}/like`)
    .send({ clipIds: [other] })
    .expect(201);
  await harness.job((body as { jobs: { id: string }[] }).jobs[0].id);
  const { tracks } = await harness.view(other);
  const [itsPole, itsBoard] = ['Pole', 'Board'].map((name) => tracks.find((one) => one.name === name));
  expect([itsPole?.used, itsBoard?.used]).toEqual([false, true]);
  expect(itsBoard?.region?.holdOuts.map(({ trackId }) => trackId)).toEqual([itsPole?.id]);
});

test('what rode on a deleted track names it no more; undone, it does again', async () => {
  await api().delete(`/api/tracks/${pole.id}`).expect(200);
  const holdOuts = async () =>
    (await harness.view(clipId)).tracks.find(({ id }) => id === board.id)?.region?.holdOuts ?? [];
  expect((await holdOuts()).map(({ trackId }) => trackId)).toEqual([undefined]);
  await api().post(`/api/clips/${clipId}/undo`).expect(200);
  expect((await holdOuts()).map(({ trackId }) => trackId)).toEqual([pole.id]);
});
