import { createRequire } from 'node:module';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { AssetView, ClipChange, ClipView, JobView, ProjectView } from '@lurn/contract';
import type { Match } from '@lurn/core';
import { indexClip, openClip, readFrames, runTool } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { Harness } from '../testing/harness.js';
import type { LayerRecord } from './layer-record.js';

let harness: Harness;
let clip: ClipView;
const api = () => harness.api();

beforeAll(async () => {
  harness = await Harness.start();
  const path = join(harness.folder, 'strip.mkv');
  await makeStripClip({ path, frames: 12, width: 192, height: 112 });
  clip = await harness.upload(path);
});
afterAll(() => harness.end());

const box = (left: number, top: number, right: number, bottom: number) => ({
  parts: [
    {
      spline: {
        knots: [
          { x: left, y: top },
          { x: right, y: top },
          { x: right, y: bottom },
          { x: left, y: bottom },
        ],
      },
    },
  ],
});
const cover = {
  name: 'Number',
  content: { kind: 'cover', how: 'plain', colour: [1, 1, 1] },
  shape: box(60, 40, 100, 80),
  first: 2,
};

async function add(layer: object): Promise<LayerRecord> {
  const change = (await api().post(`/api/clips/${clip.id}/layers`).send({ layer }).expect(201))
    .body as ClipChange;
  return change.records[0].view as LayerRecord;
}
const layers = async (): Promise<LayerRecord[]> => (await harness.view(clip.id)).layers as LayerRecord[];

test('layers lie in a list, are changed, moved, copied, locked and deleted; each is undone', async () => {
  const below = await add(cover);
  const above = await add({ ...cover, name: 'Above' });
  expect((await layers()).map(({ name }) => name)).toEqual(['Above', 'Number']);
  await api().post(`/api/layers/${above.id}/move`).send({ to: 1 }).expect(201);
  expect((await layers()).map(({ name }) => name)).toEqual(['Number', 'Above']);
  await api()
    .put(`/api/layers/${below.id}`)
    .send({ layer: { ...below, opacity: 0.5, locked: true } })
    .expect(200);
  const refused = await api()
    .put(`/api/layers/${below.id}`)
    .send({ layer: { ...below, locked: undefined } })
    .expect(422);
  expect((refused.body as { message: string }).message).toBe('"Number" is locked; unlock it first.');
  await api().delete(`/api/layers/${below.id}`).expect(422);
  await api().post(`/api/layers/${below.id}/copies`).send({ clipId: clip.id }).expect(201);
  expect((await layers()).map(({ name }) => name)).toEqual(['Number, copy', 'Number', 'Above']);
  const wrong = await api()
    .post(`/api/clips/${clip.id}/layers`)
    .send({ layer: { ...cover, last: 99 } })
    .expect(422);
  expect((wrong.body as { message: string }).message).toContain('Layer "Number": frames 2 to 99');
  for (let i = 0; i < 5; i++) await api().post(`/api/clips/${clip.id}/undo`).expect(200);
  expect(await layers()).toEqual([]);
});

async function exported(request: object = {}): Promise<Uint8Array[]> {
  const { id } = (
    await api()
      .post(`/api/clips/${clip.id}/exports`)
      .send({ codec: 'ffv1', container: 'mkv', ...request })
      .expect(201)
  ).body as JobView;
  expect(await harness.job(id)).toMatchObject({ state: 'done' });
  const movie = await openClip(join(harness.data, 'exports', `${id}.mp4`));
  expect((await indexClip(movie)).pts).toHaveLength(12);
  const pictures: Uint8Array[] = [];
  let slot = new Uint8Array(192 * 112);
  for await (const { data } of readFrames(movie, { first: 0, planes: 'luma', slot: () => slot })) {
    pictures.push(data.slice());
    slot = new Uint8Array(192 * 112);
  }
  return pictures;
}

test('an export shows them, on their frames and within their outline, and is the source elsewhere', async () => {
  const { id } = await add(cover);
  const covered = await exported();
  await api()
    .put(`/api/layers/${id}`)
    .send({ layer: { ...cover, shape: box(180, 100, 184, 104), first: 11 } })
    .expect(200);
  const plain = await exported();
  // Before and after in one movie: by a wipe, that begins with the second picture.
  await api().put(`/api/layers/${id}`).send({ layer: cover }).expect(200);
  const compared = await exported({ comparison: { layout: 'wipe', words: false } });
  expect(compared[3].subarray(60 * 192 + 64, 60 * 192 + 96).every((level) => level === 235)).toBe(true);
  for (let k = 0; k < 11; k++)
    for (let y = 0; y < 112; y++)
      for (let x = 0; x < 192; x++) {
        const isCovered = k >= 2 && x >= 60 && x < 100 && y >= 40 && y < 80;
        const at = y * 192 + x;
        if (covered[k][at] !== (isCovered ? 235 : plain[k][at])) throw new Error(`Frame ${k}, ${x}, ${y}`);
      }
  await api().delete(`/api/layers/${id}`).expect(200);
});

