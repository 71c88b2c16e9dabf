import { readFile, writeFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import type { AssetView, ClipView, JobView, SteadyView } from '@lurn/contract';
import { blendModes } from '@lurn/core';
import { newProject, openUploaded, type Editor } from '../editor';
import { beginning, drawBoard, grayPicture } from '../movie';

const frame = 60;
/** Both are compared at this size, as the preview has no more than the proxy has. */
const compared = { width: 480, height: 270 };

/** The name of the picture is written there. */
const isLabelled = (x: number, y: number): boolean => x < 60 && y < 28;

/** Level differences of luma as decibels. */
function psnr(a: Uint8Array, b: Uint8Array, counts: (x: number, y: number) => boolean = () => true): number {
  let [squares, count] = [0, 0];
  for (let y = 0; y < compared.height; y++)
    for (let x = 0; x < compared.width; x++) {
      if (isLabelled(x, y) || !counts(x, y)) continue;
      squares += (a[y * compared.width + x] - b[y * compared.width + x]) ** 2;
      count++;
    }
  return 10 * Math.log10((255 * 255 * count) / Math.max(squares, 1e-9));
}

/** How far one picture lies beside the other, pixels: least squares over their slopes (Lucas & Kanade 1981). */
function shiftBetween(
  a: Uint8Array,
  b: Uint8Array,
  counts: (x: number, y: number) => boolean = () => true,
): number {
  const { width, height } = compared;
  let [xx, xy, yy, xd, yd] = [0, 0, 0, 0, 0];
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      if (isLabelled(x, y) || !counts(x, y)) continue;
      const k = y * width + x;
      const [gx, gy, d] = [(b[k + 1] - b[k - 1]) / 2, (b[k + width] - b[k - width]) / 2, a[k] - b[k]];
      [xx, xy, yy, xd, yd] = [xx + gx * gx, xy + gx * gy, yy + gy * gy, xd + gx * d, yd + gy * d];
    }
  const det = xx * yy - xy * xy;
  return Math.hypot((yy * xd - xy * yd) / det, (xx * yd - xy * xd) / det);
}

interface Pane {
  shiftX: number;
  shiftY: number;
  scaleX: number;
  scaleY: number;
}

/** Makes the window so large that the stage shows the proxy's pixels one for one: larger, each is smeared over two. */
async function fitStage(page: Page): Promise<void> {
  const heightAt = async (height: number): Promise<number> => {
    // So wide that the picture's left edge falls on a whole pixel.
    await page.setViewportSize({ width: 2301, height });
    await page.waitForTimeout(400);
    return (await page.getByTestId('stage').boundingBox())?.height ?? 0;
  };
  const [more, less] = [await heightAt(1200), await heightAt(1100)];
  await heightAt(Math.round(1200 - (100 * (more - 540)) / (more - less)));
}

/** The steadied picture as the stage shows it, brought to the compared size by means over its pixels. */
async function previewed(page: Page, size: { width: number; height: number }): Promise<Uint8Array> {
  const stage = page.getByTestId('stage');
  const box = await stage.boundingBox();
  const panes = await stage.getAttribute('data-panes');
  if (!box || !panes) throw new Error('There is no stage.');
  const [[, pane]] = JSON.parse(panes) as [string, Pane][];
  const path = test.info().outputPath('preview.png');
  await stage.screenshot({ path });
  const [width, height] = [Math.round(box.width), Math.round(box.height)];
  const gray = await grayPicture(path, { width, height });
  const level = (x: number, y: number): number => {
    const [u, v] = [
      Math.min(Math.max(x - 0.5, 0), width - 1.001),
      Math.min(Math.max(y - 0.5, 0), height - 1.001),
    ];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const [s, t] = [u - i, v - j];
    const at = j * width + i;
    return (
      (1 - t) * ((1 - s) * gray[at] + s * gray[at + 1]) +
      t * ((1 - s) * gray[at + width] + s * gray[at + width + 1])
    );
  };
  const parts = [1 / 6, 1 / 2, 5 / 6];
  return Uint8Array.from({ length: compared.width * compared.height }, (_, k) => {
    const [i, j] = [k % compared.width, Math.floor(k / compared.width)];
    let sum = 0;
    for (const b of parts)
      for (const a of parts) {
        const x = ((i + a) / compared.width) * size.width;
        const y = ((j + b) / compared.height) * size.height;
        sum += level(pane.shiftX + pane.scaleX * x, pane.shiftY + pane.scaleY * y);
      }
    return Math.round(sum / 9);
  });
}

