import { mkdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import type { ProjectView } from '@lurn/contract';
import { startFfmpeg } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded } from '../editor';

const size = { width: 640, height: 360 };

test('a project is made, a clip comes in, and what is no video is said in a sentence', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('Name of a new project').fill('Rooms');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByText('Drop clips here')).toBeVisible();
  const words = test.info().outputPath('words.mp4');
  await writeFile(words, 'only words');
  await page.getByTestId('file-picker').setInputFiles(words);
  await expect(page.getByText('"words.mp4" is not a video that can be read.')).toBeVisible();
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 60, ...size, position: (k) => ({ x: k, y: 0 }) });
  await page.getByTestId('file-picker').setInputFiles(path);
  await expect(
    page.getByTestId('clip-card').getByRole('link', { name: 'crossing.mp4', exact: true }),
  ).toBeVisible({ timeout: 30_000 });
  const more = page.getByRole('button', { name: 'More about crossing.mp4' });
  await more.click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByTestId('clip-card')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('clip-card')).toHaveCount(1);
  await more.click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the clip').fill('The crossing');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'The crossing' })).toBeVisible();
  await page.getByLabel('Search clips').fill('quay');
  await expect(page.getByText('No clip is called “quay”.')).toBeVisible();
});

test('an upload goes on by itself after a reload, and the clip can be looked at while it is read', async ({
  page,
}) => {
  const projectId = await newProject(page, 'Reload');
  const path = test.info().outputPath('long crossing.avi');
  const encode = ['-c:v', 'mjpeg', '-q:v', '2', '-pix_fmt', 'yuvj420p'];
  await makeStripClip({ path, frames: 1000, ...size, encode });
  await page.goto(`/projects/${projectId}`);
  // A slow line, so that there is a middle to break off in.
  const line = await page.context().newCDPSession(page);
  const slow = { offline: false, latency: 5, downloadThroughput: -1, uploadThroughput: 4e6 };
  await line.send('Network.enable');
  await line.send('Network.emulateNetworkConditions', slow);
  await page.getByTestId('file-picker').setInputFiles(path);
  const done = async (): Promise<number> => {
    const [upload] = (await (await page.request.get(`/api/projects/${projectId}/uploads`)).json()) as {
      done: number;
    }[];
    return upload?.done ?? 0;
  };
  await expect.poll(done).toBeGreaterThan(3e6);
  await page.reload();
  const kept = await done();
  expect(kept).toBeGreaterThan(3e6);
  await expect(page.getByTestId('uploading')).toBeVisible();
  await line.send('Network.emulateNetworkConditions', { ...slow, uploadThroughput: -1 });
  await page.getByRole('link', { name: 'Open long crossing.avi' }).click();
  const arrived = Date.now();
  await expect(page.getByTestId('early-picture')).toBeVisible({ timeout: 3000 });
  expect(Date.now() - arrived).toBeLessThan(3000);
  // The slider goes as far as the frames that are read.
  const slider = page.getByLabel('Frame');
  await expect.poll(async () => Number(await slider.getAttribute('max'))).toBeGreaterThanOrEqual(5);
  await slider.fill('5');
  await expect(page.getByTestId('early-picture')).toHaveAttribute('data-frame', '5');
  // Once all frames are there the editor opens by itself.
  await expect(page.getByTestId('shown-frame')).not.toHaveAttribute('data-frame', '-1', { timeout: 60_000 });
});

