import 'reflect-metadata';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { INestApplication } from '@nestjs/common';
import type { ClipChange, ClipView, ProjectView, SteadyView } from '@lurn/contract';
import { makeStripClip } from '@lurn/media/testing';
import fc from 'fast-check';
import request from 'supertest';
import { createServer } from './server.js';

jest.setTimeout(240_000);

interface Schema {
  $ref?: string;
  type?: string;
  enum?: unknown[];
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: string[];
  allOf?: Schema[];
  oneOf?: Schema[];
  minimum?: number;
  maximum?: number;
}
interface Operation {
  parameters?: { name: string; in: string }[];
  requestBody?: { content: Record<string, { schema: Schema }> };
}
interface Description {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, Schema> };
}

let folder: string;
let app: INestApplication;
const api = () => request(app.getHttpServer());

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-fuzz-'));
  await makeStripClip({ path: join(folder, 'clip.mp4'), frames: 10 });
  app = await createServer({
    data: join(folder, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    media: [],
    exports: null,
    web: folder,
  });
  await app.init();
});
afterAll(async () => {
  await app.close();
  await rm(folder, { recursive: true, force: true });
});

/** A project with a clip and a track in it, as addresses name them. */
async function something(): Promise<Record<string, string>> {
  const project = (await api().post('/api/projects').send({ name: 'Fuzz' })).body as ProjectView;
  const { body } = await api()
    .post(`/api/projects/${project.id}/clips`)
    .attach('file', join(folder, 'clip.mp4'));
  for (;;) {
    const clip = (await api().get(`/api/clips/${body.id as string}`)).body as ClipView;
    if (clip.state === 'ready') {
      const change = (await api().post(`/api/clips/${clip.id}/tracks`).send({ x: 150, y: 90, frame: 0 }))
        .body as ClipChange;
      return { projects: project.id, clips: clip.id, tracks: change.records[0].id };
    }
    await new Promise((resolve) => setTimeout(resolve, 40));
  }
}

const odd = fc.oneof(
  fc.jsonValue({ maxDepth: 2 }),
  fc.constantFrom(-1, 0, 1e308, -1e308, 2 ** 53, 0.5, '', '../../etc/passwd', '%00', null, [], {}, true),
  fc.string({ maxLength: 400 }),
);

/** Something of a schema's shape, now and then with something else in its place, left out or put beside it. */
function like(schema: Schema | undefined, all: Description['components']['schemas']): fc.Arbitrary<unknown> {
  if (!schema) return odd;
  if (schema.$ref) return like(all[schema.$ref.split('/').pop() as string], all);
  const several = schema.oneOf ?? schema.allOf;
  if (several) return fc.oneof(...several.map((one) => like(one, all)));
  const plain = (): fc.Arbitrary<unknown> => {
    if (schema.enum) return fc.constantFrom(...schema.enum);
    if (schema.type === 'number' || schema.type === 'integer') {
      const { minimum = -5, maximum = 400 } = schema;
      return fc.oneof(fc.integer({ min: -5, max: 400 }), fc.constantFrom(minimum, maximum), fc.double());
    }
    if (schema.type === 'boolean') return fc.boolean();
    if (schema.type === 'string') return fc.string({ maxLength: 80 });
    if (schema.type === 'array') return fc.array(like(schema.items, all), { maxLength: 5 });
    const fields = Object.entries(schema.properties ?? {}).map(([name, inner]) => [name, like(inner, all)]);
    const shaped = fc.record(Object.fromEntries(fields) as Record<string, fc.Arbitrary<unknown>>, {
      requiredKeys: [],
    });
    return fc.oneof(
      { weight: 5, arbitrary: shaped },
      {
        weight: 1,
        arbitrary: fc.tuple(shaped, fc.dictionary(fc.string(), odd)).map(([a, b]) => ({ ...a, ...b })),
      },
    );
  };
  return fc.oneof({ weight: 8, arbitrary: plain() }, { weight: 1, arbitrary: odd });
}

