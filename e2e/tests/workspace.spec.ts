import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import { makeStripClip } from '@lurn/media/testing';
import { newProject, openUploaded, type Editor } from '../editor';
import { clipPath, rms, Truth } from '../truth';

const size = { width: 640, height: 360 };
const frames = 60;
const motion = (k: number) => ({ x: 1.3 * k, y: 6 * Math.sin(k / 7) });

/** A short clip whose whole picture moves as `motion` says. */
async function openMoving(page: Page, name: string): Promise<Editor> {
  const path = test.info().outputPath('crossing.mp4');
  await makeStripClip({ path, frames, ...size, position: motion, sound: 2.4 });
  return openUploaded(page, await newProject(page, name), path);
}

/** How far a track's samples are from where its key's place is carried by the motion; RMS, pixels. */
function errorOf(samples: { frame: number; x: number; y: number; state: string }[]): number {
  const key = samples.find((s) => s.state === 'placed');
  if (!key) throw new Error('The track has no key.');
  return rms(
    samples.map(({ frame, x, y }) => {
      const [from, to] = [motion(key.frame), motion(frame)];
      return Math.hypot(x - key.x - to.x + from.x, y - key.y - to.y + from.y);
    }),
  );
}

/** Where a frame lies in a lane, on the screen. */
async function inLane(
  page: Page,
  lane: number,
  frame: number,
  of = frames,
): Promise<{ x: number; y: number }> {
  const box = await page.getByTestId('lane').nth(lane).boundingBox();
  if (!box) throw new Error('There is no such lane.');
  return { x: box.x + ((frame + 0.5) / of) * box.width, y: box.y + box.height / 2 };
}

async function dragOver(
  page: Page,
  from: { x: number; y: number },
  to: { x: number; y: number },
): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 });
  await page.mouse.move(to.x, to.y);
  await page.mouse.up();
}

test('a slip is found by the list and mended; what is right is waved through', async ({ page }) => {
  test.setTimeout(180_000);
  const truth = new Truth('lantern');
  // Someone walks before the ring on frames 111 to 149.
  const [keyFrame, beyond] = [90, 160];
  const editor = await openUploaded(page, await newProject(page, 'Trouble'), clipPath('lantern'));
  await editor.go(keyFrame);
  const start = truth.at('ring', keyFrame);
  await editor.place(start.x, start.y);
  await editor.moveBox(start.x, start.y);
  await page.getByRole('button', { name: 'How it is followed' }).click();
  await page.getByRole('combobox', { name: 'Below' }).selectOption('mark');
  const threshold = page.getByRole('spinbutton', { name: 'Threshold in percent' });
  await threshold.fill('0');
  await page.keyboard.press('Enter');
  await editor.saved();
  await editor.follow(']');

  // The worst comes first, with the pictures to tell by.
  await page.keyboard.press('t');
  await expect(page.getByTestId('look-pair')).toHaveAttribute('data-ready', 'true');
  await expect(page.getByTestId('trouble-reason')).toHaveText(/\. [A-Z]/);
  const shown = await editor.shown();
  expect(shown).toBeGreaterThan(105);
  expect(shown).toBeLessThan(beyond);
  const count = await page.getByTestId('trouble').count();
  expect(count).toBeGreaterThan(0);

  // A key beyond it; then only the frames between are followed anew, from both sides.
  await editor.go(beyond);
  const [{ samples: slipped }] = await editor.tracks();
  const key = slipped.find((s) => s.frame === keyFrame) as (typeof slipped)[number];
  const end = truth.carried('ring', key, keyFrame, beyond);
  await editor.moveBox(end.x, end.y);
  await page.getByRole('combobox', { name: 'Below' }).selectOption('bridge');
  await page.getByRole('spinbutton', { name: 'Longest gap in frames' }).fill('60');
  await page.keyboard.press('Enter');
  await threshold.fill('50');
  await page.keyboard.press('Enter');
  await editor.saved();
  await editor.below('Lanes');
  await dragOver(page, await inLane(page, 0, 100, 240), await inLane(page, 0, beyond - 1, 240));
  await expect(page.getByTestId('span-tools')).toContainText(`100–${beyond - 1}`);
  await editor.follow('Shift+R');
  const [{ samples: mended }] = await editor.tracks();
  const off = (s: { frame: number; x: number; y: number }): number => {
    const p = truth.carried('ring', key, keyFrame, s.frame);
    return Math.hypot(s.x - p.x, s.y - p.y);
  };
  const seen = mended.filter(
    (s) => s.frame >= 100 && s.frame < beyond && s.state === 'tracked' && truth.visible('ring', s.frame),
  );
  expect(seen.length).toBeGreaterThan(15);
  console.log(`"ring" mended by its span: ${rms(seen.map(off)).toFixed(3)} px RMS from truth`);
  expect(rms(seen.map(off))).toBeLessThan(0.25);
  // What lies beside the span has not been touched.
  const before = slipped.find((s) => s.frame === 99);
  expect(mended.find((s) => s.frame === 99)).toEqual(before);

  // What is left was carried across on purpose: it is waved through, and undo brings it back.
  await editor.below('Trouble');
  const left = await page.getByTestId('trouble').count();
  expect(left).toBeGreaterThan(0);
  await page.getByTestId('trouble').first().click();
  await page.keyboard.press('w');
  await expect(page.getByTestId('trouble')).toHaveCount(left - 1);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('trouble')).toHaveCount(left);
});