/** Resolves when a job is done. */
const ended = (page: Page, id: string, timeout: number): Promise<void> =>
  expect
    .poll(async () => ((await (await page.request.get(`/api/jobs/${id}`)).json()) as JobView).state, {
      timeout,
    })
    .toBe('done');

/** The same frame of the exported movie. */
async function exported(page: Page, editor: Editor): Promise<Uint8Array> {
  const post = await page.request.post(`/api/clips/${editor.clipId}/exports`, {
    data: { codec: 'ffv1', container: 'mkv' },
  });
  const { id } = (await post.json()) as JobView;
  await ended(page, id, 60_000);
  const path = test.info().outputPath('exported.mkv');
  await writeFile(path, await (await page.request.get(`/api/exports/${id}/file`)).body());
  return grayPicture(path, compared);
}

test('the stage shows what will be exported: every edge, every resampling, an output of its own shape', async ({
  page,
}) => {
  test.setTimeout(300_000);
  // The picture is shown as large as the proxy is: smaller, the browser leaves pixels out.
  await page.setViewportSize({ width: 2300, height: 1200 });
  const editor = await openUploaded(page, await newProject(page, 'Output'), await beginning('quay', 3));
  await editor.go(frame);
  await page.keyboard.press('3');
  const { steady } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as ClipView;
  // Put by hand, so that there are edges on all sides.
  const put: SteadyView = {
    ...steady,
    range: { first: frame, last: frame },
    keys: [{ frame, x: 30, y: -20, rotation: 0.02, zoom: 0.85, easing: 'linear' }],
  };
  await page.getByRole('button', { name: 'Find an action' }).click();
  await page.getByRole('combobox').fill('Hatch bare edges');
  await page.keyboard.press('Enter');
  const scene = (await (
    await page.request.post(`/api/clips/${editor.clipId}/scene`, { data: {} })
  ).json()) as JobView;
  await ended(page, scene.id, 120_000);
  // The scene has a say from here on; by hand alone none of it is taken out.
  const left = { ...put, strength: { x: 0, y: 0, rotation: 0, scale: 0, perspective: 0 } };
  const held: SteadyView = { ...steady, range: put.range, mode: 'hold', referenceFrame: 0 };
  const cases: (Partial<SteadyView> & { by?: SteadyView })[] = [
    { edge: 'black' },
    { edge: 'stretch' },
    { edge: 'mirror' },
    { edge: 'blur' },
    { edge: 'transparent' },
    { edge: 'mirror', resampling: 'nearest' },
    { edge: 'stretch', resampling: 'bilinear' },
    { edge: 'mirror', resampling: 'lanczos' },
    { edge: 'blur', output: { width: 1280, height: 720 } },
    { edge: 'fill', by: held },
    { edge: 'mirror', by: held, rollingShutter: { mode: 'share', share: 0.6 } },
  ];
  for (const { by = left, ...one } of cases) {
    const label = one.output ? 'Output size' : 'Edges';
    const patch = await page.request.patch(`/api/clips/${editor.clipId}/steady`, {
      data: { steady: { ...by, ...one }, label },
    });
    expect(patch.ok()).toBe(true);
    const size = one.output ?? { width: 1920, height: 1080 };
    await expect
      .poll(() => page.getByTestId('stage').getAttribute('data-panes'))
      .toContain(`"width":${size.width}`);
    await page.waitForTimeout(one.edge === 'fill' ? 3000 : 1200);
    const [shown, made] = [await previewed(page, size), await exported(page, editor)];
    // What is not to be seen is squares on the stage: within it everything is the frame.
    const counts =
      one.edge === 'transparent'
        ? (x: number, y: number) => x > 80 && x < 400 && y > 50 && y < 220
        : () => true;
    const decibels = psnr(shown, made, counts);
    // A strip along the upper edge, all of it made up.
    const band = psnr(shown, made, (_, y) => y < 10);
    console.log(`${JSON.stringify(one)}: ${decibels.toFixed(1)} dB, at the edge ${band.toFixed(1)} dB`);
    if (one.resampling === 'nearest') {
      // The nearest pixel of the proxy is another than that of the clip, but at the same place: half a proxy pixel is a
      // quarter of a compared one.
      expect(decibels).toBeGreaterThan(28);
      expect(shiftBetween(shown, made)).toBeLessThan(0.25);
    } else {
      expect(decibels).toBeGreaterThan(36);
      if (one.edge !== 'transparent') expect(band).toBeGreaterThan(34);
    }
  }
});

