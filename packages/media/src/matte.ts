import { rename, rm } from 'node:fs/promises';
import { alphaDecoder, fieldsApart, type Clip } from './clip.js';
import { untrusted } from './guard.js';
import { proxyEncoding, proxyRate, proxySize } from './index-clip.js';
import { startFfmpeg } from './process.js';

/**
 * Writes how much each pixel of a clip covers as a grey movie of limited range, of the proxy's size and clock: frame by frame
 * beside it. Nothing is left at `path` when it fails.
 */
export async function writeMatte(clip: Clip, path: string): Promise<void> {
  const partial = `${path}.partial`;
  const rate = proxyRate(clip);
  const { width, height } = proxySize(clip);
  const filters = [
    ...fieldsApart(clip),
    `settb=1/${rate},setpts=N,format=rgba,alphaextract`,
    `scale=${width}:${height}:flags=area:in_range=pc:out_range=tv,format=yuv420p`,
  ];
  try {
    await startFfmpeg([
      ...alphaDecoder(clip),
      ...['-copyts', ...untrusted(clip.path), '-map', '0:V:0', '-an', '-sn', '-dn', '-vf', filters.join(',')],
      ...['-fps_mode', 'passthrough', '-enc_time_base', `1/${rate}`, '-video_track_timescale', `${rate}`],
      ...proxyEncoding,
      ...['-movflags', '+faststart', '-f', 'mp4', '-y', partial],
    ]).done;
    await rename(partial, path);
  } finally {
    await rm(partial, { force: true });
  }
}
