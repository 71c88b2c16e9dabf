import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { defaultFollowOptions, Samples, SampleState, similarityMatrix } from '@lurn/core';
import { indexClip, openClip, runTool, videoEncoding } from '@lurn/media';
import { packSamples, WorkerPool } from '@lurn/pipeline';
import { peakBytes } from './process-tree.js';
import { inTurns, seconds } from './rounds.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));
const lurn = fileURLToPath(new URL('../../apps/cli/bin/lurn.js', import.meta.url));
const plate = { x: 1171.4, y: 576.3 };

/** Tracking against a bare decode, export against a bare decode-and-encode, memory against length. */
export async function benchPipeline(rounds: number): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  const pool = new WorkerPool();
  try {
    const clip = await openClip(quay);
    const index = await indexClip(clip);
    const frames = index.pts.length;
    const last = frames - 1;

    const follow = (): Promise<void> => {
      const samples = new Samples(frames);
      samples.set(0, { ...plate, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
      const runs = [{ samples: packSamples(samples), options: defaultFollowOptions, offsets: [], from: 0 }];
      return pool.run(
        { kind: 'track', clip, index, runs, direction: 'forwards', first: 0, last },
        () => undefined,
      );
    };
    const decode = async (): Promise<void> => {
      await runTool('ffmpeg', ['-v', 'error', '-i', quay, '-map', '0:v:0', '-f', 'null', '-']);
    };
    await follow();
    const tracking = await inTurns(rounds, follow, decode);
    console.log(
      `one point over ${frames} frames   ${seconds(tracking.ours)}  bare decode ${seconds(tracking.yardstick)}  ratio ${tracking.ratio.toFixed(2)} (goal 1.20)`,
    );

    const placements = new Float64Array(9 * frames);
    const centre = { x: clip.width / 2, y: clip.height / 2 };
    for (let k = 0; k < frames; k++) {
      const shake = {
        x: 9 * Math.sin(k / 5),
        y: 7 * Math.cos(k / 4),
        rotation: 0.006 * Math.sin(k / 9),
        scale: 1.05,
      };
      placements.set(similarityMatrix(shake, centre), 9 * k);
    }
    const path = join(folder, 'ours.mp4');
    const write = (): Promise<void> =>
      pool.run(
        { kind: 'export', clip, index, placements, first: 0, last, interpolation: 'cubic', path },
        () => undefined,
      );
    const encode = async (): Promise<void> => {
      await runTool('ffmpeg', [
        '-v',
        'error',
        '-i',
        quay,
        ...videoEncoding,
        '-c:a',
        'copy',
        '-y',
        join(folder, 'bare.mp4'),
      ]);
    };
    const exporting = await inTurns(Math.max(1, rounds - 2), write, encode);
    console.log(
      `export of ${frames} frames       ${seconds(exporting.ours)}  bare decode and encode ${seconds(exporting.yardstick)}  ratio ${exporting.ratio.toFixed(2)} (goal 1.25)`,
    );

    const long = join(folder, 'long.mp4');
    await runTool('ffmpeg', ['-v', 'error', '-stream_loop', '2', '-i', quay, '-c', 'copy', '-y', long]);
    for (const [name, file] of [
      ['10 s', quay],
      ['30 s', long],
    ]) {
      const tracks = join(folder, 'tracks.json');
      const point = ['--point', `${plate.x},${plate.y}@0`, '--range', '0:250'];
      const trackPeak = await peakBytes(process.execPath, [lurn, 'track', file, ...point, '--out', tracks]);
      const exportPeak = await peakBytes(process.execPath, [
        lurn,
        'steady',
        file,
        '--tracks',
        tracks,
        '--out',
        path,
        '--mode',
        'smooth',
      ]);
      const megabytes = (bytes: number): string => `${Math.round(bytes / 1e6)} MB`;
      console.log(
        `peak memory of the whole process tree, ${name} clip: tracking ${megabytes(trackPeak)}, export ${megabytes(exportPeak)}`,
      );
    }
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
}
