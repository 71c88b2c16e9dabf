import { writeFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded } from '../editor';

const size = { width: 640, height: 360 };

test('a project is made, a clip comes in, and what is no video is said in a sentence', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('Name of a new project').fill('Rooms');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByText('Drop a clip here')).toBeVisible();
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
  page.once('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: 'Delete crossing.mp4' }).click();
  await expect(page.getByTestId('clip-card')).toHaveCount(0);
});

test('tracks are renamed, left out, hidden, locked, deleted; every step can be undone', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({
    path,
    frames: 60,
    ...size,
    position: (k) => ({ x: 0.7 * k, y: 4 * Math.sin(k / 6) }),
  });
  const editor = await openUploaded(page, await newProject(page, 'Tracks'), path, size);
  await expect(page.getByRole('button', { name: 'Export movie' })).toBeDisabled();
  await editor.place(300, 200);
  await editor.follow(']');
  const row = page.getByTestId('track-row');
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
  await expect(page.getByRole('button', { name: 'Export movie' })).toBeDisabled();
  await row.getByRole('button', { name: 'Delete Rail' }).click();
  await expect(row).toHaveCount(0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z');
  await expect(row).toContainText('Point 1');
  await expect(page.getByRole('button', { name: 'Export movie' })).toBeEnabled();
  await page.keyboard.press('Control+Shift+Z');
  await expect(row).toContainText('Rail');
});

test('sliders are followed at once, stored, and are one step of undo each', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 60, ...size, position: (k) => ({ x: 2 * k, y: 4 * Math.sin(k / 3) }) });
  const editor = await openUploaded(page, await newProject(page, 'Sliders'), path, size);
  await editor.place(300, 200);
  await editor.follow(']');
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
});

test('the list of keys opens on ?, and an address that leads nowhere says so', async ({ page }) => {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 10, ...size });
  await openUploaded(page, await newProject(page, 'Keys'), path, size);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Follow forwards');
  await page.goto('/projects/none');
  await expect(page.getByRole('alert')).toHaveText(/no such project/);
  await page.goto('/projects/none/clips/none');
  await expect(page.getByRole('alert')).toHaveText(/no such clip/);
  await page.goto('/nowhere');
  await expect(page.getByRole('alert')).toContainText('nothing at this address');
});