test('two pieces of one feature are joined; copies, spans and keys in the lanes', async ({ page }) => {
  const editor = await openMoving(page, 'Pieces');
  await editor.place(300, 200);
  await editor.follow(']');
  // It is lost halfway, and found again by another point on the same feature, a pixel aside.
  await dragOver(page, await inLane(page, 0, 30), await inLane(page, 0, frames - 1));
  await page.keyboard.press('Shift+Delete');
  await editor.saved();
  await editor.go(25);
  const [first] = await editor.tracks();
  expect(Math.max(...first.samples.map((s) => s.frame))).toBe(29);
  const there = first.samples[25];
  await editor.place(there.x + 1, there.y);
  await editor.follow(']');
  await page.getByTestId('track-row').first().click();
  await page.keyboard.press('Shift+N');
  await page
    .getByTestId('track-row')
    .first()
    .click({ modifiers: ['Control'] });
  await page
    .getByTestId('track-row')
    .first()
    .click({ modifiers: ['Control'] });
  await page.keyboard.press('j');
  await expect(page.getByTestId('track-row')).toHaveCount(1);
  const [joined] = await editor.tracks();
  expect(joined.samples).toHaveLength(frames);
  console.log(`two pieces joined: ${errorOf(joined.samples).toFixed(3)} px RMS from truth`);
  expect(errorOf(joined.samples)).toBeLessThan(0.25);

  // A key goes along its lane, and back by undo; it would not go without the hand on it.
  const keys = async (): Promise<number[]> =>
    (await editor.tracks())[0].samples.filter((s) => s.state === 'placed').map((s) => s.frame);
  await editor.go(48);
  await page.keyboard.press('k');
  await editor.saved();
  const had = await keys();
  await dragOver(page, await inLane(page, 0, had[1]), await inLane(page, 0, 40));
  await expect.poll(keys).toEqual([had[0], 40]);
  await page.keyboard.press('Control+z');
  await expect.poll(keys).toEqual(had);

  // By hand: the arrows move the box, Enter places it and goes on.
  await editor.go(35);
  const at = async () => (await editor.tracks())[0].samples.find((s) => s.frame === 35);
  const was = await at();
  await page.keyboard.press('m');
  for (const press of ['ArrowRight', 'Shift+ArrowDown', 'Alt+ArrowLeft']) await page.keyboard.press(press);
  await page.keyboard.press('Enter');
  await editor.waitFor(36);
  await editor.saved();
  const now = await at();
  expect(
    [(now?.x ?? 0) - (was?.x ?? 0), (now?.y ?? 0) - (was?.y ?? 0)].map((d) => Number(d.toFixed(3))),
  ).toEqual([0.9, 10]);
  await page.keyboard.press('Escape');

  // The table: a copy, sorted, filtered, chosen and deleted.
  await editor.below('Tracks');
  await page.keyboard.press('Control+d');
  const rows = page.getByTestId('table-row');
  await expect(rows).toHaveCount(2);
  await page.getByRole('columnheader', { name: 'Name' }).getByRole('button').click();
  await page.getByRole('columnheader', { name: 'Name' }).getByRole('button').click();
  await expect(page.getByRole('columnheader', { name: 'Name' })).toHaveAttribute('aria-sort', 'descending');
  await expect(rows.first()).toContainText('Point 2');
  await page.getByLabel('Filter tracks by name').fill('2');
  await expect(rows).toHaveCount(1);
  await rows.first().click();
  await page.getByTestId('tracks-table').getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByTestId('track-row')).toHaveCount(1);
});

