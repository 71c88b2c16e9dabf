import { expect, test, type Page } from '@playwright/test';
import { apply, type Mat3 } from '@lurn/core';
import { newProject, openUploaded, type Editor } from '../editor';
import { clipPath, rms, Truth } from '../truth';

interface MotionFile {
  frames: { frame: number; outputFromFrame: Mat3 }[];
}

/** How far a feature of the film wanders about in the steadied picture, RMS pixels, where it is seen. */
async function wandering(page: Page, editor: Editor, truth: Truth, feature: string): Promise<number> {
  const file = (await (
    await page.request.get(`/api/clips/${editor.clipId}/motion.json`)
  ).json()) as MotionFile;
  const seen = file.frames
    .filter(({ frame }) => truth.visible(feature, frame))
    .map(({ frame, outputFromFrame }) => {
      const { x, y } = truth.at(feature, frame);
      return apply(outputFromFrame, x, y);
    });
  const mean = (of: (p: { x: number; y: number }) => number): number =>
    seen.reduce((sum, p) => sum + of(p), 0) / seen.length;
  const [x, y] = [mean((p) => p.x), mean((p) => p.y)];
  return rms(seen.map((p) => Math.hypot(p.x - x, p.y - y)));
}

test('the camera’s motion is found by one press; a group, a depth, a place by hand are held', async ({
  page,
}) => {
  test.setTimeout(300_000);
  const truth = new Truth('quay');
  const editor = await openUploaded(page, await newProject(page, 'Scene'), clipPath('quay'));

  // What is offered first on a fresh clip. Stopped on the way, what was seen is kept.
  await page.getByRole('button', { name: 'Find the camera’s motion' }).click();
  const finding = page.getByTestId('finding-motion');
  await expect(finding.locator('progress')).not.toHaveAttribute('value', '0', { timeout: 60_000 });
  await finding.getByRole('button', { name: 'Stop' }).click();
  const rows = page.getByTestId('group-row');
  await expect(rows.first()).toBeVisible({ timeout: 60_000 });
  const stoppedAt = await page.getByTestId('shot-span').getAttribute('title');
  expect(stoppedAt).not.toContain('to 299');

  // Found anew, over all of it: what covers most is held, and stands still.
  await page.keyboard.press('f');
  await expect(page.getByTestId('shot-span')).toHaveAttribute('title', 'Shot 1: frames 0 to 299', {
    timeout: 120_000,
  });
  expect(await rows.count()).toBeGreaterThan(2);
  await expect(rows.first()).toHaveAttribute('aria-checked', 'true');
  await expect(rows.first()).toContainText('most of the picture');
  // The crane's plate was never placed: 0.25 px is what a point placed by hand is held to.
  expect(await wandering(page, editor, truth, 'plate')).toBeLessThan(0.25);

  // Pointing at a group in the list lights up its marks; a click on the picture holds it.
  const marks = page.getByTestId('group-mark-2');
  await rows.nth(1).hover();
  await expect(marks).toHaveAttribute('opacity', '1');
  await expect(page.getByTestId('group-mark-1')).toHaveAttribute('opacity', '0.3');
  await marks.locator('path').first().dispatchEvent('pointerdown');
  await expect(rows.nth(1)).toHaveAttribute('aria-checked', 'true');
  await editor.saved();
  expect(await wandering(page, editor, truth, 'plate')).toBeGreaterThan(20);

  // Any depth: dragged back to the first group's, the crane stands still again.
  const depth = page.getByRole('slider', { name: 'Depth that is held' });
  await depth.fill('0');
  await expect(page.getByTestId('depth')).toContainText('by hand');
  await editor.saved();
  await expect.poll(() => wandering(page, editor, truth, 'plate')).toBeLessThan(1);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(rows.first()).toHaveAttribute('aria-checked', 'true');

  // A place by hand goes on top, and a stretch is left as it is; both show in their lane.
  await editor.step('Steady');
  await page.getByRole('button', { name: 'By hand', exact: true }).click();
  await editor.go(0);
  await page.getByRole('button', { name: 'In the middle' }).click();
  await expect(page.getByTestId('hand-key')).toHaveCount(1);
  await editor.go(100);
  await page.keyboard.press('Shift+I');
  await editor.go(150);
  await page.keyboard.press('Shift+O');
  await page.getByRole('button', { name: 'Stretches', exact: true }).click();
  await page.getByTestId('stretches').getByRole('button', { name: 'Leave them' }).click();
  await expect(page.getByTestId('steady-lane')).toContainText('As it is');
  await editor.saved();
  expect(await wandering(page, editor, truth, 'plate')).toBeGreaterThan(2);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('steady-lane')).not.toContainText('As it is');
  await editor.saved();
  await expect.poll(() => wandering(page, editor, truth, 'plate')).toBeLessThan(0.25);
});
