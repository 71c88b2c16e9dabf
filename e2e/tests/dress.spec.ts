import { expect, test } from '@playwright/test';
import type { ClipView } from '@lurn/contract';
import type { Layer } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded } from '../editor';
import { grayPicture } from '../movie';

const size = { width: 640, height: 360 };

test('outlines are drawn and keyed, a colour is taken from the picture, a matte looked at, layers put in order', async ({
  page,
}) => {
  const path = test.info().outputPath('passing.mp4');
  await makeStripClip({ path, frames: 30, ...size, position: (k) => ({ x: 2 * k, y: 0 }) });
  const editor = await openUploaded(page, await newProject(page, 'Dressing'), path);
  const layers = async (): Promise<Layer[]> =>
    ((await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as ClipView)
      .layers as unknown as Layer[];
  await editor.step('Dress');

  // A triangle more, by three clicks; Enter closes it. It is drawn where it was clicked.
  await page.getByRole('button', { name: 'Cover', exact: true }).click();
  await expect(page.getByTestId('layer-row')).toHaveCount(1);
  await page.getByRole('button', { name: 'Draw', exact: true }).click();
  const corners = [
    [60, 60],
    [160, 70],
    [90, 150],
  ];
  await editor.clickOn(corners);
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await layers())[0].shape.parts.length).toBe(2);
  const { knots } = (await layers())[0].shape.parts[1].spline;
  knots.forEach(({ x, y }, i) => expect(Math.hypot(x - corners[i][0], y - corners[i][1])).toBeLessThan(2));

  // Outlines keyed on two frames.
  await page.getByRole('button', { name: 'Key them here' }).click();
  await editor.go(20);
  await page.getByRole('button', { name: 'Key them here' }).click();
  await expect.poll(async () => (await layers())[0].shape.keys.map(({ frame }) => frame)).toEqual([0, 20]);

  // A colour of the picture holds a second layer out.
  await page.getByRole('button', { name: 'Colour', exact: true }).click();
  await expect(page.getByTestId('layer-row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Held out' }).click();
  await page.getByLabel('By a colour of the picture').check();
  await page.getByRole('button', { name: 'From the picture' }).click();
  const at = await editor.onScreen(320, 180);
  await page.mouse.click(at.x, at.y);
  // The strip has no colours: what was green is gray now.
  await expect
    .poll(async () => {
      const [r, g, b] = (await layers())[0].key?.colour ?? [0, 1, 0];
      return Math.max(r, g, b) - Math.min(r, g, b);
    })
    .toBeLessThan(0.1);
  // All of the strip is of that colour: nothing is left of the layer, and its matte is black.
  await page.getByLabel('Show what is left of it, as a matte').check();
  const light = async (): Promise<number> => {
    const shot = test.info().outputPath('matte.png');
    const corner = await editor.onScreen(0, 0);
    const end = await editor.onScreen(size.width, size.height);
    const clip = { x: corner.x, y: corner.y + 40, width: end.x - corner.x, height: end.y - corner.y - 40 };
    await page.screenshot({ path: shot, clip });
    const gray = await grayPicture(shot, { width: 64, height: 32 });
    return gray.reduce((sum, level) => sum + level, 0) / gray.length;
  };
  await expect.poll(light).toBeLessThan(20);
  await page.getByLabel('Show what is left of it, as a matte').uncheck();
  await expect.poll(light).toBeGreaterThan(40);

  // Turned and sized by the handle above: a quarter to the right, at half the length.
  const turn = page.getByTestId('layer-turn').first();
  const before = (await layers())[0].shape.parts[0].spline.knots;
  const grip = await turn.boundingBox();
  const middle = await page.getByTestId('layer-middle').first().boundingBox();
  if (!grip || !middle) throw new Error('There are no handles.');
  const [mx, my] = [middle.x + middle.width / 2, middle.y + middle.height / 2];
  const arm = my - (grip.y + grip.height / 2);
  await page.mouse.move(mx, my - arm);
  await page.mouse.down();
  await page.mouse.move(mx + arm / 2, my - arm / 2, { steps: 4 });
  await page.mouse.move(mx + arm / 2, my, { steps: 4 });
  await page.mouse.up();
  await expect
    .poll(async () => {
      const [a, b] = (await layers())[0].shape.parts[0].spline.knots;
      const [p, q] = before;
      const size = Math.hypot(b.x - a.x, b.y - a.y) / Math.hypot(q.x - p.x, q.y - p.y);
      return [Math.round(10 * size), Math.round((18 / Math.PI) * Math.atan2(b.y - a.y, b.x - a.x))];
    })
    .toEqual([5, 9]);

  // Layers are dragged in order; a still sits in what is about it.
  await page.getByTestId('layer-row').first().dragTo(page.getByTestId('layer-row').nth(1));
  await expect.poll(async () => (await layers()).map(({ name }) => name)).toEqual(['Cover', 'Colour']);
  await page.getByRole('button', { name: 'Still', exact: true }).click();
  await page.getByRole('button', { name: 'Sit in the picture' }).click();
  await page.getByRole('button', { name: /^Measure what/ }).click();
  await expect.poll(async () => (await layers())[0].match.white).toBeLessThan(1);
});