test('a table from elsewhere is dropped, its columns are told, and it lies where it should', async ({
  page,
}) => {
  const editor = await openMoving(page, 'From elsewhere');
  const { width, height } = size;
  const place = (k: number) => ({ x: 300 + motion(k).x, y: 200 + motion(k).y });
  const lines = Array.from({ length: frames }, (_, k) => {
    const { x, y } = place(k);
    return [k + 1, ((100 * x) / width).toFixed(6), (100 * (1 - y / height)).toFixed(6)].join(';');
  });
  const table = ['Bildnr;quer;hoch', ...lines, '12;far;5', '500;1;1'].join('\n');
  const drop = await page.evaluateHandle((text) => {
    const data = new DataTransfer();
    data.items.add(new File([text], 'poles.csv', { type: 'text/csv' }));
    return data;
  }, table);
  await page.dispatchEvent('[data-testid=stage]', 'drop', { dataTransfer: drop });
  const dialog = page.getByRole('dialog', { name: 'Take tracks in' });
  await expect(dialog.getByRole('alert')).toHaveText('Say which column holds the frame.');
  await dialog.getByLabel('Column of Frame').selectOption({ index: 1 });
  await dialog.getByLabel('Column of x').selectOption({ index: 2 });
  await dialog.getByLabel('Column of y').selectOption({ index: 3 });
  await dialog.getByLabel('x and y are in').selectOption('percent');
  await dialog.getByLabel('y goes').selectOption('up');
  await dialog.getByLabel('The number its first frame has').fill('1');
  await expect(page.getByTestId('import-says')).toHaveText('One track, 60 places; 2 lines cannot be used:');
  await expect(dialog.getByRole('listitem')).toHaveText([
    'Line 62: "far" is no number for x.',
    'Line 63: Frame 499 is outside the clip; its frames are 0 to 59.',
  ]);
  await expect(page.getByTestId('import-preview').locator('path').first()).toHaveAttribute(
    'd',
    /^M300\.0 200\.0L/,
  );
  await dialog.getByRole('button', { name: 'Take in what can be used' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.getByTestId('track-row')).toHaveCount(1);
  const [{ samples }] = await editor.tracks();
  for (const { frame, x, y } of samples)
    expect(Math.hypot(x - place(frame).x, y - place(frame).y)).toBeLessThan(0.01);

  // Out again by way of the clipboard, and in by pasting: what was copied is what is taken in.
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.keyboard.press('Control+Shift+C');
  await expect(page.getByText('The tracks are on the clipboard.')).toBeVisible();
  await page.evaluate(async () => {
    const data = new DataTransfer();
    data.setData('text', await navigator.clipboard.readText());
    document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  await dialog.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByTestId('track-row')).toHaveCount(2);
  const [one, other] = await editor.tracks();
  expect(other.samples).toEqual(one.samples);
  await expect(dialog).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('track-row')).toHaveCount(1);

  // Only the chosen and the range, as a file; and the frame shown as a picture.
  await editor.step('Export');
  await page.getByLabel('Range only').check();
  const range = { first: 5, last: 9 };
  const { steady } = (await (await page.request.get(`/api/clips/${editor.clipId}`)).json()) as {
    steady: object;
  };
  await page.request.patch(`/api/clips/${editor.clipId}/steady`, {
    data: { steady: { ...steady, range }, label: 'Range' },
  });
  await expect(page.getByText('Range 5–9')).toBeVisible();
  const save = async (name: string): Promise<Buffer> => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name }).click(),
    ]);
    return readFile(await download.path());
  };
  const csv = (await save('Tracks CSV')).toString().trim().split('\r\n');
  expect(csv.slice(1).map((line) => line.split(',')[1])).toEqual(['5', '6', '7', '8', '9']);
  expect((await save('Frame as PNG')).subarray(1, 4).toString()).toBe('PNG');
});

