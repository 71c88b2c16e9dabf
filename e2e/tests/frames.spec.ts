import { createCanvas, loadImage } from '@napi-rs/canvas';
import { expect, test } from '@playwright/test';
import { blockSize, makeStripClip, stripBits } from '@lurn/media/testing';
import { newProject, openUploaded, type Editor } from '../editor';

const size = { width: 640, height: 360 };
const frames = 130;

/** The number in the strip of the source pane, read off the screen. */
async function numberOnScreen(editor: Editor): Promise<number> {
  // The page is composed anew a moment after the worker's canvas is.
  await editor.page.evaluate(
    () =>
      new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 60)))),
  );
  const { x, y, scale } = await editor.onScreen(0, 0);
  const width = Math.ceil(stripBits * blockSize * scale);
  const png = await editor.page.screenshot({ clip: { x, y, width, height: Math.ceil(blockSize * scale) } });
  const image = await loadImage(png);
  const c = createCanvas(image.width, image.height).getContext('2d');
  c.drawImage(image, 0, 0);
  let number = 0;
  for (let bit = 0; bit < stripBits; bit++) {
    const [level] = c.getImageData(Math.floor((bit + 0.5) * blockSize * scale), image.height >> 1, 1, 1).data;
    if (level > 127) number |= 1 << bit;
  }
  return number;
}

for (const encode of [
  ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '14', '-g', '50', '-bf', '3', '-pix_fmt', 'yuv420p'],
  ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-b:v', '3M', '-pix_fmt', 'yuv420p'],
]) {
  test(`the frame shown is the frame named: ${encode[1]}`, async ({ page }) => {
    const path = test.info().outputPath(encode[1] === 'libx264' ? 'numbers.mp4' : 'numbers.webm');
    await makeStripClip({ path, frames, ...size, rate: '30000/1001', encode });
    const editor = await openUploaded(page, await newProject(page, 'Numbers'), path);
    for (const frame of [0, frames - 1, 64, 11, 12, 13, 117, 3, 90, 47, frames - 2, 1]) {
      await editor.go(frame);
      expect(await numberOnScreen(editor)).toBe(frame);
    }
    await editor.go(58);
    for (const [key, by] of [
      ['ArrowRight', 1],
      ['ArrowLeft', -1],
    ] as const) {
      for (let i = 0; i < 6; i++) {
        const next = (await editor.shown()) + by;
        await page.keyboard.press(key);
        await editor.waitFor(next);
        expect(await numberOnScreen(editor)).toBe(next);
      }
    }
    await page.keyboard.press('Space');
    await expect.poll(() => editor.shown()).toBeGreaterThan(70);
    await page.keyboard.press('Space');
    await page.waitForTimeout(150);
    expect(await numberOnScreen(editor)).toBe(await editor.shown());
    await expect(page.getByTestId('frame-number')).toHaveValue(`${await editor.shown()}`);
  });
}
