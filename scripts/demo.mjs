// Films the demo's clips, starts the server and opens the project in it.
import { spawn, spawnSync } from 'node:child_process';
import { openAsBlob } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const clips = join(root, 'demo/clips');
const title = 'The Withy Ferry';

function must(args) {
  const { status } = spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}

/** The wanted port, or the next free one after it. */
async function freePort(port) {
  const free = await new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
  return free ? port : freePort(port + 1);
}

const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

must(['demo/dist/main.js', clips]);

const port = await freePort(Number(process.env.LURN_PORT ?? 4810));
const address = `http://127.0.0.1:${port}`;
const server = spawn(process.execPath, ['apps/server/dist/main.js'], {
  cwd: root,
  stdio: ['ignore', 'inherit', 'inherit'],
  env: { LURN_DATA: join(root, 'data/demo'), LURN_LOG: 'warn', ...process.env, LURN_PORT: `${port}` },
});
server.on('exit', (code) => process.exit(code ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill('SIGTERM'));

async function call(path, options) {
  const response = await fetch(`${address}/api${path}`, options);
  if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
  return response.json();
}

async function untilUp() {
  for (;;) {
    try {
      return await call('/health');
    } catch {
      await pause(100);
    }
  }
}

await untilUp();
const known = (await call('/projects')).find((project) => project.name === title);
const headers = { 'content-type': 'application/json' };
const { id } =
  known ?? (await call('/projects', { method: 'POST', headers, body: JSON.stringify({ name: title }) }));
const { clips: there } = await call(`/projects/${id}`);
for (const name of ['quay.mp4', 'lantern.mp4']) {
  if (there.some((clip) => clip.name === name)) continue;
  const form = new FormData();
  form.append('file', await openAsBlob(join(clips, name)), name);
  await call(`/projects/${id}/clips`, { method: 'POST', body: form });
}
for (;;) {
  const { clips: now } = await call(`/projects/${id}`);
  if (now.every((clip) => clip.state === 'ready' || clip.state === 'failed')) break;
  await pause(200);
}
console.log(
  `\n  ${title} is ready:  ${address}/projects/${id}\n  API: ${address}/api/docs   Stop with Ctrl-C.\n`,
);