test('the view: riding, guide marks, one picture by itself, playing once, sizes remembered', async ({
  page,
}) => {
  const editor = await openMoving(page, 'Looking');
  await editor.place(300, 200);
  await editor.follow(']');

  // Riding: at any zoom the point stands still on the screen while the clip goes by.
  const p = await editor.onScreen(300, 200);
  await page.mouse.move(p.x, p.y);
  await page.mouse.wheel(0, -500);
  await page.keyboard.press('y');
  const middle = async () => {
    const box = await editor.box.boundingBox();
    return box && { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const still = await middle();
  for (const frame of [20, 45, 10]) {
    await editor.go(frame);
    const here = await middle();
    expect(Math.hypot((here?.x ?? 0) - (still?.x ?? 0), (here?.y ?? 0) - (still?.y ?? 0))).toBeLessThan(0.6);
  }
  await page.keyboard.press('y');
  await page.keyboard.press('0');

  // Each picture by itself with Alt; both without.
  const zoom = page.getByTitle(/^Whole picture/);
  await page.keyboard.down('Alt');
  await page.mouse.wheel(0, -300);
  await page.keyboard.up('Alt');
  await expect(zoom).toHaveText('212 % | 100 %');
  await page.keyboard.press('0');
  await expect(zoom).toHaveText('100 %');

  // A guide line comes out level, stays where it is, and is moved and removed by keys.
  await page.keyboard.press('g');
  const from = await editor.onScreen(100, 150);
  const to = await editor.onScreen(500, 153);
  await dragOver(page, from, to);
  const line = page.getByTestId('guide-line');
  await expect(line).toHaveCount(1);
  const drawn = await line.locator('path').first().getAttribute('d');
  await editor.go(40);
  expect(await line.locator('path').first().getAttribute('d')).toBe(drawn);
  await page.reload();
  await expect(line).toHaveCount(1);
  await line.getByRole('button').first().focus();
  await page.keyboard.press('Shift+ArrowDown');
  expect(await line.locator('path').first().getAttribute('d')).not.toBe(drawn);
  await page.keyboard.press('Delete');
  await expect(line).toHaveCount(0);

  // Once through, at the clip's rate and with its sound; the end is the end.
  await expect(page.getByTestId('sound')).toHaveCount(1);
  await page.getByRole('button', { name: 'Play in a loop' }).click();
  await editor.go(50);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 5000 });
  expect(await editor.shown()).toBe(frames - 1);
  await page.getByRole('button', { name: 'Sound' }).click();
  await expect(page.getByTestId('sound')).toHaveCount(0);

  // The stage is made smaller, and is so after a reload.
  const height = async (): Promise<number> => (await page.getByTestId('stage').boundingBox())?.height ?? 0;
  const before = await height();
  const separator = page.getByRole('separator', { name: 'Height of the stage' });
  const bar = await separator.boundingBox();
  if (!bar) throw new Error('The stage cannot be resized.');
  const grip = { x: bar.x + 200, y: bar.y + 1 };
  await dragOver(page, grip, { x: grip.x, y: grip.y - 60 });
  expect(Math.abs((await height()) - before + 60)).toBeLessThan(8);
  const smaller = await height();
  await page.reload();
  await expect(page.getByTestId('stage')).toBeVisible();
  expect(Math.abs((await height()) - smaller)).toBeLessThan(3);
});

