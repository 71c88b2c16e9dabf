import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Plane } from '@lurn/core';
import { runTool } from '@lurn/media';
import { filmHeight, filmWidth } from './camera.js';

/** Sends pictures through H.264 of the given quality and gives back what a player would see. */
export async function compress(
  pictureAt: (k: number) => Plane,
  frames: number,
  crf: number,
): Promise<(k: number) => Plane> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-accuracy-'));
  try {
    const [raw, movie, back] = ['raw.y', 'movie.mp4', 'back.y'].map((name) => join(folder, name));
    const size = filmWidth * filmHeight;
    const all = new Uint8Array(size * frames);
    for (let k = 0; k < frames; k++) all.set(pictureAt(k).data, k * size);
    await writeFile(raw, all);
    const as = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${filmWidth}x${filmHeight}`];
    await runTool('ffmpeg', [
      '-v',
      'error',
      ...as,
      '-i',
      raw,
      '-pix_fmt',
      'yuvj420p',
      '-c:v',
      'libx264',
      '-crf',
      `${crf}`,
      movie,
    ]);
    await runTool('ffmpeg', ['-v', 'error', '-i', movie, '-vf', 'extractplanes=y', '-f', 'rawvideo', back]);
    const seen = await readFile(back);
    return (k) => ({
      data: seen.subarray(k * size, (k + 1) * size),
      width: filmWidth,
      height: filmHeight,
      stride: filmWidth,
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
