import { expect, test } from '@playwright/test';
import type { ClipView, TrackView } from '@lurn/contract';
import { cornersFromCentre, pageLength, Samples, type Point } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded } from '../editor';
import { grayPicture } from '../movie';

const size = { width: 640, height: 360 };
const frames = 24;

test('a region is drawn, followed, judged by squares, put right, and carries a picture in its quad', async ({
  page,
}) => {
  const path = test.info().outputPath('passing.mp4');
  // What is painted goes two pixels to the left a frame.
  await makeStripClip({ path, frames, ...size, position: (k) => ({ x: 2 * k, y: 0 }) });
  const editor = await openUploaded(page, await newProject(page, 'Regions'), path);
  const view = async (): Promise<ClipView> =>
    (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as ClipView;
  const region = async (): Promise<TrackView> => (await view()).tracks[0];
  const cornersOn = async (frame: number): Promise<Point[]> => {
    const { tracks, pages } = await view();
    const [{ id, region: drawn }] = tracks;
    const samples = new Samples(frames);
    const page0 = pages.find((one) => one.id === id && one.page === 0 && pageLength >= frames);
    if (page0?.bytes) samples.unpackPage(0, Buffer.from(page0.bytes, 'base64'));
    samples.corners = drawn && cornersFromCentre(drawn);
    return samples.cornersAt(frame);
  };

  await editor.go(0);
  await page.keyboard.press('q');
  const drawn = [
    [180, 90],
    [470, 80],
    [480, 270],
    [170, 280],
  ];
  await editor.clickOn(drawn);
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('track-row')).toHaveCount(1);
  const first = await region();
  expect([first.kind, first.shape, first.name]).toEqual(['region', 'perspective', 'Region 1']);

  await page.keyboard.press('\\');
  await page.getByTestId('following').waitFor({ state: 'hidden', timeout: 60_000 });
  const [start] = await cornersOn(0);
  await expect
    .poll(async () => {
      const [end] = await cornersOn(frames - 1);
      return Math.hypot(end.x - start.x - 2 * (frames - 1), end.y - start.y);
    })
    .toBeLessThan(0.5);

  // Squares stick to what is shown; what passes in front is drawn away.
  await page.getByRole('button', { name: 'Squares' }).click();
  await expect(page.getByTestId('quad-squares').first()).toBeVisible();
  await page.getByRole('button', { name: 'Hold out…' }).click();
  await editor.clickOn([
    [200, 120],
    [240, 120],
    [240, 160],
  ]);
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('hold-out-row')).toHaveCount(1);
  // Keyed by hand where it lies elsewhere.
  await page.getByRole('button', { name: 'Key held out 1 here' }).click();
  await editor.go(10);
  await page.getByRole('button', { name: 'Key held out 1 here' }).click();
  const keyed = async (): Promise<number[] | undefined> =>
    (await region()).region?.holdOuts[0].keys?.map(({ frame }) => frame);
  await expect.poll(keyed).toEqual([0, 10]);
  await page.getByRole('button', { name: 'Take the key of held out 1 here away' }).click();
  await expect.poll(keyed).toEqual([0]);
  await editor.go(0);

  // What is left out is looked for on the frame shown, and the quad stands beside its key's.
  await page.getByRole('button', { name: 'Left out' }).click();
  await expect(page.getByTestId('left-out-share')).toContainText('of it is left out on frame');
  await page.getByRole('button', { name: 'Beside its key' }).click();
  await expect(page.getByTestId('look-pair')).toHaveAttribute('data-ready', 'true');
  await page.getByRole('button', { name: 'Left out' }).click();
  await page.getByRole('button', { name: 'Beside its key' }).click();

  // Laying the quad changes no sample; putting a corner right makes a key.
  const before = await cornersOn(10);
  const corner = page.getByTestId('regions-source').getByTestId('quad-corner').first();
  await corner.focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect
    .poll(async () => (await region()).region?.quad[0].x)
    .toBeCloseTo((first.region?.quad[0].x ?? 0) + 10, 1);
  await page.getByRole('button', { name: 'Put it right' }).click();
  await editor.go(10);
  await corner.focus();
  await page.keyboard.press('ArrowDown');
  await expect.poll(async () => (await cornersOn(10))[0].y - before[0].y).toBeCloseTo(1, 1);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await cornersOn(10))[0].y - before[0].y).toBeCloseTo(0, 1);

  // A still of the clip lands in the quad, carried in perspective.
  await editor.step('Dress');
  await page.getByRole('button', { name: 'Still', exact: true }).click();
  await expect(page.getByTestId('layer-row')).toHaveCount(1);
  await page
    .getByRole('group', { name: 'Put into the quad' })
    .getByRole('button', { name: 'Stretch' })
    .click();
  const wanted = (await cornersOn(10)).flatMap(({ x, y }) => [x, y]);
  await expect
    .poll(async () => {
      const layer = (await view()).layers[0] as unknown as {
        content: { quad: number[] };
        carrier: { model: string };
      };
      const off = layer.content.quad.map((value, i) => Math.abs(value - wanted[i]));
      return [layer.carrier.model, Math.max(...off) < 0.01];
    })
    .toEqual(['perspective', true]);

  // The held picture, square on: a white stroke that is painted there lies on the thing on every frame.
  await page
    .getByTestId('layer-row')
    .getByRole('button', { name: /^Delete / })
    .click();
  await expect(page.getByTestId('layer-row')).toHaveCount(0);
  await page.keyboard.press('7');
  await page.getByLabel('Squared up').check();
  await page.getByRole('button', { name: 'Repair', exact: true }).click();
  await page.getByRole('button', { name: 'Paint', exact: true }).click();
  await page.getByLabel('Colour', { exact: true }).fill('#ffffff');
  const held = await page.getByTestId('stage').getAttribute('data-panes');
  const [, pane] = (
    JSON.parse(held ?? '[]') as [string, { picture: { width: number; height: number } }][]
  )[0];
  const { width, height } = pane.picture;
  const [from, to] = [
    await editor.onScreen(0.4 * width, 0.5 * height, 'held'),
    await editor.onScreen(0.6 * width, 0.5 * height, 'held'),
  ];
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByTestId('layer-row')).toHaveCount(1);
  interface Repair {
    frame: number;
    content: { strokes: { how: string; points: number[]; width: number }[] };
  }
  const repair = async (): Promise<Repair | undefined> =>
    ((await view()).layers as unknown as Repair[]).find(({ content }) => content.strokes);
  await expect.poll(async () => (await repair())?.content.strokes.length).toBe(1);
  const painted = await repair();
  const [stroke] = painted?.content.strokes ?? [];
  expect(stroke.how).toBe('colour');
  // Where it was painted in the held picture is where it lies in the quad of the frame that the layer was drawn on.
  const quad = await cornersOn(painted?.frame ?? 0);
  const middle = { x: 0, y: 0 };
  for (const { x, y } of quad) [middle.x, middle.y] = [middle.x + x / 4, middle.y + y / 4];
  const count = stroke.points.length / 3;
  const mean = [0, 1].map(
    (c) => stroke.points.filter((_, i) => i % 3 === c).reduce((sum, v) => sum + v, 0) / count,
  );
  expect(Math.hypot(mean[0] - middle.x, mean[1] - middle.y)).toBeLessThan(15);
  await expect(page.getByTestId('stroke-draft')).toHaveCount(0);
  await editor.go(20);
  const whiteAt = async (of: string, x: number, y: number): Promise<number> => {
    const at = await editor.onScreen(x, y, of);
    const shot = test.info().outputPath('painted.png');
    await page.mouse.move(5, 5);
    await page.screenshot({ path: shot, clip: { x: at.x - 2, y: at.y - 2, width: 4, height: 4 } });
    const gray = await grayPicture(shot, { width: 4, height: 4 });
    return gray.reduce((sum, level) => sum + level, 0) / gray.length;
  };
  const moved = 2 * (20 - (painted?.frame ?? 0));
  await expect.poll(() => whiteAt('source', mean[0] + moved, mean[1])).toBeGreaterThan(225);
  await expect.poll(() => whiteAt('held', 0.5 * width, 0.5 * height)).toBeGreaterThan(225);

  // The stroke is chosen, moved by its handle, given frames, and taken away; each can be undone.
  await page.keyboard.press('Escape');
  await page
    .getByRole('list', { name: /Strokes/ })
    .getByRole('button')
    .first()
    .click();
  const handle = page.getByTestId('stroke-middle').last();
  await handle.focus();
  await page.keyboard.press('Shift+ArrowDown');
  await expect
    .poll(async () => (await repair())?.content.strokes[0].points[1])
    .toBeCloseTo(stroke.points[1] + 10, 0);
  await page.getByRole('button', { name: 'Delete stroke 1' }).click();
  await expect.poll(async () => (await repair())?.content.strokes.length).toBe(0);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await repair())?.content.strokes.length).toBe(1);
});