test('curves are zoomed, a key is dragged in them, a span is smoothed', async ({ page }) => {
  const editor = await openMoving(page, 'Curves');
  await editor.place(300, 200);
  await editor.follow(']');
  await editor.go(30);
  await page.keyboard.press('k');
  await editor.saved();
  await editor.below('Curves');
  const chart = page.getByTestId('curve-x');
  const box = await chart.boundingBox();
  if (!box) throw new Error('There is no chart.');
  const [low, high] = ((await chart.getAttribute('data-shown')) ?? '').split(' ').map(Number);
  const x = async (): Promise<number> => (await editor.tracks())[0].samples[30].x;
  const was = await x();
  const y = (value: number): number => box.y + ((high - value) / (high - low)) * box.height;
  const key = { x: box.x + (30.5 / frames) * box.width, y: y(was) };
  await dragOver(page, key, { x: key.x, y: key.y - 20 });
  const wanted = was + (20 / box.height) * (high - low);
  await expect.poll(x).toBeCloseTo(wanted, 0);
  await page.keyboard.press('Control+z');
  await expect.poll(x).toBeCloseTo(was, 4);

  // Values by Alt and wheel, time by the wheel alone.
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.keyboard.down('Alt');
  await page.mouse.wheel(0, -300);
  await page.keyboard.up('Alt');
  await expect
    .poll(async () => {
      const [nearLow, nearHigh] = ((await chart.getAttribute('data-shown')) ?? '').split(' ').map(Number);
      return (nearHigh - nearLow) / (high - low);
    })
    .toBeCloseTo(Math.exp(-1), 1);
  await chart.dblclick({ position: { x: 20, y: 10 } });
  await page.mouse.wheel(0, -300);
  await page.getByRole('button', { name: 'Speed' }).click();
  await expect(page.getByTestId('curve-speed')).toBeVisible();

  // A sample that is off by a hand's tremble is brought back by smoothing the frames about it.
  await page.keyboard.press('Shift+Digit0');
  await editor.below('Lanes');
  const middles = [await inLane(page, 0, 5), await inLane(page, 0, 25)] as const;
  await dragOver(page, ...middles);
  await page.getByTestId('span-tools').getByRole('button', { name: 'Smooth' }).click();
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', /Smooth path/);
  expect(errorOf((await editor.tracks())[0].samples)).toBeLessThan(0.25);
});

test('nothing that is dragged waits for the server', async ({ page }) => {
  const editor = await openMoving(page, 'Slow line');
  await editor.place(300, 200);
  await editor.follow(']');
  let answer = (): void => undefined;
  const answered = new Promise<void>((resolve) => (answer = resolve));
  await page.route('**/api/**', async (route) => {
    if (route.request().method() !== 'GET') await answered;
    await route.continue();
  });
  const x = async (): Promise<number> => {
    const group = page.locator('[data-testid=track-box]', { has: editor.box });
    return Number(await group.getAttribute('data-x'));
  };
  const before = await x();
  const box = await editor.box.boundingBox();
  if (!box) throw new Error('There is no box.');
  const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await dragOver(page, from, { x: from.x + 15, y: from.y });
  const moved = await x();
  expect(moved).toBeGreaterThan(before + 10);
  // A knot of an area.
  await page.getByRole('button', { name: 'Suggest' }).click();
  await page.getByRole('button', { name: 'Look in…' }).click();
  await page.keyboard.press('Enter');
  const knot = page.getByTestId('knot').first();
  const at = await knot.boundingBox();
  if (!at) throw new Error('There is no knot.');
  await dragOver(page, { x: at.x + 9, y: at.y + 9 }, { x: at.x + 49, y: at.y + 29 });
  const there = await knot.boundingBox();
  expect(Math.abs((there?.x ?? 0) - at.x - 40)).toBeLessThan(3);
  await editor.step('Steady');
  const zoom = page.getByRole('slider', { name: 'Zoom' });
  await zoom.fill('1.5');
  await expect(zoom).toHaveAttribute('aria-valuetext', '150.0 %');
  await expect(page.getByTestId('save-state')).toHaveText('Saving…');
  answer();
  await editor.saved();
  expect(await x()).toBeCloseTo(moved, 3);
});