test('pictures dropped together become one clip at the rate asked for, a reload in between', async ({
  page,
}) => {
  const film = test.info().outputPath('film.mp4');
  await makeStripClip({ path: film, frames: 9, ...size });
  await startFfmpeg(['-i', film, '-y', test.info().outputPath('shot_%03d.png')]).done;
  const files = Array.from({ length: 9 }, (_, i) => test.info().outputPath(`shot_00${i + 1}.png`));
  const projectId = await newProject(page, 'Pictures');
  await page.goto(`/projects/${projectId}`);
  await page.getByTestId('file-picker').setInputFiles(files);
  const dialog = page.getByRole('dialog', { name: 'Pictures in a row' });
  await expect(dialog).toContainText('9 pictures');
  await dialog.getByLabel('Pictures a second').fill('often');
  await expect(dialog.getByRole('button', { name: 'Make a clip' })).toBeDisabled();
  await dialog.getByLabel('Pictures a second').fill('24000/1001');
  const line = await page.context().newCDPSession(page);
  const slow = { offline: false, latency: 5, downloadThroughput: -1, uploadThroughput: 4e5 };
  await line.send('Network.enable');
  await line.send('Network.emulateNetworkConditions', slow);
  let arrived = 0;
  page.on('response', (response) => {
    if (response.request().method() === 'PATCH' && response.ok()) arrived++;
  });
  await dialog.getByRole('button', { name: 'Make a clip' }).click();
  await expect.poll(() => arrived).toBeGreaterThan(1);
  await page.reload();
  expect(arrived).toBeLessThan(9);
  await expect(page.getByTestId('uploading')).toBeVisible();
  await line.send('Network.emulateNetworkConditions', { ...slow, uploadThroughput: -1 });
  const card = page.getByTestId('clip-card');
  await expect(card.getByRole('heading', { name: 'shot' })).toBeVisible({ timeout: 30_000 });
  await expect(card).toContainText('23.976/s');
  const frames = async (): Promise<number[]> => {
    const { clips } = (await (await page.request.get(`/api/projects/${projectId}`)).json()) as ProjectView;
    return clips.map((clip) => clip.frames);
  };
  await expect.poll(frames, { timeout: 30_000 }).toEqual([9]);
});

test('a project is saved to a file and opened again', async ({ page }) => {
  // Of its own: runs before may have left theirs.
  const name = `Kept ${Date.now()}`;
  const projectId = await newProject(page, name);
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 30, ...size, position: (k) => ({ x: k, y: 0 }) });
  const editor = await openUploaded(page, projectId, path);
  await editor.place(300, 200);
  await editor.saved();
  await page.goto('/');
  const row = page.getByTestId('project-row').filter({ hasText: name });
  await row.getByRole('button', { name: `More about ${name}`, exact: true }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Save with its media' }).click();
  const file = test.info().outputPath('Kept.lurn.zip');
  await (await download).saveAs(file);
  await row.getByRole('button', { name: `More about ${name}`, exact: true }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the project').fill(`Before ${name}`);
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('project-row').filter({ hasText: `Before ${name}` })).toBeVisible();
  await page.getByTestId('project-picker').setInputFiles(file);
  await page.getByRole('link', { name: `${name} 1 clip`, exact: true }).click();
  await page.getByRole('link', { name: 'crossing.mp4', exact: true }).click();
  await expect(page.getByTestId('track-row')).toHaveCount(1, { timeout: 30_000 });
});

test('a video is opened where it lies; gone and back again, the page says so by itself', async ({ page }) => {
  const shelf = fileURLToPath(new URL('../../test-results/shelf/day 1', import.meta.url));
  await mkdir(shelf, { recursive: true });
  const path = join(shelf, 'crossing.mp4');
  await makeStripClip({ path, frames: 30, ...size });
  await page.goto(`/projects/${await newProject(page, 'Shelf')}`);
  await page.getByRole('button', { name: 'Open where it lies' }).click();
  const dialog = page.getByRole('dialog', { name: 'Open where it lies' });
  await dialog.getByRole('button', { name: 'day 1' }).click();
  await dialog.getByRole('button', { name: /crossing.mp4/ }).click();
  await expect(dialog).toContainText('taken in');
  await dialog.getByRole('button', { name: 'Done' }).click();
  const card = page.getByTestId('clip-card');
  await expect(card).toContainText(`Stays in ${path}`);
  await expect(card.getByRole('link', { name: 'crossing.mp4', exact: true })).toBeVisible();
  await expect(card).toContainText('0:01.20', { timeout: 30_000 });
  await rename(path, `${path}.away`);
  await expect(card.getByTestId('clip-trouble')).toContainText('is not at', { timeout: 15_000 });
  await rename(`${path}.away`, path);
  await expect(card.getByTestId('clip-trouble')).toHaveCount(0, { timeout: 15_000 });
});

