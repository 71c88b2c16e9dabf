import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  frameBytes,
  indexClip,
  joinPictures,
  openClip,
  readFrames,
  startFfmpeg,
  type PictureFile,
} from './index.js';
import { makeStripClip, readStrip } from './testing/strip-clip.js';

const frames = 12;
const rate = { numerator: 24000, denominator: 1001 };
let folder: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-pictures-'));
  await makeStripClip({
    path: join(folder, 'strip.mkv'),
    frames,
    encode: ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p'],
  });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** The strip clip as single pictures, named with numbers that only sort right as numbers. */
async function pictures(extension: string, ...format: string[]): Promise<PictureFile[]> {
  const names = Array.from({ length: frames }, (_, i) => `crossing ${i + 1}.${extension}`);
  const pattern = join(folder, `crossing %d.${extension}`);
  await startFfmpeg(['-i', join(folder, 'strip.mkv'), ...format, '-start_number', '1', '-y', pattern]).done;
  // The order in which a page hands them over means nothing.
  return names.map((name) => ({ name, path: join(folder, name) })).reverse();
}

test.each([
  ['png', ['-pix_fmt', 'rgb24'], 8, '444'],
  ['png', ['-pix_fmt', 'rgb48be'], 16, '444'],
  ['jpg', ['-q:v', '2'], 8, '420'],
  ['tif', ['-pix_fmt', 'rgb24'], 8, '444'],
] as const)(
  'a sequence of %s (%j) becomes a clip, in order',
  async (extension, format, bits, subsampling) => {
    const path = join(folder, `${extension}${bits}.mov`);
    expect(await joinPictures(await pictures(extension, ...format), rate, path)).toBeNull();
    const clip = await openClip(path);
    expect(clip).toMatchObject({ bits, subsampling, frameRate: rate, width: 320, height: 180 });
    const proxy = `${path}.proxy.mp4`;
    const index = await indexClip(clip, { proxy });
    const all = Array.from({ length: frames }, (_, i) => i);
    for (const one of [clip, await openClip(proxy)]) {
      const slot = new Uint8Array(frameBytes(one, 'luma'));
      const seen: number[] = [];
      for await (const { data } of readFrames(one, { first: 0, planes: 'luma', slot: () => slot }))
        seen.push(readStrip(data, 320, 320));
      expect(seen).toEqual(all);
    }
    expect(index.key.every(Boolean)).toBe(true);
  },
);

test('numbers that are left out are said', async () => {
  const files = (await pictures('png')).filter(({ name }) => !/ (4|5|9)\./.test(name));
  expect(await joinPictures(files, rate, join(folder, 'gaps.mov'))).toBe(
    '3 pictures are missing from the sequence, first after "crossing 3.png".',
  );
});

test('what makes no sequence is refused in a sentence, and nothing is left behind', async () => {
  const [one, two] = await pictures('png');
  const [other] = await pictures('jpg');
  const notes = { name: 'notes.txt', path: join(folder, 'notes.txt') };
  await writeFile(notes.path, 'not a picture');
  const small = { name: 'small.png', path: join(folder, 'small.png') };
  await startFfmpeg(['-i', one.path, '-vf', 'scale=64:36', '-y', small.path]).done;
  const before = await readdir(folder);
  const target = join(folder, 'refused.mov');
  await expect(joinPictures([], rate, target)).rejects.toThrow(/not one picture/);
  await expect(joinPictures([one, notes], rate, target)).rejects.toThrow(/"notes.txt" is no picture/);
  await expect(joinPictures([two, other], rate, target)).rejects.toThrow(/of another kind than/);
  await expect(joinPictures([one, small], rate, target)).rejects.toThrow(/"small.png" has 64×36 pixels/);
  expect(await readdir(folder)).toEqual(before);
});
