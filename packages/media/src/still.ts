import type { Clip } from './clip.js';
import type { ClipIndex } from './clip-index.js';
import { frameTime, keyAtOrBefore } from './clip-index.js';
import { untrusted } from './guard.js';
import { startFfmpeg } from './process.js';

/** One frame at full size as a JPEG, for looking at closely. */
export async function readStill(clip: Clip, index: ClipIndex, frame: number): Promise<Buffer> {
  const key = keyAtOrBefore(index, frame);
  const seek =
    key > 0
      ? ['-seek_timestamp', '1', '-ss', (frameTime(index, key) + 1e-4).toFixed(6), '-noaccurate_seek']
      : [];
  const tool = startFfmpeg([
    ...seek,
    ...['-copyts', ...untrusted(clip.path), '-map', '0:V:0', '-vf', `select=gte(pts\\,${index.pts[frame]})`],
    ...['-fps_mode', 'passthrough', '-frames:v', '1', '-q:v', '2', '-f', 'mjpeg', 'pipe:1'],
  ]);
  const parts: Buffer[] = [];
  for await (const part of tool.process.stdout as AsyncIterable<Buffer>) parts.push(part);
  await tool.done;
  return Buffer.concat(parts);
}