test('a picture is brought in, shown, carried into a copy of the project; what is none is refused', async () => {
  const path = join(harness.folder, 'sign.png');
  await runTool('ffmpeg', [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    'color=white:s=40x20',
    '-frames:v',
    '1',
    '-y',
    path,
  ]);
  const asset = (await api().post('/api/assets').attach('file', path).expect(201)).body as AssetView;
  expect(asset).toMatchObject({ name: 'sign.png', width: 40, height: 20 });
  await api().get(`/api/assets/${asset.id}`).expect(200);
  await api().get('/api/assets/..%2f..%2fetc%2fpasswd').expect(404);
  await api().get('/api/assets/4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10').expect(404);
  const text = join(harness.folder, 'sign.txt');
  await writeFile(text, 'no picture');
  const refused = await api().post('/api/assets').attach('file', text).expect(422);
  expect((refused.body as { message: string }).message).toBe(
    '"sign.txt" is no picture that can be read: PNG, JPEG, WebP or TIFF.',
  );
  const track = await harness.place(clip.id, 96, 56);
  const quad = [60, 40, 100, 40, 100, 60, 60, 60];
  await add({
    name: 'Sign',
    content: { kind: 'picture', asset: asset.id, quad },
    carrier: { kind: 'tracks', trackIds: [track], model: 'shift' },
  });
  const [shown] = await exported();
  expect([shown[50 * 192 + 80], shown[50 * 192 + 57] === 235]).toEqual([235, false]);
  const copy = (await api().post(`/api/projects/${harness.project.id}/copies`).expect(201))
    .body as ProjectView;
  const second = await harness.view(copy.clips[0].id);
  const [layer] = second.layers as LayerRecord[];
  // It rides on the copy's own track.
  expect(layer.carrier.trackIds).toEqual([second.tracks[0].id]);
  expect(second.tracks[0].id).not.toBe(track);
});

test('layers are seen alone, and by what they cover; what is about one is measured', async () => {
  for (const { id } of await layers()) await api().delete(`/api/layers/${id}`).expect(200);
  await refusedExport({ only: 'matte' }, 'There is no layer to be seen alone');
  const { id } = await add({ ...cover, first: 0, last: 11 });
  await refusedExport({ only: 'layers', codec: 'h264', container: 'mp4' }, 'has no transparency');
  const matte = await exported({ only: 'matte' });
  for (const picture of matte) {
    expect([picture[60 * 192 + 80], picture[10 * 192 + 10]]).toEqual([235, 16]);
    expect(new Set(picture).size).toBeLessThan(10);
  }
  const around = (await api().get(`/api/clips/${clip.id}/frames/3/around/${id}`).expect(200)).body as Match;
  expect(around.white - around.black).toBeGreaterThan(0.1);
  const beyond = await api().get(`/api/clips/${clip.id}/frames/99/around/${id}`).expect(422);
  expect((beyond.body as { message: string }).message).toBe('There is no frame 99 in this clip.');
});

test('a layer shows another clip of the project, or a still of its own; one that is gone is said', async () => {
  for (const { id } of await layers()) await api().delete(`/api/layers/${id}`).expect(200);
  const content = { kind: 'clip', clip: '', from: 4, play: 'still', quad: [0, 0, 192, 0, 192, 112, 0, 112] };
  const { id } = await add({ name: 'Film', content });
  const pictures = await exported();
  // One frame throughout.
  for (const picture of pictures) expect(picture).toEqual(pictures[0]);
  const gone = { name: 'Film', content: { ...content, clip: '4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10' } };
  await api().put(`/api/layers/${id}`).send({ layer: gone }).expect(200);
  await refusedExport({}, 'Layer "Film" shows a clip');
  await api().delete(`/api/layers/${id}`).expect(200);
});

test('a font comes in like a picture; what only says that it is one is refused', async () => {
  const file = createRequire(import.meta.url).resolve(
    '@fontsource-variable/inter/files/inter-latin-wght-normal.woff2',
  );
  const font = (await api().post('/api/assets').attach('file', file).expect(201)).body as AssetView;
  expect(font.kind).toBe('font');
  const text = { kind: 'text', text: 'Withy', font: font.id };
  await api()
    .get('/api/text-pictures')
    .query({ of: JSON.stringify(text) })
    .expect(200);
  const lost = { ...text, font: '4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10' };
  await api()
    .get('/api/text-pictures')
    .query({ of: JSON.stringify(lost) })
    .expect(422);
  const broken = join(harness.data, 'broken.ttf');
  await writeFile(broken, Buffer.concat([Buffer.from([0, 1, 0, 0]), Buffer.alloc(60)]));
  const refused = await api().post('/api/assets').attach('file', broken).expect(422);
  expect((refused.body as { message: string }).message).toContain('"broken.ttf" is no font');
});

async function refusedExport(request: object, message: string): Promise<void> {
  const { body } = await api()
    .post(`/api/clips/${clip.id}/exports`)
    .send({ codec: 'ffv1', container: 'mkv', ...request })
    .expect(422);
  expect((body as { message: string }).message).toContain(message);
}
