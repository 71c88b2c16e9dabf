import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ClipChange, ClipView, JobView, ProjectView, SteadyView } from '@lurn/contract';
import { Samples, SampleState } from '@lurn/core';
import { indexClip, openClip } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { LiveServer, pause } from './live-server.js';

// npm run soak [rounds]: the server is killed at random moments of real work; what it had shown as done must be there
// and equal afterwards.

const rounds = Number(process.argv[2] ?? 100);
const frames = 160;
/** Bytes to a piece of an upload. */
const piece = 256 * 1024;
const longest = 4000;
/** Exports are short, so that some come to their end. */
const exported = 10;

let seed = 7;
const random = (below: number): number => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
  return Math.floor((seed / 2 ** 32) * below);
};

/** Everything that the server has said is done. */
interface Promised {
  /** Hand-placed keys by track and frame. */
  keys: Map<string, Map<number, { x: number; y: number }>>;
  steady: SteadyView | null;
  name: string;
  /** What was sent and not yet answered: it may have been stored or not. */
  underway: { key?: { track: string; frame: number; x: number; y: number }; seconds?: number; name?: string };
  uploads: { address: string; offset: number }[];
  exports: Set<string>;
  /** Samples that were seen by whoever looked, by track. */
  seen: Map<string, Samples>;
}

const json = { 'content-type': 'application/json' };
const failures: string[] = [];
const counts: Record<string, number> = {};
const count = (what: string): void => void (counts[what] = (counts[what] ?? 0) + 1);

function expect(holds: boolean, what: string): void {
  count('checks');
  if (holds) return;
  failures.push(what);
  console.log(`  LOST: ${what}`);
}

const folder = await mkdtemp(join(tmpdir(), 'lurn-soak-'));
const film = join(folder, 'film.mp4');
const position = (k: number) => ({ x: 0.9 * k, y: 5 * Math.sin(k / 5) });
await makeStripClip({ path: film, frames, width: 640, height: 360, position, sound: frames / 25 });
const data = await readFile(film);
const digest = createHash('sha256').update(data).digest('hex');
const server = await LiveServer.start(4897);

const ask = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
  const answer = await server.ask<T>(path, {
    method,
    headers: json,
    body: body && JSON.stringify(body),
  } as RequestInit);
  if (answer.status >= 400) throw new Error(`${method} ${path}: ${JSON.stringify(answer.body)}`);
  return answer.body;
};

const project = await server.project('Soak');
const clipId = (await server.upload(project.id, film)).body.id;
await server.read(clipId);
const fresh = await ask<ClipView>('GET', `/clips/${clipId}`);
const short = { ...fresh.steady, range: { first: 0, last: exported - 1 } };
await ask('PATCH', `/clips/${clipId}/steady`, { steady: short, label: 'Range' });
const promised: Promised = {
  keys: new Map(),
  steady: null,
  name: 'film.mp4',
  underway: {},
  uploads: [],
  exports: new Set(),
  seen: new Map(),
};

