import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ClipChange, ClipView, JobView } from '@lurn/contract';
import { runTool } from '@lurn/media';
import { chromium, type Page } from '@playwright/test';
import { LiveServer, pause } from './live-server.js';
import { PeakWatch, rendererBytes } from './process-tree.js';
import { seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));
const plate = { x: 1171.4, y: 576.3 };
/** As much of lurn-tracks as is looked at here. */
interface TrackList {
  tracks: { samples: { state: string }[] }[];
}

const shown = '[data-testid=shown-frame]';
const json = { 'content-type': 'application/json' };
const mostExported = 1500;
const megabytes = (bytes: number): string => `${Math.round(bytes / 2 ** 20)} MiB`;

/** A long clip and a large one through the real server and page: time, and the memory each step holds. */
export async function benchLong(only?: string): Promise<Table[]> {
  const columns = ['clip', 'step', 'time', 'server tree', 'page', 'outcome'];
  const table = beginTable('long', 'Long and large clips, through the server and the page', columns);
  addRow(table, 'any', 'goal', '', '1536 MiB', '600 MiB', 'first picture after 3 s');
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  try {
    if (only !== '4k') await tenThousand(table, folder);
    const large = join(folder, 'large.mp4');
    const scale = [
      '-i',
      quay,
      '-vf',
      'scale=3840:2160',
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-crf',
      '14',
    ];
    await runTool('ffmpeg', ['-v', 'error', ...scale, '-y', large]);
    await through(table, '300 frames, 4K', large, 2);
    return [table];
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** There and back again, so that nothing jumps where the film begins anew. */
async function tenThousand(table: Table, folder: string): Promise<void> {
  const long = join(folder, 'long.mp4');
  const once = join(folder, 'once.mp4');
  const turn = ['-filter_complex', '[0:v]split[a][b];[b]reverse[r];[a][r]concat', '-an'];
  const fast = ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '18', '-pix_fmt', 'yuv420p'];
  await runTool('ffmpeg', ['-v', 'error', '-i', quay, ...turn, ...fast, '-y', once]);
  const loop = ['-stream_loop', '16', '-i', once, '-c', 'copy', '-frames:v', '10000'];
  await runTool('ffmpeg', ['-v', 'error', ...loop, '-y', long]);
  await through(table, '10,000 frames, 1080p', long, 1);
}

async function through(table: Table, name: string, file: string, scale: number): Promise<void> {
  const server = await LiveServer.start(4898);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--enable-unsafe-swiftshader', '--disable-quic'],
  });
  const watch = new PeakWatch(server.pid as number);
  const step = async (what: string, work: () => Promise<string | void>): Promise<void> => {
    watch.reset();
    const start = performance.now();
    const more = await work();
    const spent = seconds(performance.now() - start);
    const held = browser.contexts().length ? megabytes(rendererBytes()) : '';
    addRow(table, name, what, spent, megabytes(watch.peak), held, more ?? '');
  };
  const ended = async (id: string): Promise<string> => {
    for (;;) {
      const { body } = await server.ask<JobView>(`/jobs/${id}`);
      if (body.state !== 'running' && body.state !== 'waiting')
        return `${body.state}, ${body.done} of ${body.total} frames`;
      await pause(100);
    }
  };
  try {
    const { id: projectId } = await server.project('Long');
    let id = '';
    await step('upload', async () => void (id = (await server.upload(projectId, file)).body.id));
    await step('import', async () => {
      const start = performance.now();
      while ((await fetch(`${server.address}/api/clips/${id}/early/0`)).status !== 200) await pause(30);
      const first = performance.now() - start;
      const { frames } = await server.read(id);
      return `first picture after ${seconds(first)}, ${frames} frames`;
    });
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await step('scrub', async () => {
      await page.goto(`${server.address}/projects/${projectId}/clips/${id}`);
      await page.waitForFunction(
        (selector) => Number(document.querySelector<HTMLElement>(selector)?.dataset.frame) >= 0,
        shown,
      );
      const last = (await server.read(id)).frames - 1;
      for (let n = 0; n < 60; n++) await seek(page, Math.floor((((n * 7919) % 1000) / 999) * last));
    });
    const place = { x: plate.x * scale, y: plate.y * scale, frame: 0 };
    const { body } = await server.ask<ClipChange>(`/clips/${id}/tracks`, {
      method: 'POST',
      headers: json,
      body: JSON.stringify(place),
    });
    const run = { trackIds: [body.records[0].id], direction: 'forwards', from: 0 };
    const found = async (): Promise<number> => {
      const { body: tracks } = await server.ask<TrackList>(`/clips/${id}/tracks.json`);
      return tracks.tracks[0].samples.filter(({ state }) => state !== 'lost').length;
    };
    await step('track', async () => {
      const job = await server.ask<JobView>(`/clips/${id}/track-runs`, {
        method: 'POST',
        headers: json,
        body: JSON.stringify(run),
      });
      const end = await ended(job.body.id);
      return `${end}, found on ${await found()}`;
    });
    // Encoding ten thousand frames takes a quarter of an hour; what it holds shows sooner.
    const { body: view } = await server.ask<ClipView>(`/clips/${id}`);
    const range = { first: 0, last: Math.min(view.frames, mostExported) - 1 };
    await server.ask(`/clips/${id}/steady`, {
      method: 'PATCH',
      headers: json,
      body: JSON.stringify({ steady: { ...view.steady, range }, label: 'Range' }),
    });
    await step('export', async () => {
      const job = await server.ask<JobView>(`/clips/${id}/exports`, { method: 'POST' });
      return ended(job.body.id);
    });
  } finally {
    watch.end();
    await browser.close();
    await server.stop();
  }
}

async function seek(page: Page, frame: number): Promise<void> {
  await page.getByTestId('frame-number').fill(`${frame}`);
  await page.keyboard.press('Enter');
  await page.waitForFunction(
    ([selector, f]) => document.querySelector<HTMLElement>(selector)?.dataset.frame === f,
    [shown, `${frame}`],
  );
}
