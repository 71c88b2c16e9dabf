import { expect, test, type Page } from '@playwright/test';
import type { ClipView } from '@lurn/contract';
import { apply, type Mat3 } from '@lurn/core';
import { newProject, openUploaded, type Editor } from '../editor';
import { barePixels, beginning, openMovie, trackAgain } from '../movie';
import { rms, Truth } from '../truth';

const clip = 'quay';
/** Both on the wall that is held. */
const features = ['plate', 'crate'];
/** Where they are placed: away from the ends, so that following goes both ways. */
const keyFrame = 60;
/** What is exported. */
const range = { first: 40, last: 99 };

test('place, follow, mend, hold, zoom, compare, export', async ({ page }) => {
  test.setTimeout(420_000);
  const truth = new Truth(clip);
  const path = await beginning(clip, 5);
  const editor = await openUploaded(page, await newProject(page, 'The whole job'), path);

  // Place two points and follow them both ways.
  await editor.go(keyFrame);
  for (const feature of features) {
    const { x, y } = truth.at(feature, keyFrame);
    await editor.place(x, y);
    await editor.follow('\\');
  }
  const placed = features.map((feature, i) => ({ feature, track: i, frame: keyFrame }));
  for (const { feature, track } of placed) {
    expect(await trackError(editor, truth, feature, track, keyFrame)).toBeLessThan(0.25);
  }

  await mend(page, editor, keyFrame);

  const { first, last } = range;
  const { steady } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as ClipView;
  const data = { steady: { ...steady, range }, label: 'Range' };
  await page.request.patch(`/api/clips/${editor.clipId}/steady`, { data });
  await expect(page.getByText(`Range ${first}–${last}`)).toBeVisible();

  // Hold, look at the bare edges, hide them, go to the frame that forces the zoom.
  await editor.step('Steady');
  await page.getByRole('radio', { name: 'Hold' }).click();
  await expect(page.getByTestId('framing-says')).toContainText('Bare in');
  await page.getByRole('button', { name: 'Hide bare edges' }).click();
  await expect(page.getByTestId('framing-says')).toContainText('No bare edge in the range');
  const cause = page.getByTestId('forcing-frame').first();
  const forcing = Number(/frame (\d+)/.exec((await cause.textContent()) ?? '')?.[1]);
  await cause.click();
  await editor.waitFor(forcing);

  // Compare.
  await page.getByRole('button', { name: 'Wipe' }).click();
  const edge = page.getByRole('slider', { name: 'Wipe between source and steadied' });
  await edge.press('ArrowRight');
  await expect(edge).toHaveAttribute('aria-valuenow', '52');
  await page.getByRole('button', { name: 'Both' }).click();
  await editor.saved();

  // Reload: all is as it was.
  await page.reload();
  await expect(page.getByTestId('framing-says')).toContainText('No bare edge in the range');
  await editor.step('Export');

  // Export and check the file against the truth.
  await page.getByRole('button', { name: 'Export movie' }).click();
  await expect(page.getByTestId('exporting')).toBeVisible();
  await expect(page.getByTestId('download')).toBeVisible({ timeout: 240_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('download').click()]);
  expect(download.suggestedFilename()).toBe(`${clip}-held.mp4`);
  const made = test.info().outputPath('held.mp4');
  await download.saveAs(made);

  const movie = await openMovie(made);
  const source = await openMovie(path);
  expect(movie.index.pts.length).toBe(last - first + 1);
  expect(movie.clip.frameRate).toEqual(source.clip.frameRate);
  expect({ width: movie.clip.width, height: movie.clip.height }).toEqual({ width: 1920, height: 1080 });
  expect(movie.clip.colour).toEqual(source.clip.colour);
  expect(movie.clip.sound).toEqual(source.clip.sound);
  expect(await barePixels(movie)).toBe(0);

  const motion = (await (await page.request.get(`/api/clips/${editor.clipId}/motion.json`)).json()) as {
    frames: { frame: number; outputFromFrame: Mat3 }[];
  };
  for (const { outputFromFrame } of motion.frames) expect(overhang(outputFromFrame)).toBeLessThan(1e-6);
  const starts = features.map((feature) => {
    const { x, y } = truth.at(feature, keyFrame);
    return apply(motion.frames[keyFrame - first].outputFromFrame, x, y);
  });
  const [a, b] = motion.frames[keyFrame - first].outputFromFrame;
  const held = await trackAgain(movie, starts, keyFrame - first, Math.hypot(a, b));
  held.forEach((samples, i) => {
    const left: number[] = [];
    for (let k = 0; k < samples.frames; k++) {
      if (samples.found(k)) left.push(Math.hypot(samples.x[k] - starts[i].x, samples.y[k] - starts[i].y));
    }
    console.log(
      `${clip} at ${Math.hypot(a, b).toFixed(2)}×, "${features[i]}": ${left.length} frames held to ${rms(left).toFixed(3)} px RMS`,
    );
    expect(left.length).toBe(samples.frames);
    expect(rms(left)).toBeLessThan(0.35);
  });
});

