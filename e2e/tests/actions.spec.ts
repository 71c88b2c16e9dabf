import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded, type Editor } from '../editor';

const size = { width: 640, height: 360 };

async function openMoving(page: Page, name: string): Promise<Editor> {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames: 40, ...size, position: (k) => ({ x: k, y: 0 }), sound: 1.6 });
  return openUploaded(page, await newProject(page, name), path);
}

/** Opens the palette, where it is not open yet, and types. */
async function find(page: Page, text: string): Promise<void> {
  const field = page.getByPlaceholder(/What do you want/);
  await expect(async () => {
    // A dialogue that the action before has opened has the keys until it is closed.
    if (!(await field.isVisible())) {
      if ((await page.locator('dialog[open]').count()) > 0) await page.keyboard.press('Escape');
      await page.keyboard.press('Control+k');
      await expect(field).toBeVisible({ timeout: 400 });
    }
    // What the action before has begun may close it again.
    await field.fill(text, { timeout: 1000 });
    await expect(field).toHaveValue(text, { timeout: 400 });
  }).toPass({ timeout: 15_000 });
}

test('every action is reached by the palette, with keys alone', async ({ page }) => {
  test.setTimeout(240_000);
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('download', (download) => void download.cancel());
  const editor = await openMoving(page, 'Palette');
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  const row = page.getByTestId('track-row');

  // What one wants of it is enough; what cannot be done says why, and is not run.
  await find(page, 'black edges');
  const hide = page.locator('[data-action=hide-edges]');
  await expect(hide).toContainText('Find the camera’s motion or follow a point first.');
  await expect(hide).toHaveAttribute('aria-disabled', 'true');
  await page.keyboard.press('Escape');

  // A point is placed, moved and followed without the mouse.
  const choose = async (text: string): Promise<void> => {
    await find(page, text);
    await page.keyboard.press('Enter');
    await expect(page.getByPlaceholder(/What do you want/)).toBeHidden();
  };
  await choose('place a point');
  await page.waitForTimeout(150);
  await page.keyboard.press('Enter');
  await expect(row).toHaveCount(1);
  await choose('mend by hand');
  await page.waitForTimeout(150);
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Alt+ArrowUp');
  await editor.saved();
  const [{ samples }] = await editor.tracks();
  expect([samples[0].x, samples[0].y]).toEqual([size.width / 2 - 10, size.height / 2 - 0.1]);
  await page.keyboard.press('Escape');
  await choose('follow both');
  await expect(page.getByTestId('following')).toBeHidden({ timeout: 60_000 });
  await expect.poll(async () => (await editor.tracks())[0].samples.length).toBe(40);

  // All of them, one after another: found by its own name, first in the list, and run by Enter where it can be.
  await page.keyboard.press('Control+k');
  const all = await page.locator('[data-action]').evaluateAll((items) =>
    items.map((item) => ({
      id: (item as HTMLElement).dataset.action ?? '',
      label: item.querySelector('span:nth-child(2)')?.firstChild?.textContent ?? '',
    })),
  );
  await page.keyboard.press('Escape');
  expect(all.length).toBeGreaterThan(80);
  expect(new Set(all.map(({ label }) => label)).size).toBe(all.length);
  // Those that end the test come by themselves, below; following takes its time.
  const apart = ['clips', 'delete', 'find-and-follow', 'find-motion', 'suggest', 'export'];
  let ran = 0;
  for (const { id, label } of all.filter((one) => !apart.includes(one.id))) {
    await find(page, label);
    const item = page.locator(`[data-action="${id}"]`);
    await expect(item).toBeVisible();
    if ((await item.getAttribute('aria-disabled')) === 'true') {
      await expect(item).toHaveText(/\. ?|!/);
    } else {
      await expect(page.locator('[cmdk-item][data-selected=true]')).toHaveAttribute('data-action', id);
      await page.keyboard.press('Enter');
      await expect(page.getByPlaceholder(/What do you want/)).toBeHidden();
      ran++;
    }
    expect([id, errors]).toEqual([id, []]);
  }
  await page.keyboard.press('Escape');
  expect(ran).toBeGreaterThan(60);
  await expect(page.getByTestId('following')).toBeHidden({ timeout: 60_000 });
  await editor.saved();
  await page.keyboard.press('Escape');
  await choose('delete the chosen');
  await choose('back to the clips');
  await expect(page.getByTestId('clip-card')).toHaveCount(1);
  expect(errors).toEqual([]);
});

