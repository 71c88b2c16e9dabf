import { fieldsApart, type Clip } from './clip.js';
import type { ClipIndex } from './clip-index.js';
import { frameTime, keyAtOrBefore } from './clip-index.js';
import { untrusted } from './guard.js';
import { startFfmpeg } from './process.js';

/** A picture's file in another format. */
export async function stillAs(path: string, format: 'png' | 'tiff'): Promise<Buffer> {
  const tool = startFfmpeg(['-i', path, '-c:v', format, '-f', 'image2pipe', 'pipe:1']);
  return collected(tool);
}

/** All that a tool writes, once it has ended well. */
export async function collected(tool: ReturnType<typeof startFfmpeg>): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of tool.process.stdout as AsyncIterable<Buffer>) parts.push(part);
  await tool.done;
  return Buffer.concat(parts);
}

/** One frame as a JPEG, for looking at closely, or a PNG or TIFF, to keep; at full size unless told otherwise. */
export async function readStill(
  clip: Clip,
  index: ClipIndex,
  frame: number,
  {
    size,
    format = 'jpeg',
  }: { size?: { width: number; height: number }; format?: 'jpeg' | 'png' | 'tiff' } = {},
): Promise<Buffer> {
  const key = keyAtOrBefore(index, frame);
  const fit = size ? [`scale=${size.width}:${size.height}:flags=area`] : [];
  const seek =
    key > 0
      ? ['-seek_timestamp', '1', '-ss', (frameTime(index, key) + 1e-4).toFixed(6), '-noaccurate_seek']
      : [];
  const encoding = format === 'jpeg' ? ['-q:v', '2', '-c:v', 'mjpeg'] : ['-c:v', format];
  const tool = startFfmpeg([
    ...seek,
    ...['-copyts', ...untrusted(clip.path), '-map', '0:V:0'],
    ...['-vf', [...fieldsApart(clip), `select=gte(pts\\,${index.pts[frame]})`, ...fit].join(',')],
    ...['-fps_mode', 'passthrough', '-frames:v', '1', ...encoding, '-f', 'image2pipe', 'pipe:1'],
  ]);
  return collected(tool);
}