/** Drags the second track's box off and follows on from there; then takes both back. */
async function mend(page: Page, editor: Editor, keyFrame: number): Promise<void> {
  // See the key that a dragged box leaves.
  const mendFrame = keyFrame + 40;
  await editor.go(mendFrame);
  await expect(page.locator('[data-testid=track-box]').last()).toHaveAttribute('data-state', 'tracked');
  const before = (await editor.tracks())[1].samples;
  const box = await editor.box.boundingBox();
  if (!box) throw new Error('There is no box to drag.');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 6, box.y + box.height / 2 - 4, { steps: 3 });
  await expect(page.getByTestId('loupe')).toBeVisible();
  await page.mouse.up();
  await expect(page.locator('[data-testid=track-box][data-state=placed]')).toHaveCount(1);
  await editor.saved();
  const dragged = (await editor.tracks())[1].samples.find((s) => s.frame === mendFrame);
  const { scale } = await editor.onScreen(0, 0);
  expect(dragged?.state).toBe('placed');
  expect(dragged?.x).toBeCloseTo((before.find((s) => s.frame === mendFrame)?.x ?? 0) + 6 / scale, 0);

  // Follow on from the key: it is kept, and the path goes on from it.
  await editor.follow(']');
  const again = (await editor.tracks())[1].samples;
  expect(again.find((s) => s.frame === mendFrame)).toEqual(dragged);
  expect(again.filter((s) => s.state === 'placed').map((s) => s.frame)).toEqual([keyFrame, mendFrame]);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await editor.tracks())[1].samples).toEqual(before);
}

/** RMS distance between a track and the true path of the point it was placed on. */
async function trackError(
  editor: Editor,
  truth: Truth,
  feature: string,
  track: number,
  keyFrame: number,
): Promise<number> {
  const { samples } = (await editor.tracks())[track];
  const key = samples.find((s) => s.frame === keyFrame);
  if (!key) throw new Error('The key is gone.');
  const errors = samples
    .filter((s) => truth.visible(feature, s.frame))
    .map((s) => {
      const p = truth.carried(feature, key, keyFrame, s.frame);
      return Math.hypot(s.x - p.x, s.y - p.y);
    });
  console.log(`"${feature}": ${errors.length} frames, ${rms(errors).toFixed(3)} px RMS from truth`);
  expect(samples.every((s) => s.state !== 'lost')).toBe(true);
  return rms(errors);
}

/** How far the output's corners, carried back, lie outside the frame. */
function overhang([a, b, c, d, e, f]: Mat3): number {
  const det = a * e - b * d;
  const corners = [0, 1920].flatMap((x) => [0, 1080].map((y) => [x - c, y - f]));
  return Math.max(
    ...corners.flatMap(([x, y]) => {
      const u = (e * x - b * y) / det;
      const v = (a * y - d * x) / det;
      return [-u, -v, u - 1920, v - 1080];
    }),
  );
}
