import { spawn } from 'node:child_process';
import { openAsBlob } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));
const main = fileURLToPath(new URL('../../apps/server/dist/main.js', import.meta.url));
const port = 4895;
const base = `http://127.0.0.1:${port}`;

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Steps, seeks and playing in a real browser, software rendering, 1280×800. */
export async function benchViewer(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-viewer-'));
  const server = spawn(process.execPath, [main], {
    stdio: 'ignore',
    env: { ...process.env, LURN_DATA: folder, LURN_PORT: `${port}`, LURN_LOG: 'silent' },
  });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--enable-unsafe-swiftshader', '--disable-quic'],
  });
  try {
    const clip = await prepare();
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${base}/projects/${clip.projectId}/clips/${clip.id}`);
    await page.waitForFunction(
      () => Number(document.querySelector<HTMLElement>('[data-testid=shown-frame]')?.dataset.frame) >= 0,
    );
    await pause(1000);

    const forwards = await times(page, 100, () => page.keyboard.press('ArrowRight'));
    const backwards = await times(page, 80, () => page.keyboard.press('ArrowLeft'));
    report('step', [...forwards, ...backwards], 16);
    let seed = 7;
    const seek = async (): Promise<void> => {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      await page.getByTestId('frame-number').fill(`${seed % 300}`);
      await page.keyboard.press('Enter');
    };
    report('random seek', await times(page, 60, seek), 40);
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
    console.log(`both stages playing          ${rate.toFixed(1)} frames/s (goal 24)`);
  } finally {
    await browser.close();
    server.kill('SIGTERM');
    await new Promise((resolve) => server.once('exit', resolve));
    await rm(folder, { recursive: true, force: true });
  }
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

function report(name: string, sorted: number[], goal: number): void {
  const values = [...sorted].sort((a, b) => a - b);
  const at = (share: number): string =>
    values[Math.min(values.length - 1, Math.floor(share * values.length))].toFixed(1);
  console.log(
    `${name.padEnd(12)} median ${at(0.5)} ms, 95th percentile ${at(0.95)} ms (goal ${goal}), worst ${at(1)} ms`,
  );
}

async function prepare(): Promise<{ id: string; projectId: string }> {
  for (;;) {
    if (
      await fetch(`${base}/api/health`).then(
        (r) => r.ok,
        () => false,
      )
    )
      break;
    await pause(100);
  }
  const call = async (path: string, init?: RequestInit): Promise<Record<string, string>> =>
    (await fetch(`${base}/api${path}`, init)).json() as Promise<Record<string, string>>;
  const project = await call('/projects', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{"name":"Viewer"}',
  });
  const form = new FormData();
  form.append('file', await openAsBlob(quay), 'quay.mp4');
  const clip = await call(`/projects/${project.id}/clips`, { method: 'POST', body: form });
  while ((await call(`/clips/${clip.id}`)).state !== 'ready') await pause(200);
  return { id: clip.id, projectId: project.id };
}
