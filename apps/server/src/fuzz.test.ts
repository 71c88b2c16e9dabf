import 'reflect-metadata';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import type { INestApplication } from '@nestjs/common';
import type { ClipChange, ClipView, ProjectView } from '@lurn/contract';
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
      return { projects: project.id, clips: clip.id, tracks: change.tracks[0].id };
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
  const plain = (): fc.Arbitrary<unknown> => {
    if (schema.enum) return fc.constantFrom(...schema.enum);
    if (schema.type === 'number' || schema.type === 'integer')
      return fc.oneof(fc.integer({ min: -5, max: 400 }), fc.double());
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
