// Takes the pictures in docs/screenshots from the demo data: npm run screenshots.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, openAsBlob, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { dressQuay, dressWindow, follow, places, steadyByScene } from './finish-clip.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const data = join(root, '.cache/screenshots');
const target = join(root, 'docs/screenshots');
const port = 4896;
const base = `http://127.0.0.1:${port}`;

for (const args of [
  ['scripts/build.mjs', '--if-needed'],
  ['demo/dist/main.js', 'demo/clips'],
]) {
  if (spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' }).status !== 0) process.exit(1);
}
rmSync(data, { recursive: true, force: true });
mkdirSync(target, { recursive: true });
const server = spawn(process.execPath, ['apps/server/dist/main.js'], {
  cwd: root,
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...process.env, LURN_DATA: data, LURN_PORT: `${port}`, LURN_LOG: 'warn' },
});
const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

async function call(method, path, body) {
  const headers = body && !(body instanceof FormData) ? { 'content-type': 'application/json' } : {};
  const response = await fetch(`${base}/api${path}`, {
    method,
    headers,
    body: body instanceof FormData ? body : body && JSON.stringify(body),
  });
  return response.json();
}

async function upload(projectId, name) {
  const form = new FormData();
  form.append('file', await openAsBlob(join(root, 'demo/clips', name)), name);
  const { id } = await call('POST', `/projects/${projectId}/clips`, form);
  for (;;) {
    const clip = await call('GET', `/clips/${id}`);
    if (clip.state === 'ready') return clip;
    await pause(200);
  }
}

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--enable-unsafe-swiftshader', '--disable-quic'],
});
try {
  while (
    !(await fetch(`${base}/api/health`).then(
      (r) => r.ok,
      () => false,
    ))
  )
    await pause(100);
  const project = await call('POST', '/projects', { name: 'The Withy Ferry' });
  const quay = await upload(project.id, 'quay.mp4');
  const lantern = await upload(project.id, 'lantern.mp4');
  await follow(call, quay.id, places('quay', 0, ['plate', 'crate']));
  await follow(call, lantern.id, places('lantern', 100, ['lantern band', 'lantern foot']));
  const crossing = await upload(project.id, 'crossing.mp4');
  await steadyByScene(call, crossing.id);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const shoot = (name) => page.screenshot({ path: join(target, `${name}.png`) });
  const open = async (clip, frame) => {
    await page.goto(`${base}/projects/${project.id}/clips/${clip.id}`);
    await page.waitForFunction(
      () => Number(document.querySelector('[data-testid=shown-frame]')?.dataset.frame) >= 0,
    );
    await page.getByTestId('frame-number').fill(`${frame}`);
    await page.keyboard.press('Enter');
    await page.waitForTimeout(900);
  };

  await page.goto(`${base}/`);
  await page.waitForTimeout(600);
  await shoot('projects');
  await page.goto(`${base}/projects/${project.id}`);
  await page.waitForTimeout(900);
  await shoot('clips');

  const step = (name) => page.getByRole('tab', { name, exact: false }).first().click();
  const below = step;

  await open(quay, 140);
  await step('Steady');
  await page.keyboard.press('e');
  await page.waitForTimeout(900);
  await shoot('hold');
  await page.getByRole('radio', { name: 'Smooth' }).click();
  await page.keyboard.press('e');
  await page.waitForTimeout(900);
  await shoot('smooth');
  await page.keyboard.press('?');
  await page.waitForTimeout(500);
  await shoot('keys');
  await page.keyboard.press('Escape');
  await page.locator('dialog[open]').waitFor({ state: 'hidden' });
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder(/What do you want/).fill('edges');
  await page.waitForTimeout(400);
  await shoot('palette');
  await page.keyboard.press('Escape');

  // From the ferry's deck: what moves alike, one of it pointed at; then stretches and keys.
  await open(crossing, 120);
  await step('Follow');
  await page.getByTestId('group-row').nth(1).hover();
  await page.waitForTimeout(900);
  await shoot('groups');
  await step('Steady');
  await page.getByRole('radio', { name: 'Even' }).click();
  await page.getByRole('button', { name: 'Stretches', exact: true }).click();
  await page.getByRole('button', { name: 'By hand', exact: true }).click();
  await page.keyboard.press('Home');
  await page.getByLabel('x px, by hand').fill('34');
  await page.getByLabel('x px, by hand').blur();
  for (let i = 0; i < 8; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+I');
  await page.getByLabel('x px, by hand').fill('-26');
  await page.getByLabel('x px, by hand').blur();
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+O');
  await page.waitForTimeout(300);
  await page.getByTestId('stretches').getByRole('button', { name: 'One pace' }).click();
  await page.keyboard.press('e');
  await page.waitForTimeout(1500);
  await shoot('by-hand');
  for (const name of ['By hand', 'Stretches']) await page.getByRole('button', { name, exact: true }).click();

  await open(lantern, 150);
  await step('Follow');
  await page.waitForTimeout(400);
  await shoot('subject');
  const box = await page.getByTestId('selected-box').boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 1, box.y + box.height / 2);
  await page.waitForSelector('[data-testid=loupe][data-ready=true]');
  await page.waitForTimeout(300);
  await shoot('loupe');
  await page.mouse.up();

  await page.keyboard.press('Control+z');
  await page.waitForTimeout(900);
  await follow(call, lantern.id, places('lantern', 40, ['ring']), {
    below: 'bridge',
    longestGap: 60,
    used: false,
  });
  await open(lantern, 128);
  await page.getByTestId('track-row').last().click();
  await page.getByRole('button', { name: 'How it is followed' }).click();
  await page.waitForTimeout(500);
  await shoot('following');
  await page.getByRole('button', { name: 'How it is followed' }).click();
  await page.keyboard.press('t');
  await page.waitForSelector('[data-testid=look-pair][data-ready=true]');
  await page.waitForTimeout(400);
  await shoot('trouble');
  await below('Curves');
  await page.waitForTimeout(500);
  await shoot('curves');
  await below('Lanes');

  // A table from elsewhere, its columns told.
  await page.evaluate(() => {
    const rows = Array.from({ length: 240 }, (_, k) =>
      [k + 1, (40 + 0.1 * k).toFixed(3), (60 + 8 * Math.sin(k / 30)).toFixed(3)].join(';'),
    );
    const data = new DataTransfer();
    data.setData('text', ['Nr;across;up', ...rows, '7;there;50'].join('\n'));
    document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  for (const [label, index] of [
    ['Column of Frame', 1],
    ['Column of x', 2],
    ['Column of y', 3],
  ])
    await page.getByLabel(label).selectOption({ index });
  await page.getByLabel('x and y are in').selectOption('percent');
  await page.getByLabel('y goes').selectOption('up');
  await page.getByLabel('The number its first frame has').fill('1');
  await page.waitForTimeout(700);
  await shoot('tracks-in');
  await page.keyboard.press('Escape');

  // As many as a person would let be suggested, within an area, followed and stepped through together.
  await open(quay, 60);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+Backspace');
  await page.waitForTimeout(500);
  await page.getByRole('button', { name: 'Suggest' }).click();
  await page.getByRole('button', { name: 'Look in…' }).click();
  const stage = await page.getByTestId('stage').boundingBox();
  const spot = (x, y) => [stage.x + x * 489, stage.y + y * 275];
  for (const [x, y, bendX, bendY] of [
    [0.1, 0.62, 0, 0],
    [0.3, 0.3, 0.1, -0.05],
    [0.75, 0.28, 0.08, 0.1],
    [0.9, 0.7, 0, 0],
  ]) {
    await page.mouse.move(...spot(x, y));
    await page.mouse.down();
    await page.mouse.move(...spot(x + bendX, y + bendY), { steps: 3 });
    await page.mouse.up();
  }
  await page.mouse.click(...spot(0.1, 0.62));
  await page.getByRole('spinbutton', { name: 'How many points' }).fill('40');
  await page.getByRole('button', { name: 'Find', exact: true }).click();
  await page.getByTestId('choice').waitFor();
  await page.keyboard.press('\\');
  await page.getByTestId('following').waitFor();
  await page.getByTestId('following').waitFor({ state: 'hidden', timeout: 60_000 });
  await below('Tracks');
  await page.waitForTimeout(900);
  await shoot('many');
  await below('Lanes');
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(500);
  }

  // A screen followed whole; then a film on it.
  const window = await upload(project.id, 'window.mp4');
  await dressWindow(call, window.id, quay.id);
  await open(window, 190);
  await step('Follow');
  await page.getByTestId('track-row').first().click();
  await page.getByRole('button', { name: 'Squares' }).click();
  await page.waitForTimeout(900);
  await shoot('region');
  await page.getByRole('button', { name: 'Squares' }).click();
  await open(window, 76);
  await step('Dress');
  await page
    .getByTestId('layer-row')
    .getByRole('button', { name: 'Film on the screen', exact: true })
    .click();
  await page.waitForTimeout(1200);
  await shoot('window');

  // The scratch under it, taken out in the held picture.
  await page.getByRole('button', { name: 'Hide Film on the screen' }).click();
  await open(window, 190);
  await step('Dress');
  await page.getByTestId('layer-row').getByRole('button', { name: 'Scratch taken out', exact: true }).click();
  await page.keyboard.press('7');
  await page.getByLabel('Squared up').check();
  await page
    .getByRole('list', { name: /Strokes/ })
    .getByRole('button')
    .first()
    .click();
  await page.getByTestId('chosen-stroke').first().waitFor();
  await page.getByTestId('round-trip').waitFor({ timeout: 20_000 });
  await page.waitForTimeout(1500);
  await shoot('repair');

  // Layers that ride on tracks, by day.
  await dressQuay(call, quay.id);
  await open(quay, 40);
  await step('Dress');
  await page.getByTestId('layer-row').getByRole('button', { name: 'Wheelhouse', exact: true }).click();
  await page.getByRole('button', { name: 'Light or dark theme' }).click();
  await page.waitForTimeout(1200);
  await shoot('dress');
} finally {
  await browser.close();
  server.kill('SIGTERM');
}
