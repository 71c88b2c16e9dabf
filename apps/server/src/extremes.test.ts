import 'reflect-metadata';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { ClipChange, ClipView } from '@lurn/contract';
import { contentKinds } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { contentRecords, fieldsOf, LayerRecord, type Field, type Kind } from '@lurn/model';
import fc from 'fast-check';
import { Harness } from './testing/harness.js';

jest.setTimeout(240_000);

let lurn: Harness;
let clip: ClipView;
/** Milliseconds that health took at the most, all the while. */
let slowest = 0;
let watching = true;
let watch: Promise<void>;

beforeAll(async () => {
  lurn = await Harness.start();
  const film = join(lurn.folder, 'clip.mp4');
  await makeStripClip({ path: film, frames: 10 });
  clip = await lurn.upload(film);
  watch = (async () => {
    while (watching) {
      const asked = performance.now();
      await lurn.api().get('/api/health').expect(200);
      slowest = Math.max(slowest, performance.now() - asked);
      await pause(50);
    }
  })();
});
afterAll(async () => {
  watching = false;
  await watch;
  await lurn.end();
});

interface Answer {
  status: number;
  body: { message?: string | string[] };
}

/** Asks within ten seconds, and never for an error of the server. */
async function ask(method: 'get' | 'post' | 'put' | 'patch', path: string, body?: object): Promise<Answer> {
  const began = performance.now();
  const request = lurn.api()[method](path);
  const { status, body: answer } = await (body ? request.send(body) : request);
  const took = performance.now() - began;
  expect([method, path, status < 500, took < 10_000, status >= 500 ? answer : null]).toEqual([
    ...[method, path, true, true, null],
  ]);
  return { status, body: answer as Answer['body'] };
}

/** Everything that is made of what was stored. */
async function askForAll(): Promise<void> {
  const { layers } = await lurn.view(clip.id);
  const of = `/api/clips/${clip.id}`;
  await ask('get', `${of}/motion.json`);
  await ask('get', `${of}/motion.csv`);
  await ask('get', `${of}/frames/3/still.png?steadied=true`);
  for (const layer of layers) {
    await ask('get', `${of}/frames/3/around/${layer.id}`);
    await ask('post', `${of}/frames/3/patch`, { layer });
  }
  await ask('post', `${of}/exports`, {});
}

const spline = {
  knots: [
    { x: 20, y: 20 },
    { x: 120, y: 20 },
    { x: 120, y: 90 },
  ],
};
const cover = { name: 'Number', content: { kind: 'cover' }, shape: { parts: [{ spline }] } };
const zeros = (length: number): number[] => Array.from({ length }, () => 0);

test.each([
  [
    'a knot beyond all bounds',
    { shape: { parts: [{ spline: { knots: [...spline.knots, { x: 1e308, y: 0 }] } }] } },
  ],
  ['150,000 knots', { shape: { parts: [{ spline: { knots: zeros(150_000).map((x) => ({ x, y: 0 })) } }] } }],
  ['a name of 5 MB', { name: 'x'.repeat(5_000_000) }],
  ['a curve that is none', { content: { kind: 'colour', curve: null } }],
  ['a curve that is a number', { content: { kind: 'colour', curve: 5 } }],
  ['a curve of 200,000 numbers', { content: { kind: 'colour', curve: zeros(200_000) } }],
  ['a quad that is none', { content: { kind: 'picture', asset: 'a', quad: null } }],
  ['a carrier that is a word', { carrier: 'scene' }],
  ['a matte that is a word', { matte: 'other' }],
  ['no strength', { content: { kind: 'cover', strength: 0 } }],
  ['a negative strength', { content: { kind: 'cover', strength: -3 } }],
  ['a blur of a million pixels', { content: { kind: 'cover', how: 'blur', strength: 1e6 } }],
  ['a quad whose corners lie in a line', { content: { kind: 'picture', asset: 'a', quad: zeros(8) } }],
])('a layer with %s is refused in a sentence', async (_, part) => {
  const { status, body } = await ask('post', `/api/clips/${clip.id}/layers`, {
    layer: { ...cover, ...part },
  });
  expect(status).toBe(422);
  expect(String(body.message)).toMatch(/content|shape|name|carrier|matte|corners/);
  expect(String(body.message)).not.toMatch(/typed array|undefined|iterable/);
  expect((await lurn.view(clip.id)).layers).toEqual([]);
});

