// Films the demo's clips, starts the server and opens the project in it.
import { spawn, spawnSync } from 'node:child_process';
import { openAsBlob } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  dressByScene,
  dressLantern,
  dressQuay,
  dressWindow,
  follow,
  holdAndFrame,
  places,
  steadyByScene,
} from './finish-clip.mjs';

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

// The first clip is enough to begin with; the others are filmed while it can be used already.
must(['demo/dist/main.js', clips, 'quay']);

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

/** Films a clip beside what else goes on. */
function film(name) {
  return new Promise((resolve, reject) => {
    const args = ['demo/dist/main.js', clips, name];
    const filming = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] });
    filming.on('exit', (code) => (code === 0 ? resolve() : reject(new Error(`Filming ${name} failed.`))));
  });
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
async function bringIn(name) {
  if (there.some((clip) => clip.name === `${name}.mp4`)) return;
  const form = new FormData();
  form.append('file', await openAsBlob(join(clips, `${name}.mp4`)), `${name}.mp4`);
  await call('POST', `/projects/${id}/clips`, form);
}
await bringIn('quay');
async function untilRead() {
  for (;;) {
    const { clips: now } = await call('GET', `/projects/${id}`);
    if (now.every((clip) => clip.state === 'ready' || clip.state === 'failed')) return now;
    await pause(200);
  }
}
const now = await untilRead();
// One clip is finished by points, so that the first look shows what comes of it.
const quay = now.find((clip) => clip.name === 'quay.mp4' && clip.state === 'ready');
const { tracks, history } = quay ? await call('GET', `/clips/${quay.id}`) : {};
if (quay && tracks.length === 0 && !history.undo && !history.redo) {
  console.log('Following two points through the first clip …');
  await follow(call, quay.id, places('quay', 0, ['plate', 'crate']));
  await holdAndFrame(call, quay.id);
  console.log('Dressing it …');
  await dressQuay(call, quay.id);
}
console.log(
  `\n  ${title} is ready:  ${address}/projects/${id}\n  API: ${address}/api/docs   Stop with Ctrl-C.\n`,
);

for (const name of ['crossing', 'lantern', 'window']) {
  await film(name);
  await bringIn(name);
}
// Another is steadied by its scene, the third has a face covered, the fourth a film on a screen.
const crossing = (await untilRead()).find((clip) => clip.name === 'crossing.mp4' && clip.state === 'ready');
if (crossing) {
  const { scene, history: done } = await call('GET', `/clips/${crossing.id}`);
  if (!scene && !done.undo && !done.redo) {
    await steadyByScene(call, crossing.id);
    await dressByScene(call, crossing.id, 120);
  }
}
const lantern = (await untilRead()).find((clip) => clip.name === 'lantern.mp4' && clip.state === 'ready');
if (lantern) {
  const { tracks: followed, history: done } = await call('GET', `/clips/${lantern.id}`);
  if (followed.length === 0 && !done.undo && !done.redo) await dressLantern(call, lantern.id);
}
const window = (await untilRead()).find((clip) => clip.name === 'window.mp4' && clip.state === 'ready');
if (window && quay) {
  const { tracks: followed, history: done } = await call('GET', `/clips/${window.id}`);
  if (followed.length === 0 && !done.undo && !done.redo) await dressWindow(call, window.id, quay.id);
}
console.log('  All clips are there.\n');
