// Films the demo's clips, starts the server and opens the project in it.
import { spawn, spawnSync } from 'node:child_process';
import { openAsBlob } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { follow, holdAndFrame, places } from './finish-clip.mjs';

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

async function call(method, path, body) {
  const isForm = body instanceof FormData;
  const response = await fetch(`${address}/api${path}`, {
    method,
    headers: body && !isForm ? { 'content-type': 'application/json' } : {},
    body: isForm ? body : body && JSON.stringify(body),
  });
  if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
  return response.json();
}

async function untilUp() {
  for (;;) {
    try {
      return await call('GET', '/health');
    } catch {
      await pause(100);
    }
  }
}

await untilUp();
const known = (await call('GET', '/projects')).find((project) => project.name === title);
const { id } = known ?? (await call('POST', '/projects', { name: title }));
const { clips: there } = await call('GET', `/projects/${id}`);
for (const name of ['quay.mp4', 'lantern.mp4']) {
  if (there.some((clip) => clip.name === name)) continue;
  const form = new FormData();
  form.append('file', await openAsBlob(join(clips, name)), name);
  await call('POST', `/projects/${id}/clips`, form);
}
let now;
for (;;) {
  ({ clips: now } = await call('GET', `/projects/${id}`));
  if (now.every((clip) => clip.state === 'ready' || clip.state === 'failed')) break;
  await pause(200);
}
// One clip is finished, so that the first look shows what comes of it; the others are there to be tried.
const quay = now.find((clip) => clip.name === 'quay.mp4' && clip.state === 'ready');
const { tracks, history } = quay ? await call('GET', `/clips/${quay.id}`) : {};
if (quay && tracks.length === 0 && !history.undo && !history.redo) {
  console.log('Following two points through the first clip …');
  await follow(call, quay.id, places('quay', 0, ['plate', 'crate']));
  await holdAndFrame(call, quay.id);
}
console.log(
  `\n  ${title} is ready:  ${address}/projects/${id}\n  API: ${address}/api/docs   Stop with Ctrl-C.\n`,
);
