import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type CDPSession, type Page } from '@playwright/test';
import { Samples, SampleState, writeTracksJson, type NamedTrack } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { LiveServer, pause } from './live-server.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));

/** Steps, seeks and playing in a real browser, software rendering, 1280×800. */
export async function benchViewer(): Promise<Table[]> {
  const columns = ['what', 'median', '95 %', 'worst', 'goal'];
  const table = beginTable('viewer', 'The page, both stages, 1280×800, software rendering', columns);
  const server = await LiveServer.start(4895);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--enable-unsafe-swiftshader', '--disable-quic'],
  });
  try {
    const { id: projectId } = await server.project('Viewer');
    const { id } = (await server.upload(projectId, quay)).body;
    await server.read(id);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${server.address}/projects/${projectId}/clips/${id}`);
    await page.waitForFunction(
      () => Number(document.querySelector<HTMLElement>('[data-testid=shown-frame]')?.dataset.frame) >= 0,
    );
    await pause(1000);

    const forwards = await times(page, 100, () => page.keyboard.press('ArrowRight'));
    const backwards = await times(page, 80, () => page.keyboard.press('ArrowLeft'));
    report(table, 'step', [...forwards, ...backwards], 16);
    let seed = 7;
    const seek = async (): Promise<void> => {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      await page.getByTestId('frame-number').fill(`${seed % 300}`);
      await page.keyboard.press('Enter');
    };
    report(table, 'random seek', await times(page, 60, seek), 40);
    await page.keyboard.press('Space');
    await pause(1000);
    const rate = await page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          const shown = document.querySelector('[data-testid=shown-frame]') as HTMLElement;
          let count = 0;
          const watch = new MutationObserver(() => count++);
          watch.observe(shown, { attributes: true, attributeFilter: ['data-frame'] });
          setTimeout(() => {
            watch.disconnect();
            resolve(count / 5);
          }, 5000);
        }),
    );
    addRow(table, 'playing', `${rate.toFixed(1)} frames/s`, '', '', '24 frames/s');
    await page.keyboard.press('Space');
    await server.importTracks(id, wandering(300, 100, { width: 1920, height: 1080 }));
    await page.waitForFunction(() => document.querySelectorAll('[data-testid=lane]').length > 3);
    await page.keyboard.press('Control+a');
    await pause(1500);
    const shown = await perFrame(page, () => page.keyboard.press('Space'));
    const per = ['what', 'script', 'whole main thread', 'frames/s', 'must'];
    const crowd = beginTable('viewer', '100 tracks, lanes open, while playing: a frame on the page', per);
    addRow(
      crowd,
      'playing',
      `${shown.script.toFixed(1)} ms`,
      `${shown.task.toFixed(1)} ms`,
      shown.rate.toFixed(1),
      '16 ms of script',
    );
    await page.keyboard.press('Space');
    await page.keyboard.press('Control+a');
    return [table, crowd, await longClip(server, projectId, page)];
  } finally {
    await browser.close();
    await server.stop();
  }
}

const longFrames = 10_000;

/** Lanes and curves of a clip of 10,000 frames with 100 tracks. */
async function longClip(server: LiveServer, projectId: string, page: Page): Promise<Table> {
  const columns = ['what', 'script', 'whole main thread', 'longest task', 'goal'];
  const table = beginTable('viewer', `${longFrames} frames, 100 tracks: a step of the wheel`, columns);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-long-lanes-'));
  try {
    const path = join(folder, 'long.mp4');
    const encode = [
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-crf',
      '30',
      '-g',
      '50',
      '-pix_fmt',
      'yuv420p',
    ];
    await makeStripClip({ path, frames: longFrames, encode });
    const { id } = (await server.upload(projectId, path)).body;
    await server.read(id);
    for (let from = 0; from < 100; from += 20)
      await server.importTracks(id, wandering(longFrames, 20, { width: 320, height: 180 }, from));
    await page.goto(`${server.address}/projects/${projectId}/clips/${id}`);
    await page.waitForFunction(() => document.querySelectorAll('[data-testid=lane]').length > 3);
    await pause(9000);
    const row = (what: string, { script, task, longest }: Steps): void =>
      addRow(
        table,
        what,
        `${script.toFixed(1)} ms`,
        `${task.toFixed(1)} ms`,
        `${longest.toFixed(0)} ms`,
        '16 ms',
      );
    row('zooming time in the lanes', await wheelSteps(page, 'lanes', 'Control'));
    row('moving along time', await wheelSteps(page, 'lanes', 'Shift'));
    row('scrolling the lanes', await wheelSteps(page, 'lanes', null));
    await page.keyboard.press('Shift+Digit2');
    await page.keyboard.press('Control+a');
    await pause(2000);
    row('zooming time in the curves of all', await wheelSteps(page, 'curves', null));
    return table;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Tracks that wander about the picture, found on every frame, as a lurn-tracks file. */
function wandering(
  frames: number,
  count: number,
  { width, height }: { width: number; height: number },
  from = 0,
): string {
  const tracks = Array.from({ length: count }, (_, n): NamedTrack => {
    const i = from + n;
    const samples = new Samples(frames);
    for (let k = 0; k < frames; k++)
      samples.set(k, {
        x: width * (0.1 + 0.08 * (i % 10)) + 40 * Math.sin(k / 9 + i),
        y: height * (0.1 + 0.08 * Math.floor(i / 10)) + 30 * Math.cos(k / 11 + i),
        rotation: 0,
        scale: 1,
        confidence: 0.5 + 0.5 * Math.abs(Math.sin(k / 20 + i)),
        state: k === 0 ? SampleState.placed : SampleState.tracked,
      });
    return { name: `Point ${i + 1}`, samples };
  });
  const clip = {
    name: 'quay.mp4',
    width,
    height,
    frames,
    frameRate: { numerator: 30000, denominator: 1001 },
  };
  return writeTracksJson(clip, tracks);
}

/** Time of the page's main thread, milliseconds, as the browser counts it. */
async function spent(session: CDPSession): Promise<{ script: number; task: number }> {
  const { metrics } = await session.send('Performance.getMetrics');
  const of = (name: string): number => 1000 * (metrics.find((m) => m.name === name)?.value ?? 0);
  return { script: of('ScriptDuration'), task: of('TaskDuration') };
}

/** Begins to play, and tells what each frame that is shown takes of the page's main thread. */
async function perFrame(
  page: Page,
  play: () => Promise<void>,
): Promise<{ script: number; task: number; rate: number }> {
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  await play();
  await pause(1500);
  const before = await spent(session);
  const seconds = 5;
  const count = await page.evaluate(
    (length) =>
      new Promise<number>((resolve) => {
        let frames = 0;
        const watch = new MutationObserver(() => frames++);
        const shown = document.querySelector('[data-testid=shown-frame]') as HTMLElement;
        watch.observe(shown, { attributes: true, attributeFilter: ['data-frame'] });
        setTimeout(() => resolve(frames), 1000 * length);
      }),
    seconds,
  );
  const after = await spent(session);
  return {
    script: (after.script - before.script) / count,
    task: (after.task - before.task) / count,
    rate: count / seconds,
  };
}

interface Steps {
  /** Of the page's main thread, a step, milliseconds. */
  script: number;
  task: number;
  /** The longest that it was busy without a break. */
  longest: number;
}

/** What a step of the wheel takes, over the lanes or the curves, with a key held or none. */
async function wheelSteps(
  page: Page,
  over: 'lanes' | 'curves',
  held: 'Control' | 'Shift' | null,
): Promise<Steps> {
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  const box = await page.getByTestId(over).boundingBox();
  if (!box) throw new Error(`There are no ${over}.`);
  await page.mouse.move(box.x + box.width / 2, box.y + 60);
  if (held) await page.keyboard.down(held);
  await page.evaluate(() => {
    const tasks: number[] = [];
    Object.assign(window, { longTasks: tasks });
    new PerformanceObserver((list) => tasks.push(...list.getEntries().map((e) => e.duration))).observe({
      type: 'longtask',
    });
  });
  const before = await spent(session);
  const steps = 60;
  for (let i = 0; i < steps; i++) {
    await page.mouse.wheel(0, i < steps / 2 ? -60 : 60);
    await pause(16);
  }
  await pause(300);
  const after = await spent(session);
  const longest = await page.evaluate(() =>
    Math.max(0, ...(window as unknown as { longTasks: number[] }).longTasks),
  );
  if (held) await page.keyboard.up(held);
  return {
    script: (after.script - before.script) / steps,
    task: (after.task - before.task) / steps,
    longest,
  };
}

/** From asking to drawn, as the stage's worker measures it, in milliseconds. */
async function times(page: Page, count: number, ask: () => Promise<void>): Promise<number[]> {
  const shown = page.getByTestId('shown-frame');
  const found: number[] = [];
  for (let i = 0; i < count; i++) {
    const before = await shown.getAttribute('data-frame');
    await ask();
    await page
      .waitForFunction(
        (b) => document.querySelector<HTMLElement>('[data-testid=shown-frame]')?.dataset.frame !== b,
        before,
        { timeout: 1000 },
      )
      .then(async () => found.push(Number(await shown.getAttribute('data-milliseconds'))))
      // The same frame asked for twice changes nothing.
      .catch(() => undefined);
  }
  return found.sort((a, b) => a - b);
}

function report(table: Table, name: string, sorted: number[], goal: number): void {
  const values = [...sorted].sort((a, b) => a - b);
  const at = (share: number): string =>
    values[Math.min(values.length - 1, Math.floor(share * values.length))].toFixed(1);
  addRow(table, name, `${at(0.5)} ms`, `${at(0.95)} ms`, `${at(1)} ms`, `${goal} ms`);
}
