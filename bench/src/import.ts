import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { indexClip, openClip, proxyEncoding, proxySize, runTool } from '@lurn/media';
import { inTurns, seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));

/** Reading a clip, with index, proxy and checks, against bare decoding, scaling and encoding of the same proxy. */
export async function benchImport(rounds: number): Promise<Table[]> {
  const columns = ['what', 'ours', 'yardstick', 'rate', 'goal'];
  const table = beginTable('import', 'Reading a clip against a bare decode, scale and encode', columns);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  try {
    const clip = await openClip(quay);
    const { width, height } = proxySize(clip);
    const ours = async (): Promise<void> => void (await indexClip(clip, { proxy: join(folder, 'ours.mp4') }));
    const bare = async (): Promise<void> => {
      const scale = ['-vf', `scale=${width}:${height}:flags=area,format=yuv420p`, '-an'];
      const out = join(folder, 'bare.mp4');
      await runTool('ffmpeg', ['-v', 'error', '-i', quay, ...scale, ...proxyEncoding, '-y', out]);
    };
    const { ours: own, yardstick, ratio } = await inTurns(rounds, ours, bare);
    addRow(table, '300 frames, 1080p', seconds(own), seconds(yardstick), (1 / ratio).toFixed(2), 0.9);
    return [table];
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
