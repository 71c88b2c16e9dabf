import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  defaultFollowOptions,
  noFraming,
  Samples,
  SampleState,
  similarityMatrix,
  type Point,
} from '@lurn/core';
import { encodingFor, indexClip, openClip, runTool, videoEncoding } from '@lurn/media';
import { packSamples, placeStep, suggest, WorkerPool, type TrackTask } from '@lurn/pipeline';
import { peakMemory, type Memory } from './process-tree.js';
import { inTurns, median, seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));
const lurn = fileURLToPath(new URL('../../apps/cli/bin/lurn.js', import.meta.url));
const plate = { x: 1171.4, y: 576.3 };

/** Tracking against a bare decode, export against a bare decode-and-encode, memory against length. */
export async function benchPipeline(rounds: number): Promise<Table[]> {
  const columns = ['what', 'ours', 'yardstick', 'ratio', 'goal'];
  const table = beginTable('pipeline', 'Following and exporting, 1080p, against ffmpeg alone', columns);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  const pool = new WorkerPool();
  try {
    const clip = await openClip(quay);
    const index = await indexClip(clip);
    const frames = index.pts.length;
    const last = frames - 1;

    const key = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };
    const taskOf = (points: readonly Point[], from: number, to: number): TrackTask => ({
      kind: 'track',
      clip,
      index,
      direction: 'forwards',
      first: 0,
      last: to,
      runs: points.map((point) => {
        const samples = new Samples(frames);
        samples.set(from, { ...point, ...key });
        return { samples: packSamples(samples), options: defaultFollowOptions, offsets: [], from };
      }),
    });
    const follow =
      (points: readonly Point[]): (() => Promise<void>) =>
      () =>
        pool.run(taskOf(points, 0, last), () => undefined);
    const decode = async (): Promise<void> => {
      await runTool('ffmpeg', ['-v', 'error', '-i', quay, '-map', '0:v:0', '-f', 'null', '-']);
    };
    await follow([plate])();
    const many = await suggest({ clip, index, frame: 0, options: { ...defaultFollowOptions, count: 200 } });
    for (const [name, points, goal, count] of [
      ['one point', [plate], 1.05, rounds],
      [`${many.length} points`, many, 1.3, Math.max(1, rounds - 3)],
    ] as const) {
      const { ours, yardstick, ratio } = await inTurns(count, follow(points), decode);
      const what = `${name} over ${frames} frames, a bare decode`;
      addRow(table, what, seconds(ours), seconds(yardstick), ratio.toFixed(2), goal);
    }

    // Steps by hand, as the server takes them, once the frames about the place are at hand.
    const atHand = new WorkerPool(1, 8);
    await atHand.run({ kind: 'warm', clip, index, frame: 0 }, () => undefined);
    // As long as it takes a person to look at the clip that has opened.
    await new Promise((resolve) => setTimeout(resolve, 1000));
    const steps: number[] = [];
    for (let frame = 0; frame < 16; frame++) {
      const start = performance.now();
      await atHand.run({ ...taskOf([plate], frame, frame + 1), step: true }, () => undefined);
      steps.push(performance.now() - start);
    }
    await atHand.close();
    steps.sort((a, b) => a - b);
    addRow(table, 'one frame stepped by hand, median', `${median(steps).toFixed(0)} ms`, '', '', '50 ms');
    addRow(
      table,
      `the same, worst of ${steps.length}`,
      `${steps[steps.length - 1].toFixed(0)} ms`,
      '',
      '',
      '50 ms',
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
        {
          kind: 'export',
          clip,
          index,
          steps: [placeStep({ placements, rows: null, zooms: null }, clip, { framing: noFraming })],
          encoding: encodingFor({}, clip, false),
          first: 0,
          last,
          path,
        },
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
    const { ours: exported, yardstick: encoded, ratio: share } = exporting;
    const what = `export of ${frames} frames, a bare decode and encode`;
    addRow(table, what, seconds(exported), seconds(encoded), share.toFixed(2), 1.25);

    const long = join(folder, 'long.mp4');
    await runTool('ffmpeg', ['-v', 'error', '-stream_loop', '2', '-i', quay, '-c', 'copy', '-y', long]);
    const tracks = join(folder, 'tracks.json');
    const steadied = ['--mode', 'smooth', '--out', path];
    for (const [name, file] of [
      ['10 s', quay],
      ['30 s', long],
    ]) {
      const point = ['--point', `${plate.x},${plate.y}@0`, '--range', '0:250'];
      const following = await peakMemory(process.execPath, [lurn, 'track', file, ...point, '--out', tracks]);
      const exporting = await peakMemory(process.execPath, [
        lurn,
        'steady',
        file,
        '--tracks',
        tracks,
        ...steadied,
      ]);
      addRow(
        table,
        `peak memory following, ${name} clip, ours and ffmpeg’s`,
        both(following),
        '',
        '',
        'flat',
      );
      addRow(
        table,
        `peak memory exporting, ${name} clip, ours and ffmpeg’s`,
        both(exporting),
        '',
        '',
        'flat',
      );
    }

    // Two seconds of four times as many pixels.
    const large = join(folder, 'large.mp4');
    const enlarge = ['-vf', 'scale=3840:2160:flags=bicubic', '-frames:v', '60', '-an', ...videoEncoding];
    await runTool('ffmpeg', ['-v', 'error', '-i', quay, ...enlarge, '-y', large]);
    const point = ['--point', `${2 * plate.x},${2 * plate.y}@0`];
    await runTo([lurn, 'track', large, ...point, '--out', tracks]);
    for (const [name, size, filter] of [
      ['4K', [], []],
      ['4K to HD', ['--size', '1920x1080'], ['-vf', 'scale=1920:1080:flags=area']],
    ] as const) {
      const ours = [lurn, 'steady', large, '--tracks', tracks, ...size, ...steadied];
      const bare = ['-v', 'error', '-i', large, ...filter, ...videoEncoding, '-y', join(folder, 'bare.mp4')];
      const turn = await inTurns(
        1,
        () => runTo(ours),
        async () => void (await runTool('ffmpeg', bare)),
      );
      const what = `export of 60 frames, ${name}, whole command, a bare decode and encode`;
      addRow(table, what, seconds(turn.ours), seconds(turn.yardstick), turn.ratio.toFixed(2), '');
      const memory = await peakMemory(process.execPath, ours);
      addRow(table, `peak memory exporting ${name}, ours and ffmpeg’s`, both(memory), '', '', 'ours 644 MB');
    }
    return [table];
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
}

const megabytes = (bytes: number): string => `${Math.round(bytes / 1e6)} MB`;
const both = ({ own, ffmpeg }: Memory): string => `${megabytes(own)}, ${megabytes(ffmpeg)}`;

/** Runs a command of ours to its end. */
const runTo = async (args: string[]): Promise<void> => void (await peakMemory(process.execPath, args));