/** The value of a field at one end of what it may be, or in between. */
function valueOf({ schema, kinds, kindOf, nullable }: Field): fc.Arbitrary<unknown> {
  const { type, minimum = 0, maximum = 1, minLength = 0, maxLength = 40 } = schema;
  if (nullable) return fc.constant(null);
  if (schema.enum) return fc.constantFrom(...schema.enum);
  if (type === 'boolean') return fc.boolean();
  if (type === 'integer') return fc.constantFrom(Math.max(minimum, 0), Math.min(maximum, 9));
  if (type === 'number') return fc.constantFrom(minimum, maximum, (minimum + maximum) / 2);
  if (type === 'string')
    return fc.string({ minLength: Math.max(minLength, 1), maxLength: Math.min(maxLength, 40) });
  const [kind] = kinds?.() ?? [];
  const { minItems = 0, maxItems = 3, items } = schema;
  if (type === 'array' && items) {
    const item = fc.constantFrom(items.minimum ?? 0, items.maximum ?? 1, 0);
    const most = Math.min(maxItems, Math.max(minItems, 6));
    return fc.array(item, { minLength: minItems, maxLength: most });
  }
  if (!kind || !kindOf) return fc.constant([]);
  return type === 'array'
    ? fc.array(recordOf(kind), { minLength: minItems, maxLength: Math.min(maxItems, Math.max(minItems, 2)) })
    : recordOf(kind);
}

const recordOf = (kind: Kind, without: readonly string[] = []): fc.Arbitrary<Record<string, unknown>> =>
  fc.record(
    Object.fromEntries(
      [...fieldsOf(kind)].flatMap(([name, field]) =>
        field.reference || without.includes(name) ? [] : [[name, valueOf(field)]],
      ),
    ),
  );

const placeless = ['id', 'clipId', 'content', 'first', 'last', 'frame', 'position', 'locked', 'carrier'];

test.each(contentKinds)('a %s at the ends of what it may be is drawn or refused, in time', async (kind) => {
  const layer = fc.tuple(recordOf(LayerRecord as Kind, placeless), recordOf(contentRecords[kind] as Kind));
  await fc.assert(
    fc.asyncProperty(layer, async ([part, content]) => {
      const sent = { ...part, hidden: false, content: { ...content, kind }, first: 0, last: 9 };
      const { status } = await ask('post', `/api/clips/${clip.id}/layers`, { layer: sent });
      if (status !== 201) return;
      await askForAll();
      await lurn.api().post(`/api/clips/${clip.id}/undo`).expect(200);
    }),
    { numRuns: 4, seed: 5, endOnFailure: true },
  );
});

test('a motion that collapses is a sentence with its frame and tracks, and the rest of the clip goes on', async () => {
  const of = `/api/clips/${clip.id}`;
  const points = [
    { x: 60, y: 60 },
    { x: 160, y: 90 },
  ];
  const { body } = await lurn.api().post(`${of}/tracks/many`).send({ frame: 0, points }).expect(201);
  const ids = (body as ClipChange).records.flatMap(({ kind, id }) => (kind === 'track' ? [id] : []));
  for (const id of ids) await lurn.api().put(`/api/tracks/${id}/keys/4`).send({ x: 100, y: 80 }).expect(200);
  for (const path of ['motion.json', 'motion.csv', 'frames/3/still.png?steadied=true']) {
    const { status, body: answer } = await ask('get', `${of}/${path}`);
    const names = '"Point 1", "Point 2"';
    expect([path, status, String(answer.message)]).toEqual([
      path,
      422,
      expect.stringContaining(`On frame 4 what ${names}`),
    ]);
  }
  expect((await ask('post', `${of}/exports`, {})).status).toBe(422);
  // What rides on them stays where it was, and is drawn all the same; so do all other parts.
  const carrier = { kind: 'tracks', trackIds: ids, model: 'similarity' };
  expect((await ask('post', `${of}/layers`, { layer: { ...cover, carrier } })).status).toBe(201);
  await ask('get', `${of}/tracks.json`);
  const [layer] = (await lurn.view(clip.id)).layers;
  expect((await ask('get', `${of}/frames/4/around/${layer.id}`)).status).toBe(200);
  await lurn.api().put(`/api/tracks/${ids[0]}/keys/4`).send({ x: 60, y: 60 }).expect(200);
  expect((await ask('get', `${of}/motion.json`)).status).toBe(200);
  expect((await ask('get', `${of}/frames/3/still.png?steadied=true`)).status).toBe(200);
});

test('a span that ends before it begins is refused', async () => {
  const id = await lurn.place(clip.id);
  const smooth = { first: 9, last: 0, sigma: 2 };
  const { status, body } = await ask('post', '/api/tracks/smooth', { trackIds: [id], smooth });
  expect([status, body.message]).toEqual([422, 'Frames 9 to 0 are no span: the first is after the last.']);
});

// A second on a quiet machine; where other tests run beside it, three still tell a server that hangs.
test('health answered all the while', () => {
  expect(slowest).toBeLessThan(3000);
});