test('two windows see each other’s edits; what would be written over waits for a choice', async ({
  page,
  context,
}) => {
  const projectId = await newProject(page, 'Two windows');
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 30, ...size, position: (k) => ({ x: k, y: 0 }) });
  const editor = await openUploaded(page, projectId, path);
  await editor.place(300, 200);
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(second.getByTestId('track-row')).toHaveCount(1);
  const rename = async (window: typeof page, from: string, to: string): Promise<void> => {
    const row = window.getByTestId('track-row');
    await row.getByRole('button', { name: from, exact: true }).dblclick();
    await window.getByLabel('Name of the track').fill(to);
    await window.keyboard.press('Enter');
  };
  await rename(page, 'Point 1', 'Rail');
  await expect(second.getByTestId('track-row')).toContainText('Rail');

  // The second window loses its line, both rename; what was made meanwhile is sent, and clashes.
  await context.setOffline(false);
  const line = await context.newCDPSession(second);
  const network = { offline: true, latency: 0, downloadThroughput: -1, uploadThroughput: -1 };
  await line.send('Network.enable');
  await line.send('Network.emulateNetworkConditions', network);
  await rename(second, 'Rail', 'Post');
  await expect(second.getByTestId('save-state')).toContainText('No connection');
  await rename(page, 'Rail', 'Crane');
  await editor.saved();
  await line.send('Network.emulateNetworkConditions', { ...network, offline: false });
  const choice = second.getByRole('dialog', { name: 'Changed in another window' });
  await expect(choice).toContainText('Rename track', { timeout: 30_000 });
  // Nothing but an answer closes it.
  await second.keyboard.press('Escape');
  await second.keyboard.press('Escape');
  await expect(choice).toBeVisible();
  await expect(page.getByTestId('track-row')).toContainText('Crane');
  await choice.getByRole('button', { name: 'Use mine' }).click();
  await expect(page.getByTestId('track-row')).toContainText('Post');
  await expect(second.getByTestId('save-state')).toHaveText('Saved');
});

test('tracks are renamed, left out, hidden, locked, deleted; every step can be undone', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({
    path,
    frames: 60,
    ...size,
    position: (k) => ({ x: 0.7 * k, y: 4 * Math.sin(k / 6) }),
  });
  const editor = await openUploaded(page, await newProject(page, 'Tracks'), path);
  const exports = async (can: boolean): Promise<void> => {
    await editor.step('Export');
    const button = page.getByRole('button', { name: 'Export movie' });
    await (can ? expect(button).toBeEnabled() : expect(button).toBeDisabled());
    await editor.step('Follow');
  };
  await exports(false);
  const row = page.getByTestId('track-row');
  // What is taken back while it is still on its way is taken back as well.
  const slowly = '**/api/clips/*/tracks';
  await page.route(slowly, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 400));
    await route.continue();
  });
  const at = await editor.onScreen(300, 200);
  await page.keyboard.press('p');
  await page.mouse.click(at.x, at.y);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Redo' })).toBeEnabled();
  await expect(row).toHaveCount(0);
  await page.unroute(slowly);
  await page.keyboard.press('Escape');

  // On a Mac the same key is another.
  const mac = await page.context().newPage();
  await mac.addInitScript(() => Object.defineProperty(navigator, 'platform', { get: () => 'MacIntel' }));
  await mac.goto(page.url());
  await expect(mac.getByRole('button', { name: 'Redo' })).toBeEnabled();
  await mac.keyboard.press('Meta+Shift+Z');
  await expect(mac.getByTestId('track-row')).toHaveCount(1);
  await mac.keyboard.press('Meta+z');
  await expect(mac.getByTestId('track-row')).toHaveCount(0);
  await expect(mac.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /undo/);
  await expect(mac.getByRole('button', { name: 'Redo' })).toHaveAttribute('title', /⌘ Shift Z/);
  await mac.close();
  await page.bringToFront();

  await editor.place(300, 200);
  await editor.follow(']');
  await row.getByRole('button', { name: 'Point 1', exact: true }).dblclick();
  await page.getByLabel('Name of the track').fill('Rail');
  await page.keyboard.press('Enter');
  await expect(row).toContainText('Rail');

  // The boxes' handles: half the distance from the middle, both sides at once.
  const box = await editor.box.boundingBox();
  const handle = await page.getByTestId('handle-template-1-1').boundingBox();
  if (!box || !handle) throw new Error('There is no box.');
  await page.mouse.move(handle.x + 4, handle.y + 4);
  await page.mouse.down();
  await page.mouse.move(handle.x + 24, handle.y + 14, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await editor.box.boundingBox())?.width ?? 0).toBeGreaterThan(box.width + 30);
  await editor.saved();

  await row.getByRole('button', { name: 'Hide' }).click();
  await expect(page.getByTestId('track-box')).toHaveCount(0);
  await row.getByRole('button', { name: 'Show' }).click();
  await row.getByRole('button', { name: 'Lock' }).click();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.locator('[data-testid=track-box][data-state=placed]')).toHaveCount(1);
  await row.getByRole('button', { name: 'Unlock' }).click();
  await row.getByRole('button', { name: 'Leave out of the motion' }).click();
  await exports(false);
  await row.getByRole('button', { name: 'Delete Rail' }).click();
  await expect(row).toHaveCount(0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z');
  await expect(row).toContainText('Point 1');
  await exports(true);
  await page.keyboard.press('Control+Shift+Z');
  await expect(row).toContainText('Rail');
});

