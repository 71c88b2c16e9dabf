import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipChange, ClipView, TrackView } from '@lurn/contract';
import { Samples, SampleState, writeTracksJson, type NamedTrack } from '@lurn/core';
import { readTracksJson } from '@lurn/model';
import { makeStripClip } from '@lurn/media/testing';
import { join } from 'node:path';
import { Harness } from '../testing/harness.js';

const size = { width: 320, height: 180 };
const frames = 40;
let harness: Harness;
let clipId: string;
const api = () => harness.api();

beforeAll(async () => {
  harness = await Harness.start();
  const path = join(harness.folder, 'strip.mp4');
  await makeStripClip({ path, frames, ...size, sound: 1.6 });
  clipId = (await harness.upload(path)).id;
  await harness.read(clipId);
});
afterAll(() => harness.end());

const post = async (path: string, body: object, status = 200): Promise<ClipChange> =>
  (await api().post(`/api${path}`).send(body).expect(status)).body as ClipChange;
const view = (): Promise<ClipView> => harness.view(clipId);
const tracksNow = async (query = ''): Promise<NamedTrack[]> => {
  const { text } = await api().get(`/api/clips/${clipId}/tracks.json${query}`).buffer(true);
  return readTracksJson(text, { ...size, frames });
};

/** A track that goes two pixels right a frame over some frames, off by so much. */
function going(name: string, first: number, last: number, off = 0): NamedTrack {
  const samples = new Samples(frames);
  for (let k = first; k <= last; k++)
    samples.set(k, {
      x: 50 + 2 * k + off,
      y: 80 + off,
      rotation: 0,
      scale: 1,
      confidence: 0.9,
      state: SampleState.tracked,
    });
  return { name, samples };
}

async function takeIn(...tracks: NamedTrack[]): Promise<TrackView[]> {
  const clip = { name: 'strip', ...size, frames, frameRate: { numerator: 25, denominator: 1 } };
  const change = (
    await api()
      .post(`/api/clips/${clipId}/tracks/import`)
      .set('content-type', 'application/vnd.lurn.tracks+json')
      .send(writeTracksJson(clip, tracks))
      .expect(201)
  ).body as ClipChange;
  return change.records.filter(({ kind }) => kind === 'track').map((record) => record.view as TrackView);
}

test('tracks are taken in as one step of undo; the first place becomes a key to follow from', async () => {
  const [near, far] = await takeIn(going('near', 3, 20), going('far', 0, 39, 7));
  expect([near.name, far.name]).toEqual(['near', 'far']);
  const now = await tracksNow();
  expect(now.map(({ samples }) => samples.keys())).toEqual([[3], [0]]);
  expect((await view()).history.undo).toBe('Take tracks in');
  // Some of them, and some frames.
  const [part, ...rest] = await tracksNow(`?tracks=${far.id}&first=10&last=12`);
  expect([part.name, rest.length]).toEqual(['far', 0]);
  expect(Array.from({ length: frames }, (_, k) => k).filter((k) => part.samples.found(k))).toEqual([
    10, 11, 12,
  ]);
  await post(`/clips/${clipId}/undo`, {});
  expect((await view()).tracks).toEqual([]);
});

test('a table with our own columns is taken as it is; what is wrong is named by its line', async () => {
  const send = (text: string) =>
    api().post(`/api/clips/${clipId}/tracks/import`).set('content-type', 'text/csv').send(text);
  await send('track,frame,x,y\nring,0,10,20\nring,1,11,20\n').expect(201);
  expect((await tracksNow())[0].samples.get(1)).toMatchObject({ x: 11, y: 20 });
  const refused = (await send('frame,x,y\n0,10,20\n77,1,2\n').expect(422)).body as { message: string };
  expect(refused.message).toBe('Line 3: Frame 77 is outside the clip; its frames are 0 to 39.');
  await api().post(`/api/clips/${clipId}/tracks/import`).send({ tracks: [] }).expect(422);
  await post(`/clips/${clipId}/undo`, {});
});

test('two pieces of one feature are joined without a step, and come apart again by undo', async () => {
  const [one, other] = await takeIn(going('ring', 0, 15), going('ring', 12, 39, 1.5));
  expect([one.name, other.name]).toEqual(['ring', 'ring 2']);
  await post('/tracks/join', { trackIds: [one.id], into: one.id }, 422);
  await post('/tracks/join', { trackIds: [one.id, other.id], into: one.id });
  const [joined, ...rest] = await tracksNow();
  expect([joined.name, rest.length]).toEqual(['ring', 0]);
  for (let k = 0; k < frames; k++) expect(joined.samples.get(k)).toMatchObject({ x: 50 + 2 * k, y: 80 });
  await post(`/clips/${clipId}/undo`, {});
  const apart = await tracksNow();
  expect(apart.map(({ name, samples }) => [name, samples.found(20)])).toEqual([
    ['ring', false],
    ['ring 2', true],
  ]);
  expect(apart[1].samples.x[20]).toBe(91.5);
  await post(`/clips/${clipId}/undo`, {});
});

