import { basename } from 'node:path';
import type { LayerPicture } from '@lurn/core';
import { imageSizeFromFile } from 'image-size/fromFile';
import { MediaError } from './media-error.js';
import { startFfmpeg } from './process.js';
import { collected } from './still.js';

/** Pictures that layers show, and ffmpeg's readers of them. */
const readers: Record<string, string> = {
  png: 'png_pipe',
  jpg: 'jpeg_pipe',
  webp: 'webp_pipe',
  tiff: 'tiff_pipe',
};
const mostPixels = 64e6;

/** Reads a picture with its alpha. Throws a MediaError that says what is wrong with it. */
export async function readLayerPicture(path: string, name = basename(path)): Promise<LayerPicture> {
  const size = await imageSizeFromFile(path).catch(() => null);
  const reader = readers[size?.type ?? ''];
  if (!size || !reader)
    throw new MediaError(`"${name}" is no picture that can be read: PNG, JPEG, WebP or TIFF.`);
  const { width, height } = size;
  if (width * height > mostPixels)
    throw new MediaError(
      `"${name}" is ${width}×${height}: a picture may have ${mostPixels / 1e6} million pixels.`,
    );
  const tool = startFfmpeg([
    ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', reader, '-f', reader, '-i', path],
    ...['-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'rgba', 'pipe:1'],
  ]);
  const bytes = await collected(tool).catch((error: Error) => {
    throw new MediaError(`"${name}" cannot be read.`, { cause: error });
  });
  const rgba = new Uint8Array(bytes);
  if (rgba.length !== 4 * width * height) throw new MediaError(`"${name}" cannot be read whole.`);
  return { width, height, rgba };
}