test('whatever is sent, by the description or beside it, nothing ends in an error of the server', async () => {
  const description = (await api().get('/api/docs-json').expect(200)).body as Description;
  let known = await something();
  const answers = { done: 0, refused: 0 };
  for (const [path, operations] of Object.entries(description.paths)) {
    for (const [method, { requestBody, parameters = [] }] of Object.entries(operations)) {
      // A stream of events never ends.
      if (path.endsWith('/events')) continue;
      const schema = requestBody?.content['application/json']?.schema;
      const body = requestBody ? like(schema, description.components.schemas) : fc.constant(undefined);
      const place = fc.oneof(fc.integer({ min: -2, max: 12 }).map(String), odd.map(String));
      const asked = fc.record({
        body,
        real: fc.integer({ min: 0, max: 9 }).map((n) => n > 0),
        places: fc.array(place, { minLength: 4, maxLength: 4 }),
      });
      await fc.assert(
        fc.asyncProperty(asked, async ({ body: sent, real, places }) => {
          let n = 0;
          const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => {
            const kind = path.split('/')[2];
            const value = name === 'id' && real ? (known[kind] ?? places[n++]) : places[n++];
            return encodeURIComponent(value || 'none');
          });
          const query = parameters
            .filter((p) => p.in === 'query')
            .map((p) => `${p.name}=${encodeURIComponent(places[n++ % 4])}`)
            .join('&');
          const call = api()[method as 'post'](`${filled}${query && `?${query}`}`);
          const { status } = await (sent === undefined
            ? call
            : call.set('content-type', 'application/json').send(JSON.stringify(sent)));
          answers[status < 400 ? 'done' : 'refused']++;
          expect([method, filled, status, status < 500]).toEqual([method, filled, status, true]);
        }),
        { numRuns: method === 'delete' ? 6 : 10, seed: 11, endOnFailure: true },
      );
      if (method === 'delete') known = await something();
    }
  }
  // Both kinds come up: the requests reach what is behind the checks, and the checks.
  expect(answers.done).toBeGreaterThan(60);
  expect(answers.refused).toBeGreaterThan(200);
});

const size = { width: 41, height: 41 };
const knot = { x: 9, y: 9, inX: 0, inY: 0, outX: 0, outY: 0 };
const area = { knots: [knot, { ...knot, x: 90 }, { ...knot, y: 90 }] };
const settings = {
  shape: 'affine',
  channel: 'luma',
  filter: 'none',
  fields: 'both',
  below: 'mark',
  threshold: 0.5,
  longestGap: 9,
};
const span = { first: 0, last: 3 };
const corner = { x: 20, y: 20 };
const quad = [corner, { x: 120, y: 20 }, { x: 120, y: 90 }, { x: 20, y: 90 }];
const region = {
  outlines: [{ frame: 0, splines: [area] }],
  holdOuts: [{ frame: 0, spline: area, trackId: 'ring' }],
  quad,
};
const steadied: SteadyView = {
  mode: 'hold',
  smoothSeconds: 1,
  kind: 'composed',
  model: 'perspective',
  spans: [{ kind: 'even', first: 2, last: 5, ease: 1 }],
  keys: [{ frame: 3, x: 4, y: -2, rotation: 0.1, zoom: 1.1, easing: 'ease' }],
  strength: { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 },
  rollingShutter: { mode: 'share', share: -0.4 },
  within: { left: 100, top: 80, right: 300, bottom: 200 },
  varying: { restlessness: 0.5 },
  output: { width: 640, height: 640 },
  edge: 'mirror',
  unfilled: 'blur',
  resampling: 'lanczos',
  channels: { x: true, y: true, rotation: true, scale: true },
  referenceFrame: 0,
  range: { first: 0, last: 9 },
  framing: { zoom: 1, offsetX: 0, offsetY: 0 },
};

const exported = {
  codec: 'h264',
  container: 'mp4',
  bits: 8,
  comparison: { layout: 'wipe', words: true },
  treated: '4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b11',
  folder: 'quay-held',
};

/** What is right to send, with every field there is, by the name of its schema. */
const right: Record<string, object> = {
  NameRequest: { name: 'Fuzz' },
  KeepSteadyRequest: { name: 'Tight' },
  LayerRequest: {
    layer: {
      ...{ name: 'Cover', hidden: false, first: 0, last: 5, frame: 1, opacity: 1, blend: 'normal' },
      carrier: { kind: 'still', trackIds: ['a'], model: 'auto', position: true, rotation: true, scale: true },
      content: { kind: 'cover' },
      shape: {
        ...{ featherIn: 1, featherOut: 2, choke: 0, invert: false },
        parts: [{ spline: area, cut: false }],
        keys: [{ frame: 0, easing: 'ease', parts: [{ spline: area, cut: false }] }],
      },
      match: { soften: 1, grain: 0.1, black: 0.1, white: 0.9 },
      motionBlur: { shutter: 0.5, samples: 4 },
      keys: [{ frame: 1, easing: 'ease', x: 1, y: 2, rotation: 0, scale: 1, opacity: 1, strength: 1 }],
    },
  },
  LayerMoveRequest: { to: 1 },
  LayerCopyRequest: { clipId: '4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10' },
  ExportRequest: exported,
  SteadyLikeRequest: { clipIds: ['4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10'], export: exported },
  SeveralExportsRequest: {
    ...exported,
    clipIds: ['4f6f1a36-6d1e-4c5e-9a55-0d2f5a3a7b10'],
    codec: 'vp9',
  },
  SettingsRequest: { cores: 1 },
  OutsideRequest: { folder: 0, path: 'quay.mp4' },
  SequenceRequest: { name: 'crossing', rate: '25', uploads: ['0123456789abcdef'] },
  ReadAgainRequest: { asFields: false },
  SteadyRequest: { steady: steadied, label: 'Mode' },
  NewRegionRequest: { frame: 0, splines: [area], quad, name: 'Board', settings },
  CornersRequest: { corners: quad },
  NewTrackRequest: { x: 90, y: 90, frame: 0, template: size, search: size, settings },
  NewTracksRequest: { frame: 0, points: [{ x: 90, y: 90 }], template: size, search: size, settings },
  KeyRequest: { x: 90, y: 90, aside: { x: 1, y: 1 } },
  TrackPatch: {
    ...settings,
    name: 'Post',
    hidden: false,
    locked: false,
    used: true,
    template: size,
    search: size,
    accepted: [{ first: 0, last: 3, mark: 7 }],
    region,
  },
  SpanRequest: span,
  InterpolateRequest: { ...span, how: 'smooth' },
  SuggestRequest: { frame: 0, count: 1, within: [area], without: [area] },
  TracksRequest: { trackIds: ['a'] },
  TracksPatchRequest: { trackIds: ['a'], patch: { name: 'Post' } },
  TracksSpanRequest: { trackIds: ['a'], span },
  TracksInterpolateRequest: { trackIds: ['a'], fill: { ...span, how: 'smooth' } },
  TrackRunRequest: { trackIds: ['a'], direction: 'forwards', from: 0, span },
  TracksJoinRequest: { trackIds: ['a', 'b'], into: 'a' },
  TracksCarryRequest: { trackIds: ['a'], from: 'b' },
  TracksSmoothRequest: { trackIds: ['a'], smooth: { ...span, sigma: 2 } },
  MoveKeyRequest: { to: 3 },
  SceneRequest: { within: [area], without: [area] },
  ScenePatch: { name: 'Far', used: true, hidden: false, hold: { shot: 0, group: 0, depth: 0.5 } },
};