test('layers look on the stage as they will be exported: every kind, every blend mode', async ({ page }) => {
  test.setTimeout(300_000);
  const editor = await openUploaded(page, await newProject(page, 'Layers'), await beginning('quay', 2.2));
  await editor.go(frame);
  await page.keyboard.press('3');
  await fitStage(page);
  const board = test.info().outputPath('board.png');
  await drawBoard(board);
  const asset = (await (
    await page.request.post('/api/assets', {
      multipart: { file: { name: 'board.png', mimeType: 'image/png', buffer: await readFile(board) } },
    })
  ).json()) as AssetView;
  const contents: object[] = [
    ...['averaged', 'plain', 'mosaic', 'blur'].map((how) => ({
      kind: 'cover',
      how,
      colour: [0.9, 0.4, 0.1],
      strength: 24,
    })),
    { kind: 'colour', hue: 1, saturation: 1.5, contrast: 1.2, brightness: 0.05 },
    { kind: 'text', text: 'Withy Ferry', size: 40 },
    { kind: 'fill', frames: 5 },
    { kind: 'clip', clip: '', from: 12, play: 'still' },
    { kind: 'repair' },
  ];
  const all = [
    ...contents.map((content) => ({ content, blend: 'normal' })),
    ...blendModes.map((blend) => ({ content: { kind: 'picture', asset: asset.id }, blend })),
  ];
  // A grid of boxes with room between them, each a layer of its own.
  const boxes = all.map((_, i) => ({
    x: 24 + 314 * (i % 6),
    y: 60 + 250 * Math.floor(i / 6),
    width: 270,
    height: 200,
  }));
  for (const [i, { content, blend }] of all.entries()) {
    const { x, y, width, height } = boxes[i];
    const quad = [x, y, x + width, y + 12, x + width - 14, y + height, x + 10, y + height - 8];
    const knots = [0, 1, 2, 3].map((k) => ({ x: quad[2 * k], y: quad[2 * k + 1] }));
    const where = {
      picture: { quad },
      clip: { quad },
      text: { x: x + width / 2, y: y + height / 2 },
      repair: {
        strokes: [
          {
            how: 'clone',
            points: [x + 50, y + 90, 1, x + 220, y + 120, 1],
            width: 80,
            from: 30,
            aside: [0, 60],
          },
          {
            how: 'colour',
            points: [x + 60, y + 150, 1, x + 200, y + 40, 1],
            width: 24,
            colour: [0.9, 0.4, 0.1],
          },
        ],
      },
    }[(content as { kind: string }).kind];
    const layer = {
      ...{ name: `${i}`, content: { ...content, ...where }, blend, opacity: 0.8, first: frame, last: frame },
      shape: { parts: [{ spline: { knots } }], featherOut: 6 },
    };
    const added = await page.request.post(`/api/clips/${editor.clipId}/layers`, { data: { layer } });
    expect([i, added.status()]).toEqual([i, 201]);
  }
  const { steady } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as ClipView;
  await page.request.patch(`/api/clips/${editor.clipId}/steady`, {
    data: { steady: { ...steady, range: { first: frame, last: frame } }, label: 'Range' },
  });
  await expect(page.getByTestId('stage')).toHaveAttribute('data-dressed', `${all.length}`);
  await page.waitForTimeout(1000);
  const [shown, made] = [await previewed(page, { width: 1920, height: 1080 }), await exported(page, editor)];
  const clipPixels = 1920 / compared.width;
  const found = boxes.map(({ x, y, width, height }, i) => {
    const within = (u: number, v: number): boolean =>
      4 * u >= x && 4 * u < x + width && 4 * v >= y && 4 * v < y + height;
    const name = JSON.stringify(all[i].content).slice(0, 40);
    return [
      name,
      all[i].blend,
      psnr(shown, made, within),
      clipPixels * shiftBetween(shown, made, within),
    ] as const;
  });
  console.log(
    found
      .map(
        ([what, blend, decibels, off]) => `${what} ${blend}: ${decibels.toFixed(1)} dB, ${off.toFixed(2)} px`,
      )
      .join('\n'),
  );
  for (const [what, blend, decibels, off] of found)
    expect([what, blend, decibels > 36, off < 0.5]).toEqual([what, blend, true, true]);
});
