import { expect, test } from '@playwright/test';
import type { ClipView, TrackView } from '@lurn/contract';
import { cornersFromCentre, pageLength, Samples, type Point } from '@lurn/core';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded } from '../editor';

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
});