/** Work that goes on until the server is gone. */
const works: Record<string, () => Promise<void>> = {
  async edits() {
    for (;;) {
      const { tracks, steady } = await ask<ClipView>('GET', `/clips/${clipId}`);
      if (tracks.length < 3) {
        const placed = { x: 200 + 80 * tracks.length, y: 150, frame: 0 };
        const change = await ask<ClipChange>('POST', `/clips/${clipId}/tracks`, placed);
        promised.keys.set(change.records[0].id, new Map([[0, placed]]));
      }
      const ids = [...promised.keys.keys()];
      const track = ids[random(ids.length)];
      const frame = 1 + random(frames - 1);
      const place = { x: 100 + random(300), y: 80 + random(150) };
      promised.underway = { key: { track, frame, ...place } };
      await ask('PUT', `/tracks/${track}/keys/${frame}`, place);
      promised.keys.get(track)?.set(frame, place);
      const next = { ...steady, smoothSeconds: random(50) / 10 };
      promised.underway = { seconds: next.smoothSeconds };
      await ask('PATCH', `/clips/${clipId}/steady`, { steady: next, label: 'Smoothing' });
      promised.steady = next;
      const name = `film ${random(1e6)}.mp4`;
      promised.underway = { name };
      await ask('PATCH', `/clips/${clipId}`, { name });
      promised.name = name;
      promised.underway = {};
      count('edits');
    }
  },
  async tracking() {
    const ids = [...promised.keys.keys()];
    if (ids.length === 0) return;
    await ask('POST', `/clips/${clipId}/track-runs`, { trackIds: ids, direction: 'forwards', from: 0 });
    for (;;) {
      const view = await ask<ClipView>('GET', `/clips/${clipId}`);
      for (const id of ids) promised.seen.set(id, samplesOf(view, id));
      count('looks at tracks');
      await pause(20);
    }
  },
  async uploading() {
    const metadata = [
      ['filename', `upload ${random(1e6)}.mp4`],
      ['project', project.id],
    ];
    const text = metadata.map(([key, value]) => `${key} ${Buffer.from(value).toString('base64')}`).join(',');
    const tus = { 'Tus-Resumable': '1.0.0' };
    const begun = await fetch(`${server.address}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': `${data.length}`, 'Upload-Metadata': text },
    });
    const upload = { address: begun.headers.get('location') ?? '', offset: 0 };
    promised.uploads.push(upload);
    await send(upload, 60);
    count('uploads to the end');
  },
  async importing() {
    const { body } = await server.upload(project.id, film);
    count('imports begun');
    await server.read(body.id);
  },
  async exporting() {
    if (promised.keys.size === 0) return;
    for (;;) {
      const job = await ask<JobView>('POST', `/clips/${clipId}/exports`);
      for (;;) {
        const now = await ask<JobView>('GET', `/jobs/${job.id}`);
        if (now.state === 'done') {
          promised.exports.add(job.id);
          count('exports done');
          break;
        }
        await pause(20);
      }
    }
  },
};

/** Sends what is missing of an upload, piece by piece, so many milliseconds apart. */
async function send(upload: { address: string; offset: number }, apart: number): Promise<void> {
  while (upload.offset < data.length) {
    const part = data.subarray(upload.offset, upload.offset + piece);
    const answer = await fetch(server.address + upload.address, {
      method: 'PATCH',
      headers: {
        'Tus-Resumable': '1.0.0',
        'Content-Type': 'application/offset+octet-stream',
        'Upload-Offset': `${upload.offset}`,
      },
      body: part,
    });
    if (answer.status >= 300) throw new Error(`upload: ${answer.status} ${await answer.text()}`);
    upload.offset = Number(answer.headers.get('upload-offset') ?? upload.offset + part.length);
    await pause(apart);
  }
}

function samplesOf(clip: ClipView, trackId: string): Samples {
  const samples = new Samples(clip.frames);
  for (const page of clip.pages)
    if (page.id === trackId && page.bytes) samples.unpackPage(page.page, Buffer.from(page.bytes, 'base64'));
  return samples;
}

/** Goes through all that was said to be done. */
async function check(round: number): Promise<void> {
  const view = await ask<ClipView>('GET', `/clips/${clipId}`);
  expect(view.state === 'ready' && view.frames === frames, `round ${round}: the clip is ${view.state}`);
  const { underway, steady } = promised;
  expect([promised.name, underway.name].includes(view.name), `round ${round}: name ${view.name}`);
  promised.name = view.name;
  const { smoothSeconds } = view.steady;
  if (steady)
    expect(
      [steady.smoothSeconds, underway.seconds].includes(smoothSeconds),
      `round ${round}: ${smoothSeconds} s`,
    );
  promised.steady = view.steady;
  for (const [id, keys] of promised.keys) {
    const samples = samplesOf(view, id);
    for (const [frame, { x, y }] of keys) {
      const sample = samples.get(frame);
      const { key } = underway;
      const newer = key?.track === id && key.frame === frame && sample?.x === key.x && sample.y === key.y;
      const same = sample?.state === SampleState.placed && sample.x === x && sample.y === y;
      expect(same || newer, `round ${round}: key on frame ${frame}`);
      if (newer && !same) count('edits stored whose answer was lost');
    }
    const seen = promised.seen.get(id);
    for (let k = 0; seen && k < frames; k++)
      if (seen.found(k)) expect(samples.found(k), `round ${round}: sample on frame ${k}`);
    promised.keys.set(id, new Map(samples.keys().map((k) => [k, { x: samples.x[k], y: samples.y[k] }])));
  }
  promised.seen.clear();
  const jobs = view.jobs.filter(({ state }) => state === 'running' || state === 'waiting');
  expect(jobs.length === 0, `round ${round}: ${jobs.length} jobs of a dead server are said to go on`);
  for (const id of promised.exports) {
    const file = join(server.folder, 'exports', `${id}.mp4`);
    const whole = await openClip(file).then(indexClip, () => null);
    expect(whole?.pts.length === exported, `round ${round}: export ${id}`);
  }
  promised.exports.clear();
  for (const upload of promised.uploads) {
    const head = await fetch(server.address + upload.address, {
      method: 'HEAD',
      headers: { 'Tus-Resumable': '1.0.0' },
    });
    // Taken in already, where its end had arrived.
    if (head.status === 404) {
      expect(upload.offset >= data.length - piece, `round ${round}: an upload is gone`);
      continue;
    }
    const offset = Number(head.headers.get('upload-offset'));
    expect(offset >= upload.offset, `round ${round}: upload at ${offset}, had been ${upload.offset}`);
    upload.offset = offset;
    await send(upload, 0);
    count('uploads gone on with');
  }
  promised.uploads = [];
  const { clips } = await ask<ProjectView>('GET', `/projects/${project.id}`);
  for (const clip of clips) {
    const read = await server.read(clip.id);
    expect(
      read.state === 'ready' && read.frames === frames,
      `round ${round}: clip ${clip.name} ${read.error}`,
    );
    const original = await readFile(join(server.folder, 'clips', clip.id, 'original'));
    const same = createHash('sha256').update(original).digest('hex') === digest;
    expect(same, `round ${round}: the original of ${clip.name} differs`);
    if (clip.id !== clipId) await ask('DELETE', `/clips/${clip.id}`);
  }
  const left = (await readdir(server.folder, { recursive: true })).filter((n) => n.endsWith('.partial'));
  expect(left.length === 0, `round ${round}: half-written ${left.join(', ')}`);
}

/** Tools that go on although the server that started them is dead. */
function orphans(): number {
  return readdirSync('/proc').filter((pid) => {
    try {
      return /^\d+$/.test(pid) && readFileSync(`/proc/${pid}/cmdline`, 'latin1').includes(server.folder);
    } catch {
      return false;
    }
  }).length;
}

try {
  for (let round = 1; round <= rounds; round++) {
    const names = Object.keys(works).filter(() => random(2) === 0);
    const doing = (names.length > 0 ? names : ['edits']).map((name) => works[name]().catch(() => undefined));
    await Promise.race([pause(50 + random(longest)), Promise.all(doing)]);
    await server.kill();
    await pause(60);
    expect(orphans() === 0, `round ${round}: ${orphans()} processes outlived the server`);
    await Promise.all(doing);
    await server.again();
    await check(round);
    if (round % 10 === 0) console.log(`${round} of ${rounds} rounds, ${failures.length} lost`);
  }
  console.log(`${rounds} rounds of kill -9: ${JSON.stringify(counts)}; lost: ${failures.length}`);
  process.exitCode = failures.length > 0 ? 1 : 0;
} finally {
  await server.stop();
  await rm(folder, { recursive: true, force: true });
}
