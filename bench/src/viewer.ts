import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';
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
    return [table];
  } finally {
    await browser.close();
    await server.stop();
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

function report(table: Table, name: string, sorted: number[], goal: number): void {
  const values = [...sorted].sort((a, b) => a - b);
  const at = (share: number): string =>
    values[Math.min(values.length - 1, Math.floor(share * values.length))].toFixed(1);
  addRow(table, name, `${at(0.5)} ms`, `${at(0.95)} ms`, `${at(1)} ms`, `${goal} ms`);
}