test('pieces that never met are brought onto the same spot by what they look like', async () => {
  const follow = async (trackIds: string[], direction: string, from: number): Promise<void> => {
    const job = (
      await api().post(`/api/clips/${clipId}/track-runs`).send({ trackIds, direction, from }).expect(201)
    ).body as { id: string };
    await harness.job(job.id);
  };
  const at = async (x: number, y: number, frame: number): Promise<string> => {
    const change = await post(`/clips/${clipId}/tracks`, { x, y, frame }, 201);
    return change.records.find(({ kind }) => kind === 'track')?.id ?? '';
  };
  // The picture stands still; the second box is placed two pixels aside of the first.
  const one = await at(160, 90, 0);
  await follow([one], 'forwards', 0);
  await post('/tracks/clear', { trackIds: [one], span: { first: 12, last: frames - 1 } });
  const other = await at(162, 89, 20);
  await follow([other], 'forwards', 20);
  await post('/tracks/join', { trackIds: [one, other], into: one });
  const [{ samples }] = await tracksNow();
  expect([samples.found(11), samples.found(15), samples.found(39)]).toEqual([true, false, true]);
  for (let k = 20; k < frames; k++) {
    expect(Math.abs(samples.x[k] - 160)).toBeLessThan(0.1);
    expect(Math.abs(samples.y[k] - 90)).toBeLessThan(0.1);
  }
  for (let i = 0; i < 6; i++) await post(`/clips/${clipId}/undo`, {});
  expect((await view()).tracks).toEqual([]);
});

test('a copy stands beside the track; motion is given from a key on; both can be undone', async () => {
  const [giver] = await takeIn(going('giver', 0, 39));
  const placed = await post(`/clips/${clipId}/tracks`, { x: 200, y: 100, frame: 10 }, 201);
  const taker = placed.records.find(({ kind, id }) => kind === 'track' && id !== giver.id)?.id as string;
  await post('/tracks/carry', { trackIds: [taker], from: giver.id });
  const [, given] = await tracksNow();
  expect(given.samples.get(15)).toMatchObject({ x: 210, y: 100, state: SampleState.bridged });
  expect(given.samples.keys()).toEqual([10]);
  await post('/tracks/carry', { trackIds: [taker], from: taker }, 422);
  await post('/tracks/duplicate', { trackIds: [taker] }, 201);
  const copied = await tracksNow();
  expect(copied).toHaveLength(3);
  expect(copied[2].samples.x).toEqual(given.samples.x);
  for (let i = 0; i < 4; i++) await post(`/clips/${clipId}/undo`, {});
  expect((await view()).tracks).toEqual([]);
});

test('a key moves along the lane, a path is smoothed between its keys', async () => {
  const shaky = going('shaky', 0, 39);
  for (let k = 1; k < frames; k++) shaky.samples.x[k] += k % 2 ? 0.8 : -0.8;
  const [track] = await takeIn(shaky);
  await post('/tracks/smooth', { trackIds: [track.id], smooth: { first: 0, last: 39, sigma: 2 } });
  const [smooth] = await tracksNow();
  for (let k = 8; k < 32; k++) expect(Math.abs(smooth.samples.x[k] - (50 + 2 * k))).toBeLessThan(0.3);
  expect(smooth.samples.x[0]).toBe(50);
  await post(`/tracks/${track.id}/keys/0/move`, { to: 5 });
  const [moved] = await tracksNow();
  expect([moved.samples.keys(), moved.samples.x[5]]).toEqual([[5], 50]);
  await post(`/tracks/${track.id}/keys/9/move`, { to: 12 }, 409);
  await post(`/tracks/${track.id}/keys/5/move`, { to: 400 }, 422);
  for (let i = 0; i < 3; i++) await post(`/clips/${clipId}/undo`, {});
});

test('what was looked at and found right is kept with the track', async () => {
  const [track] = await takeIn(going('ring', 0, 39));
  const accepted = [{ first: 3, last: 9, mark: 123456 }];
  await api()
    .patch('/api/tracks')
    .send({ trackIds: [track.id], patch: { accepted } })
    .expect(200);
  expect((await view()).tracks[0].accepted).toEqual(accepted);
  await post(`/clips/${clipId}/undo`, {});
  expect((await view()).tracks[0].accepted).toEqual([]);
  await post(`/clips/${clipId}/undo`, {});
});

test('only a span is followed anew; what lies beside it stays', async () => {
  const placed = await post(`/clips/${clipId}/tracks`, { x: 60, y: 60, frame: 0 }, 201);
  const { id } = placed.records.find(({ kind }) => kind === 'track') ?? { id: '' };
  const follow = async (body: object): Promise<void> => {
    const job = (await api().post(`/api/clips/${clipId}/track-runs`).send(body).expect(201)).body as {
      id: string;
    };
    await harness.job(job.id);
  };
  await follow({ trackIds: [id], direction: 'forwards', from: 0 });
  const [before] = await tracksNow();
  await post('/tracks/clear', { trackIds: [id], span: { first: 10, last: 14 } });
  await follow({ trackIds: [id], direction: 'both', from: 10, span: { first: 10, last: 14 } });
  const [after] = await tracksNow();
  expect(after.samples.keys()).toEqual([0]);
  for (let k = 0; k < frames; k++) {
    if (k < 10 || k > 14) expect(after.samples.x[k]).toBe(before.samples.x[k]);
    else expect(Math.abs(after.samples.x[k] - before.samples.x[k])).toBeLessThan(0.1);
  }
  const refused = await api()
    .post(`/api/clips/${clipId}/track-runs`)
    .send({ trackIds: [id], direction: 'both', from: 0, span: { first: 0, last: frames - 1 } })
    .expect(422);
  expect((refused.body as { message: string }).message).toMatch(/has no place beside frames 0 to 39/);
});

test('a frame comes as PNG, the sound as AAC', async () => {
  const png = await api().get(`/api/clips/${clipId}/frames/7/still.png`).buffer(true).expect(200);
  expect(png.headers['content-type']).toBe('image/png');
  expect((png.body as Buffer).subarray(1, 4).toString()).toBe('PNG');
  await api().get(`/api/clips/${clipId}/frames/40/still.png`).expect(404);
  const sound = await api().get(`/api/clips/${clipId}/sound`).expect(200);
  expect(sound.headers['content-type']).toBe('audio/mp4');
  expect(Number(sound.headers['content-length'])).toBeGreaterThan(1000);
});
