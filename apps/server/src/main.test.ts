import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { openAsBlob } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipView } from '@lurn/contract';
import { makeStripClip } from '@lurn/media/testing';

const main = fileURLToPath(new URL('main.js', import.meta.url));
const port = 4871;
const base = `http://127.0.0.1:${port}/api`;

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-main-'));
  await makeStripClip({ path: join(folder, 'long.mp4'), frames: 600, width: 640, height: 360 });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

function start(environment: NodeJS.ProcessEnv = {}): ChildProcess {
  const env = { ...process.env, LURN_DATA: join(folder, 'data'), LURN_PORT: `${port}`, ...environment };
  return spawn(process.execPath, [main], { env, stdio: ['ignore', 'pipe', 'ignore'] });
}

async function up(): Promise<void> {
  for (;;) {
    const ok = await fetch(`${base}/health`).then(
      (response) => response.ok,
      () => false,
    );
    if (ok) return;
    await pause(50);
  }
}

const view = async (id: string): Promise<ClipView> =>
  (await fetch(`${base}/clips/${id}`)).json() as Promise<ClipView>;

test('SIGTERM in the middle of reading a clip ends it cleanly; after a start it reads on', async () => {
  const first = start();
  await up();
  const headers = { 'content-type': 'application/json' };
  const project = (await (
    await fetch(`${base}/projects`, { method: 'POST', headers, body: '{"name":"Stop"}' })
  ).json()) as { id: string };
  const form = new FormData();
  form.append('file', await openAsBlob(join(folder, 'long.mp4')), 'long.mp4');
  const clip = (await (
    await fetch(`${base}/projects/${project.id}/clips`, { method: 'POST', body: form })
  ).json()) as { id: string };
  expect((await view(clip.id)).state).toBe('reading');
  const asked = performance.now();
  first.kill('SIGTERM');
  const [code, signal] = (await once(first, 'exit')) as [number | null, string | null];
  // Nest ends itself with the signal it was sent, once everything is shut.
  expect([code, signal]).toEqual([null, 'SIGTERM']);
  expect(performance.now() - asked).toBeLessThan(5000);

  const second = start();
  await up();
  for (;;) {
    const { state, frames, jobs } = await view(clip.id);
    if (state === 'ready') {
      expect(frames).toBe(600);
      expect(jobs.map((job) => job.state).sort()).toEqual(['done', 'interrupted']);
      break;
    }
    expect(state).toBe('reading');
    await pause(100);
  }
  second.kill('SIGTERM');
  await once(second, 'exit');
});

test('without ffmpeg it says what to install and ends', async () => {
  const server = start({
    PATH: dirname(process.execPath) === '/usr/bin' ? '/nowhere' : dirname(process.execPath),
  });
  let said = '';
  server.stdout?.on('data', (part: Buffer) => (said += part.toString()));
  // Closed once all that it said has been read.
  const [code] = (await once(server, 'close')) as [number];
  expect(code).toBe(1);
  expect(said).toContain('apt-get install -y --no-install-recommends ffmpeg');
});
