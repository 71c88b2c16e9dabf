import { copyFile, link, mkdtemp, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { formatFrameRate, type FrameRate } from '@lurn/core';
import { imageSizeFromFile } from 'image-size/fromFile';
import { MediaError } from './media-error.js';
import { startFfmpeg } from './process.js';

/** A picture on the disk and what the person calls it. */
export interface PictureFile {
  name: string;
  path: string;
}

/** Kinds of pictures that make a sequence. */
const kinds = ['png', 'jpg', 'tiff'];
const inOrder = new Intl.Collator('en', { numeric: true }).compare;

/**
 * Strings single pictures together as one MOV in the order of their names, each as it is, not encoded anew. Returns
 * a sentence on numbers that are left out, or null. Throws a MediaError when they are not of one kind and size.
 */
export async function joinPictures(
  files: readonly PictureFile[],
  rate: FrameRate,
  target: string,
  signal?: AbortSignal,
): Promise<string | null> {
  if (files.length === 0) throw new MediaError('There is not one picture in it.');
  const sorted = [...files].sort((a, b) => inOrder(a.name, b.name));
  const type = await requireAlike(sorted);
  const folder = await mkdtemp(join(dirname(target), 'pictures-'));
  try {
    for (const [i, { path }] of sorted.entries()) {
      const place = join(folder, `${String(i).padStart(7, '0')}.${type}`);
      await link(path, place).catch(() => copyFile(path, place));
    }
    await startFfmpeg(
      [
        ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', 'image2', '-f', 'image2'],
        ...['-framerate', formatFrameRate(rate), '-i', join(folder, `%07d.${type}`)],
        ...['-c', 'copy', '-f', 'mov', '-y', target],
      ],
      { signal },
    ).done;
  } catch (error) {
    await rm(target, { force: true });
    throw error;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
  return leftOut(sorted.map(({ name }) => name));
}

async function requireAlike(files: readonly PictureFile[]): Promise<string> {
  let first: { type?: string; width: number; height: number; name: string } | null = null;
  for (const { name, path } of files) {
    const size = await imageSizeFromFile(path).catch(() => null);
    if (!size || !kinds.includes(size.type ?? ''))
      throw new MediaError(`"${name}" is no picture; a sequence is made of PNG, JPEG or TIFF files.`);
    first ??= { ...size, name };
    if (size.type !== first.type)
      throw new MediaError(`"${name}" is of another kind than "${first.name}"; a sequence has one kind.`);
    if (size.width !== first.width || size.height !== first.height) {
      throw new MediaError(
        `"${name}" has ${size.width}×${size.height} pixels, "${first.name}" ${first.width}×${first.height}; a sequence has one size.`,
      );
    }
  }
  return first?.type ?? '';
}

/** Says which numbers the names of a sequence skip. */
function leftOut(names: readonly string[]): string | null {
  const numbers = names.map((name) => Number(/(\d+)\D*$/.exec(name.replace(/\.[^.]*$/, ''))?.[1] ?? NaN));
  let missing = 0;
  let after = '';
  for (let i = 1; i < numbers.length; i++) {
    const step = numbers[i] - numbers[i - 1];
    if (!(step > 1)) continue;
    if (missing === 0) after = names[i - 1];
    missing += step - 1;
  }
  // Numbers that mean something else, a date say, skip far more than they hold.
  if (missing === 0 || missing > names.length) return null;
  return `${missing === 1 ? '1 picture is' : `${missing} pictures are`} missing from the sequence, first after "${after}".`;
}