test('sliders are followed at once, stored, and are one step of undo each', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 60, ...size, position: (k) => ({ x: 2 * k, y: 4 * Math.sin(k / 3) }) });
  const editor = await openUploaded(page, await newProject(page, 'Sliders'), path);
  await editor.place(300, 200);
  await editor.follow(']');
  await editor.step('Steady');
  await page.getByRole('radio', { name: 'Smooth' }).click();
  const slider = page.getByRole('slider', { name: 'Smoothing in seconds' });
  await slider.fill('0.7');
  const text = await slider.getAttribute('aria-valuetext');
  expect(text).toBe('2.45 seconds');
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute(
    'title',
    'Undo: Smoothing (Ctrl Z)',
  );
  await page.reload();
  await expect(slider).toHaveAttribute('aria-valuetext', text ?? '');
  await expect(page.getByRole('radio', { name: 'Smooth' })).toHaveAttribute('aria-checked', 'true');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('radio', { name: 'Hold' })).toHaveAttribute('aria-checked', 'true');

  // The steadiest path that the zoom leaves room for: the whole trade is shown, and dragged along.
  await page.getByRole('radio', { name: 'Smooth' }).click();
  await page.getByRole('radio', { name: 'Composed' }).click();
  const trade = page.getByTestId('trade');
  const box = await trade.boundingBox();
  if (!box) throw new Error('There is no chart.');
  const shake = async (): Promise<number> =>
    Number(/shake of ([\d.]+)/.exec((await trade.getAttribute('aria-valuetext')) ?? '')?.[1] ?? NaN);
  const at = async (share: number): Promise<number> => {
    await page.mouse.move(box.x + share * box.width, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.up();
    await expect.poll(shake).not.toBeNaN();
    return shake();
  };
  const little = await at(0.16);
  await expect(page.getByTestId('framing-says')).toContainText('No bare edge in the range');
  await expect.poll(() => at(0.6)).toBeLessThan(0.7 * little + 0.01);
  await expect(page.getByTestId('framing-says')).toContainText('No bare edge in the range');
  await trade.press('ArrowRight');
  await page.getByRole('button', { name: 'How much of each' }).click();
  await page.getByRole('slider', { name: 'How much of y is taken out' }).fill('0.4');
  await editor.saved();
  const { steady } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as {
    steady: { kind: string; strength: { y: number }; framing: { zoom: number } };
  };
  expect([steady.kind, steady.strength.y]).toEqual(['composed', 0.4]);
  expect(steady.framing.zoom).toBeGreaterThan(1.15);
});

test('the list of keys opens on ?, and an address that leads nowhere says so', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 10, ...size });
  await openUploaded(page, await newProject(page, 'Keys'), path);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Follow forwards');
  await page.goto('/projects/none');
  await expect(page.getByRole('alert')).toHaveText(/no such project/);
  await page.goto('/projects/none/clips/none');
  await expect(page.getByRole('alert')).toHaveText(/no such clip/);
  await page.goto('/nowhere');
  await expect(page.getByRole('alert')).toContainText('nothing at this address');
});
