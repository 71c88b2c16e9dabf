import { expect, test } from '@jest/globals';
import express, { type Express } from 'express';
import request from 'supertest';
import { requestGuard } from './request-guard.js';
import { readOptions } from './options.js';

const secret = 'a long enough secret';

function served(token: string | null): Express {
  const app = express();
  app.use(requestGuard(token));
  app.use((_, response) => void response.json({ in: true }));
  return app;
}

test.each([
  [{ host: '127.0.0.1:4810' }, 200],
  [{ host: 'localhost:4810' }, 200],
  [{ host: '[::1]:4810' }, 200],
  [{ host: 'evil.example:4810' }, 403],
  [{ host: '127.0.0.1.evil.example' }, 403],
  [{ host: '192.168.1.7:4810' }, 403],
  [{ host: '127.0.0.1:4810', origin: 'http://127.0.0.1:4810' }, 200],
  [{ host: '127.0.0.1:4810', origin: 'http://127.0.0.1:9999' }, 403],
  [{ host: '127.0.0.1:4810', origin: 'https://evil.example' }, 403],
  [{ host: '127.0.0.1:4810', origin: 'null' }, 403],
  [{ host: '127.0.0.1:4810', 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' }, 403],
  [{ host: '127.0.0.1:4810', 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' }, 200],
  [{ host: '127.0.0.1:4810', 'sec-fetch-site': 'same-origin', 'sec-fetch-mode': 'cors' }, 200],
])('%j is answered with %d', async (headers, status) => {
  const { body } = await request(served(null)).get('/api/projects').set(headers).expect(status);
  expect(status === 200 ? body.in : typeof body.message).toBe(status === 200 ? true : 'string');
});

test('with a token: once in the address, then by a cookie that scripts cannot read', async () => {
  const app = served(secret);
  const host = '192.168.1.7:4810';
  await request(app).get('/').set({ host }).expect(401);
  await request(app).get('/?token=wrong').set({ host }).expect(401);
  await request(app).get('/').set({ host: 'evil.example' }).expect(403);
  const entered = await request(app)
    .get(`/p/1?token=${encodeURIComponent(secret)}`)
    .set({ host })
    .expect(303);
  expect(entered.headers.location).toBe('/p/1');
  const [cookie] = entered.headers['set-cookie'] as unknown as string[];
  expect(cookie).toMatch(/HttpOnly/);
  expect(cookie).toMatch(/SameSite=Strict/);
  await request(app)
    .get('/p/1')
    .set({ host, cookie: cookie.split(';')[0] })
    .expect(200);
  await request(app).get('/p/1').set({ host, cookie: 'lurn-token=other' }).expect(401);
});

test('other machines get in only with a token, and what is given wrong is said', () => {
  expect(readOptions([], {})).toMatchObject({ host: '127.0.0.1', port: 4810, token: null });
  expect(readOptions(['--port', '81', '--token', secret, '--host', '0.0.0.0'], {})).toMatchObject({
    host: '0.0.0.0',
    port: 81,
    token: secret,
  });
  expect(readOptions([], { LURN_HOST: '10.0.0.2', LURN_TOKEN: secret }).host).toBe('10.0.0.2');
  expect(() => readOptions(['--host', '0.0.0.0'], {})).toThrow('choose a secret with --token');
  expect(() => readOptions(['--token', 'short'], {})).toThrow('at least 16 characters');
  expect(() => readOptions(['--port', 'x'], {})).toThrow('not "x"');
  expect(() => readOptions(['--prot', '1'], {})).toThrow();
});