/** A body with one thing wrong, and what that is. */
interface Wrong {
  what: string;
  body: unknown;
}

const typeOf = (value: unknown): string =>
  value === null ? 'null' : Array.isArray(value) ? 'list' : typeof value;

/** Each required field left out in turn, and each field as something else, within what lies in it as well. */
function* wrongs(
  body: object,
  schema: Schema,
  all: Description['components']['schemas'],
  put: (inner: unknown) => unknown = (inner) => inner,
  path = '',
): Generator<Wrong> {
  const named = (s: Schema): Schema => (s.$ref ? all[s.$ref.split('/').pop() as string] : s);
  for (const [name, value] of Object.entries(body)) {
    const field = schema.properties?.[name];
    const what = `${path}${name}`;
    expect([what, field !== undefined]).toEqual([what, true]);
    const { [name]: _, ...rest } = body as Record<string, unknown>;
    if (schema.required?.includes(name)) yield { what: `no ${what}`, body: put(rest) };
    for (const odd of [null, {}, [], 'else', -1.5, true])
      if (typeOf(odd) !== typeOf(value))
        yield { what: `${what} as ${JSON.stringify(odd)}`, body: put({ ...body, [name]: odd }) };
    const [item] = Array.isArray(value) ? (value as unknown[]) : [];
    const inner = named(item === undefined ? (field?.allOf?.[0] ?? field ?? {}) : (field?.items ?? {}));
    const within = item === undefined ? value : item;
    if (inner.properties && typeof within === 'object' && within !== null)
      yield* wrongs(
        within,
        inner,
        all,
        (changed) => put({ ...body, [name]: item === undefined ? changed : [changed] }),
        `${what}.`,
      );
  }
}

test('a field that is missing or of another type is refused, on every route, and nothing of it is kept', async () => {
  const { paths, components } = (await api().get('/api/docs-json').expect(200)).body as Description;
  const known = await something();
  const before = (await api().get(`/api/clips/${known.clips}`)).body as ClipView;
  const met = new Set<string>();
  let sent = 0;
  for (const [path, operations] of Object.entries(paths))
    for (const [method, { requestBody }] of Object.entries(operations)) {
      const schema = requestBody?.content['application/json']?.schema;
      if (!schema?.$ref) continue;
      const name = schema.$ref.split('/').pop() as string;
      expect([name, name in right]).toEqual([name, true]);
      met.add(name);
      const address = path.replace(/\{(\w+)\}/g, (_, part: string) =>
        part === 'id' ? known[path.split('/')[2]] : '0',
      );
      for (const { what, body } of wrongs(right[name], components.schemas[name], components.schemas)) {
        const { status } = await api()
          [method as 'post'](address)
          .send(body as object);
        sent++;
        expect([method, path, what, status]).toEqual([method, path, what, 422]);
      }
    }
  expect([...met].sort()).toEqual(Object.keys(right).sort());
  expect(sent).toBeGreaterThan(300);
  const after = (await api().get(`/api/clips/${known.clips}`)).body as ClipView;
  expect([after.revision, after.steady, after.tracks]).toEqual([
    before.revision,
    before.steady,
    before.tracks,
  ]);
  await api().get(`/api/clips/${known.clips}/motion.json`).expect(200);
});
