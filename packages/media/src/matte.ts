import { alphaDecoder, fieldsApart, type Clip } from './clip.js';
import { untrusted } from './guard.js';
import { proxyMovie, proxyRate, proxySize } from './index-clip.js';
import { startFfmpeg } from './process.js';
import { writeWhole } from './whole-file.js';

/**
 * Writes how much each pixel of a clip covers as a grey movie of limited range, of the proxy's size and clock: frame by frame
 * beside it. Nothing is left at `path` when it fails.
 */
export function writeMatte(clip: Clip, path: string): Promise<void> {
  const rate = proxyRate(clip);
  const { width, height } = proxySize(clip);
  const filters = [
    ...fieldsApart(clip),
    `settb=1/${rate},setpts=N,format=rgba,alphaextract`,
    `scale=${width}:${height}:flags=area:in_range=pc:out_range=tv,format=yuv420p`,
  ];
  const input = [...alphaDecoder(clip), '-copyts', ...untrusted(clip.path)];
  const taken = ['-map', '0:V:0', '-an', '-sn', '-dn', '-vf', filters.join(',')];
  return writeWhole(path, (partial) => startFfmpeg([...input, ...taken, ...proxyMovie(rate, partial)]).done);
}
