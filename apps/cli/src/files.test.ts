import { spawn, spawnSync } from 'node:child_process';
import {
  linkSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { makeStripClip } from '@lurn/media/testing';

const lurn = fileURLToPath(new URL('../bin/lurn.js', import.meta.url));
let folder: string;
let clip: string;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'lurn-files-'));
  clip = join(folder, 'in.mp4');
  await makeStripClip({ path: clip, frames: 12 });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function run(...args: string[]): { status: number | null; said: string; printed: string } {
  const { status, stderr, stdout } = spawnSync(process.execPath, [lurn, ...args], { encoding: 'utf8' });
  return { status, said: stderr.trim().split('\n')[0], printed: stdout };
}

test('what is read is never written over: by its name, a hard link, a symbolic link, with --force neither', () => {
  const before = readFileSync(clip);
  linkSync(clip, join(folder, 'hard.mp4'));
  symlinkSync(clip, join(folder, 'soft.mp4'));
  for (const name of ['in.mp4', 'hard.mp4', 'soft.mp4'])
    for (const force of [[], ['--force']]) {
      const { status, said, printed } = run('steady', clip, '--scene', '--out', join(folder, name), ...force);
      expect([name, status, printed]).toEqual([name, 2, '']);
      expect(said).toContain('which is read: choose another file to write to.');
    }
  expect(readFileSync(clip).equals(before)).toBe(true);
});

test('another file that is there is replaced with --force only, which is said before the work', () => {
  const out = join(folder, 'tracks.json');
  writeFileSync(out, 'kept');
  const track = ['track', clip, '--point', '150,90@0', '--out', out];
  expect(run(...track)).toMatchObject({ status: 2, said: `"${out}" is there already: --force replaces it.` });
  expect(readFileSync(out, 'utf8')).toBe('kept');
  expect(run(...track, '--force').status).toBe(0);
  expect(readFileSync(out, 'utf8')).toContain('lurn-tracks');
});

test('a folder or a file that is missing is told before the work, and so is a point outside the picture', () => {
  const nowhere = join(folder, 'nowhere');
  expect(run('steady', clip, '--scene', '--out', join(nowhere, 'out.mp4'))).toMatchObject({
    ...{ status: 2, printed: '' },
    said: `There is no folder "${nowhere}" to write "${join(nowhere, 'out.mp4')}" to.`,
  });
  const out = join(folder, 'out.mp4');
  expect(run('dress', clip, '--recipe', `${nowhere}.json`, '--out', out)).toMatchObject({
    ...{ status: 2, said: `There is no file "${nowhere}.json".` },
  });
  const { status, said } = run('steady', clip, '--point', '5000,90@0=plate', '--out', out);
  expect([status, said]).toEqual([2, expect.stringContaining('"plate" at 5000,90 lies outside the picture')]);
});

test('a recipe’s own pictures are not written over either', () => {
  const picture = join(folder, 'sign.png');
  writeFileSync(picture, 'no picture yet');
  const recipe = join(folder, 'recipe.json');
  const layer = {
    name: 'Sign',
    content: { kind: 'clip', clip: 'other.mp4', quad: [0, 0, 9, 0, 9, 9, 0, 9] },
  };
  linkSync(clip, join(folder, 'other.mp4'));
  writeFileSync(
    recipe,
    JSON.stringify({
      ...{ format: 'lurn-recipe', version: 1, clip: { name: 'in', width: 320, height: 180, frames: 12 } },
      records: [{ kind: 'layer', id: 'a', view: layer }],
    }),
  );
  const { status, said } = run(
    'dress',
    clip,
    '--recipe',
    recipe,
    '--out',
    join(folder, 'other.mp4'),
    '--force',
  );
  expect([status, said]).toEqual([2, expect.stringContaining('which is read')]);
});

test('an interrupted export leaves nothing behind', async () => {
  const long = join(folder, 'long.mp4');
  await makeStripClip({ path: long, frames: 400 });
  const before = readdirSync(folder).sort();
  const child = spawn(process.execPath, [
    lurn,
    'steady',
    long,
    '--point',
    '150,90@0',
    '--out',
    join(folder, 'cut.mp4'),
  ]);
  const ended = new Promise<number | null>((resolve) => child.on('close', resolve));
  // Called off while it writes.
  for (
    let waited = 0;
    waited < 60_000 && !readdirSync(folder).some((name) => name.includes('cut'));
    waited += 5
  )
    await new Promise((resolve) => setTimeout(resolve, 5));
  child.kill('SIGTERM');
  expect(await ended).toBe(130);
  expect(readdirSync(folder).sort()).toEqual(before);
});
