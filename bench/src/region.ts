import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  apply,
  boxCorners,
  cornerKnot,
  cornersFromCentre,
  defaultFollowOptions,
  quadFromQuad,
  regionOn,
  regionOptions,
  Samples,
  SampleState,
  type Point,
  type Quad,
} from '@lurn/core';
import { board, cornersAt, filmSize, FlatFilm, type Hardship } from '@lurn/core/testing';
import { indexClip, openClip, runTool, startFfmpeg } from '@lurn/media';
import { packSamples, WorkerPool } from '@lurn/pipeline';
import { hasOpenCv, withOpenCv } from './open-cv.js';
import { inTurns, seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const frames = 150;
const hardship: Hardship = { frames, period: 150, yaw: 0.6, light: 0.2, grain: 2, blur: 1.6 };

/** Where the corners of a region about the board's middle are on a frame. */
function truthAt(region: Quad, frame: number): Point[] {
  const matrix = quadFromQuad(
    cornersAt(board, hardship, frame) as unknown as Quad,
    cornersAt(board, hardship, 0) as unknown as Quad,
  );
  if (!matrix) throw new Error('The board has no area.');
  return region.map(({ x, y }) => apply(matrix, x, y));
}

/** RMS of the corners over all frames, and the largest distance of one, pixels. */
function errorOf(region: Quad, cornersOn: (frame: number) => readonly Point[]) {
  let [sum, worst] = [0, 0];
  for (let k = 1; k < frames; k++) {
    const truth = truthAt(region, k);
    cornersOn(k).forEach(({ x, y }, i) => {
      const off = Math.hypot(x - truth[i].x, y - truth[i].y);
      sum += (off * off) / 4;
      worst = Math.max(worst, off);
    });
  }
  return { rms: Math.sqrt(sum / (frames - 1)), worst };
}

async function makeFilm(path: string): Promise<void> {
  const film = new FlatFilm(board, hardship);
  const { width, height } = filmSize;
  const { process, done } = startFfmpeg([
    ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${width}x${height}`, '-framerate', '25', '-i', 'pipe:0'],
    ...['-pix_fmt', 'yuv420p', '-color_range', 'tv', '-c:v', 'libx264', '-crf', '14', '-y', path],
  ]);
  for (let k = 0; k < frames; k++)
    if (!process.stdin.write(film.shoot(k).data)) await once(process.stdin, 'drain');
  process.stdin.end();
  await done;
}

/** A region of 400 × 300 pixels through a clip, against a bare decode and two ways with OpenCV; and how exact each is. */
export async function benchRegion(rounds: number): Promise<Table[]> {
  const speed = beginTable('region', 'A region of 400 × 300 px, 1080p', [
    ...['what', 'ours', 'yardstick', 'ratio', 'goal'],
  ]);
  const exact = beginTable('region', 'The same region’s corners, against truth', [
    'how',
    'px RMS',
    'worst, px',
  ]);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-region-'));
  const pool = new WorkerPool();
  try {
    const path = join(folder, 'board.mp4');
    await makeFilm(path);
    const clip = await openClip(path);
    const index = await indexClip(clip);
    const corners = boxCorners({ left: 760, top: 390, right: 1160, bottom: 690 });
    const region = regionOn(0, [{ knots: corners.map(cornerKnot) }], corners);
    const samples = new Samples(frames);
    const { x, y } = region.centre;
    samples.set(0, { x, y, rotation: 0, scale: 1, confidence: 1, state: SampleState.placed });
    const options = {
      ...defaultFollowOptions,
      ...({ model: 'homography', below: 'mark' } as const),
      region: regionOptions(region, () => null),
    };
    const found = new Samples(frames);
    found.corners = cornersFromCentre(region);
    found.set(0, { x, y, rotation: 0, scale: 1, confidence: 1, state: SampleState.placed });
    const follow = (): Promise<void> =>
      pool.run(
        {
          ...({ kind: 'track', direction: 'forwards', clip, index } as const),
          ...{ first: 0, last: frames - 1 },
          runs: [{ samples: packSamples(samples), options, offsets: [], from: 0 }],
        },
        (news) => {
          if ('found' in news) for (const sample of news.found) found.set(sample.frame, sample);
        },
      );
    const decode = (): Promise<unknown> =>
      runTool('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v:0', '-f', 'null', '-']);
    await follow();
    const own = errorOf(region.quad, (k) => found.cornersAt(k));
    addRow(exact, 'ours', own.rms.toFixed(3), own.worst.toFixed(2));
    const compare = async (what: string, yardstick: () => Promise<unknown>, goal: string): Promise<void> => {
      const turns = await inTurns(rounds, follow, async () => void (await yardstick()));
      addRow(speed, what, seconds(turns.ours), seconds(turns.yardstick), turns.ratio.toFixed(2), goal);
    };
    await compare(`${frames} frames, a bare decode`, decode, '1.3');
    if (!hasOpenCv()) return [speed, exact];
    const told = corners.map((p) => `${p.x},${p.y}`).join(';');
    for (const [how, name] of [
      ['features', 'OpenCV, features and a robust homography'],
      ['ecc', 'OpenCV, its ECC'],
    ]) {
      let printed = '';
      await compare(name, async () => (printed = await withOpenCv('region.py', path, how, told)), '1');
      const lines = printed
        .trim()
        .split('\n')
        .map((line) => line.split(' ').map(Number));
      const theirs = errorOf(region.quad, (k) =>
        [0, 1, 2, 3].map((i) => ({ x: lines[k][2 * i], y: lines[k][2 * i + 1] })),
      );
      addRow(exact, name, theirs.rms.toFixed(3), theirs.worst.toFixed(2));
    }
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
  return [speed, exact];
}
