import type { Clip } from './clip.js';
import { untrusted } from './guard.js';
import { startFfmpeg } from './process.js';
import { writeWhole } from './whole-file.js';

/**
 * Writes the first sound track of a clip as AAC in MP4, which every browser plays; it begins with the picture's first
 * frame. Nothing is left at `path` when it fails.
 */
export const writeSound = (clip: Clip, path: string): Promise<void> =>
  writeWhole(
    path,
    (partial) =>
      startFfmpeg([
        ...untrusted(clip.path),
        ...['-map', '0:a:0', '-vn', '-sn', '-dn', '-map_metadata', '-1'],
        ...['-af', 'aresample=async=1:first_pts=0', '-c:a', 'aac', '-b:a', '160k', '-ac', '2'],
        ...['-movflags', '+faststart', '-f', 'mp4', '-y', partial],
      ]).done,
  );