test('keys are looked up and changed; what stands for two things is said; changed keys are kept', async ({
  page,
}) => {
  const editor = await openMoving(page, 'Keys');
  await page.keyboard.press('Control+,');
  const dialog = page.getByRole('dialog', { name: 'Preferences' });
  // As it comes, no key stands for two things.
  await expect(dialog.getByTestId('key-row').first()).toBeVisible();
  await expect(dialog.getByRole('alert')).toHaveCount(0);
  await dialog.getByLabel('Look an action up').fill('steadied alone');
  const key = dialog.getByRole('button', { name: 'Key of Steadied alone' });
  await expect(key).toHaveText('3');
  await key.click();
  await page.keyboard.press('r');
  await expect(dialog.getByRole('alert')).toHaveText('Also “Take this frame as reference”');
  await key.click();
  await page.keyboard.press('Alt+q');
  await expect(dialog.getByRole('alert')).toHaveCount(0);
  await dialog.getByRole('radio', { name: 'Always' }).check();
  await dialog.getByLabel('Template box').fill('31');
  await page.keyboard.press('Enter');
  await dialog.getByLabel('What new points do below their threshold').selectOption('bridge');
  await dialog.getByRole('button', { name: 'Close' }).first().click();
  await page.reload();
  await expect(page.getByTestId('shown-frame')).not.toHaveAttribute('data-frame', '-1');
  await page.keyboard.press('Alt+q');
  await expect(page.getByRole('button', { name: 'Steadied', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.keyboard.press('1');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Alt Q');
  await page.keyboard.press('Escape');
  // New points have the boxes and the way that are preferred.
  await editor.place(300, 200);
  const { tracks } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as {
    tracks: { template: object; below: string }[];
  };
  expect(tracks[0]).toMatchObject({ template: { width: 31, height: 31 }, below: 'bridge' });
});

test('no screen has a serious fault for those who cannot see or point, light and dark', async ({ page }) => {
  test.setTimeout(240_000);
  const editor = await openMoving(page, 'Access');
  const address = page.url();
  await editor.place(300, 200);
  await editor.follow(']');
  await editor.step('Dress');
  await page.getByRole('button', { name: 'Colour', exact: true }).click();
  await editor.step('Follow');
  await page.getByRole('button', { name: 'Suggest' }).click();
  const check = async (screen: string): Promise<void> => {
    const axe = new AxeBuilder({ page });
    // By day nothing but the colours is other than by night.
    const { violations } = await (
      screen.startsWith('light') ? axe.withRules(['color-contrast']) : axe
    ).analyze();
    const serious = violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(
        ({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 160)} ${nodes[0].failureSummary?.slice(0, 200)}`,
      );
    expect([screen, serious]).toEqual([screen, []]);
  };
  for (const theme of ['dark', 'light']) {
    for (const step of ['Follow', 'Steady', 'Dress', 'Export'] as const) {
      await editor.step(step);
      await check(`${theme}, ${step}`);
    }
    await editor.step('Follow');
    for (const below of ['Curves', 'Tracks', 'Trouble', 'Lanes'] as const) {
      await editor.below(below);
      await check(`${theme}, ${below}`);
    }
    for (const [keys, name] of [
      ['Control+k', 'palette'],
      ['?', 'keys'],
      ['Control+,', 'preferences'],
    ]) {
      await page.keyboard.press(keys);
      await page.waitForTimeout(250);
      await check(`${theme}, ${name}`);
      await page.keyboard.press('Escape');
      await page.waitForTimeout(250);
    }
    await page.evaluate(() => {
      const data = new DataTransfer();
      data.setData('text', 'Nr;a;b\n1;2;3\n2;x;4\n');
      document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
    });
    await page.waitForTimeout(250);
    await check(`${theme}, tracks in`);
    await page.keyboard.press('Escape');
    await page.getByTestId('selected-box').click({ button: 'right' });
    await expect(page.getByRole('menuitem', { name: 'Ride on the track' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('menu')).toBeHidden();
    await page.getByTestId('lane').first().click({ button: 'right' });
    await expect(page.getByRole('menu')).toBeVisible();
    await check(`${theme}, menu`);
    await page.keyboard.press('Escape');
    for (const [path, name] of [
      [address.replace(/\/clips\/.*$/, ''), 'clips'],
      ['/', 'projects'],
      ['/nowhere', 'no such page'],
    ]) {
      await page.goto(path);
      await page.waitForTimeout(500);
      await check(`${theme}, ${name}`);
      if (name !== 'clips') continue;
      // Pictures ask for their rate; a card has a menu.
      const picture = { name: 'crossing 001.png', mimeType: 'image/png', buffer: Buffer.from('no picture') };
      await page.getByTestId('file-picker').setInputFiles(picture);
      await page.waitForTimeout(250);
      await check(`${theme}, pictures`);
      await page.keyboard.press('Escape');
      await page.getByRole('button', { name: /^More about/ }).click();
      await expect(page.getByRole('menu')).toBeVisible();
      await check(`${theme}, clip menu`);
      await page.keyboard.press('Escape');
    }
    await page.goto(address);
    await expect(page.getByTestId('shown-frame')).not.toHaveAttribute('data-frame', '-1');
    await page.getByRole('button', { name: 'Light or dark theme' }).click();
    await page.getByRole('button', { name: 'Suggest' }).click();
  }
});
