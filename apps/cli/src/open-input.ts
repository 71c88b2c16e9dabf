import { rmSync } from 'node:fs';
import { mkdtemp, readdir, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { parseFrameRate } from '@lurn/core';
import { joinPictures, openClip, type Clip } from '@lurn/media';
import { UsageError } from './usage-error.js';

export interface InputArguments {
  /** For a folder of pictures: how many a second. */
  rate?: string;
  asFields?: boolean;
}

/** Opens a video, or a folder of pictures as one clip, and hands it to the work. */
export async function withInput<T>(
  path: string,
  { rate, asFields = false }: InputArguments,
  work: (clip: Clip) => Promise<T>,
): Promise<T> {
  const isFolder = (await stat(path).catch(() => null))?.isDirectory() ?? false;
  if (!isFolder) {
    const clip = await openClip(path, undefined, { asFields });
    if (asFields && clip.interlaced === null) throw new UsageError(`"${clip.name}" is not interlaced.`);
    return work(clip);
  }
  if (rate === undefined) throw new UsageError('A folder of pictures needs --rate, like 25 or 24000/1001.');
  const scratch = await mkdtemp(join(tmpdir(), 'lurn-pictures-'));
  const clear = (): void => rmSync(scratch, { recursive: true, force: true });
  // However the program ends.
  process.once('exit', clear);
  try {
    const names = (await readdir(path)).filter((name) => /\.(png|jpe?g|tiff?)$/i.test(name));
    const joined = join(scratch, 'joined.mov');
    const files = names.map((name) => ({ name, path: join(path, name) }));
    const missing = await joinPictures(files, exact(rate), joined);
    if (missing) console.error(missing);
    return await work(await openClip(joined, basename(path)));
  } finally {
    clear();
  }
}

function exact(rate: string) {
  try {
    return parseFrameRate(rate);
  } catch {
    throw new UsageError(`--rate must be like 25 or 24000/1001, not "${rate}".`);
  }
}
