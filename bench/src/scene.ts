import { existsSync, readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  apply,
  framesPerSecond,
  fullStrength,
  invert,
  matrixAt,
  multiply,
  noFraming,
  SceneMotions,
  steady,
  type HeldScene,
  type Mat3,
  type SteadySettings,
} from '@lurn/core';
import { encodingFor, frameTimes, indexClip, openClip, runTool, videoEncoding } from '@lurn/media';
import { analyseScene, placeStep, WorkerPool, type PackedScene } from '@lurn/pipeline';
import { hasOpenCv, withOpenCv } from './open-cv.js';
import { inTurns, seconds } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const clipsFolder = fileURLToPath(new URL('../../demo/clips/', import.meta.url));

interface Truth {
  layers: { name: string; frameFromLayer: Mat3[] }[];
}

/** The whole picture's motion against the films' truth, and its time against a bare decode and the same job with OpenCV. */
export async function benchScene(rounds: number): Promise<Table[]> {
  return [await accuracy(), await speed(rounds)];
}

async function accuracy(): Promise<Table> {
  const columns = [
    'clip',
    'first group is',
    'residual, px RMS',
    'off truth, px RMS',
    'last frame, px',
    'groups',
  ];
  const table = beginTable('scene', 'The whole picture’s motion, against truth', columns);
  for (const name of ['quay', 'lantern', 'crossing']) {
    const path = join(clipsFolder, `${name}.mp4`);
    if (!existsSync(path)) continue;
    const clip = await openClip(path);
    const index = await indexClip(clip);
    const { shots } = await analyseScene({ clip, index, first: 0, last: index.pts.length - 1 });
    const { layers } = JSON.parse(readFileSync(join(clipsFolder, `${name}.truth.json`), 'utf8')) as Truth;
    const [{ groups }] = shots;
    const [group] = groups.groups;
    const motion = group.models[group.proposed];
    const errors = layers.map((layer) => ({
      layer,
      ...errorOf(motion.matrices, group.middle, layer.frameFromLayer),
    }));
    const best = errors.reduce((a, b) => (b.rms < a.rms ? b : a));
    addRow(
      table,
      name,
      best.layer.name,
      motion.residual.toFixed(3),
      best.rms.toFixed(3),
      best.last.toFixed(3),
      groups.groups.length,
    );
  }
  return table;
}

/** How far a motion is from the truth about a place on its first frame. */
function errorOf(matrices: Float64Array, middle: { x: number; y: number }, truth: readonly Mat3[]) {
  const back = invert(truth[0]);
  let [sum, count, last] = [0, 0, 0];
  truth.forEach((matrix, k) => {
    for (const [dx, dy] of [
      [0, 0],
      [200, 0],
      [-200, 0],
      [0, 150],
      [0, -150],
    ]) {
      const a = apply(matrixAt(matrices, k), middle.x + dx, middle.y + dy);
      const b = apply(multiply(matrix, back), middle.x + dx, middle.y + dy);
      const off = Math.hypot(a.x - b.x, a.y - b.y);
      sum += off * off;
      count++;
      if (k === truth.length - 1) last = Math.max(last, off);
    }
  });
  return { rms: Math.sqrt(sum / count), last };
}

async function speed(rounds: number): Promise<Table> {
  const columns = ['what', 'ours', 'yardstick', 'ratio', 'goal'];
  const table = beginTable('scene', 'Finding the motion and steadying, 1080p', columns);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
  const pool = new WorkerPool();
  try {
    const path = join(clipsFolder, 'quay.mp4');
    const clip = await openClip(path);
    const index = await indexClip(clip);
    const last = index.pts.length - 1;
    const areas = { within: [], without: [] };
    const analyse = async (): Promise<PackedScene> => {
      let found: PackedScene | null = null;
      await pool.run({ kind: 'scene', clip, index, areas }, (news) => {
        if ('sceneFound' in news) found = news.sceneFound;
      });
      if (!found) throw new Error('No scene came back.');
      return found;
    };
    const decode = async (): Promise<void> => {
      await runTool('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v:0', '-f', 'null', '-']);
    };
    await analyse();
    const compare = async (
      what: string,
      own: () => Promise<void>,
      yardstick: () => Promise<void>,
      goal: string,
    ) => {
      const found = await inTurns(rounds, own, yardstick);
      addRow(table, what, seconds(found.ours), seconds(found.yardstick), found.ratio.toFixed(2), goal);
    };
    const finding = async (): Promise<void> => void (await analyse());
    await compare(`finding the motion of ${last + 1} frames, a bare decode`, finding, decode, '1.15');
    if (!hasOpenCv()) return table;
    const openCv =
      (...args: string[]) =>
      async (): Promise<void> =>
        void (await withOpenCv('scene.py', path, ...args));
    await compare('finding the motion, OpenCV', finding, openCv('analyse'), '0.33');
    const rate = `${framesPerSecond(clip.frameRate)}`;
    const theirs = openCv('all', join(folder, 'theirs.mp4'), rate, ...videoEncoding);
    const whole = async (): Promise<void> => {
      const { shots, motions } = await analyse();
      const table = new SceneMotions(shots);
      for (const [page, bytes] of motions) table.unpackPage(page, bytes);
      const held: HeldScene = {
        shots,
        motions: table,
        choices: shots.map(() => ({ group: 0, depth: null })),
      };
      const settings: SteadySettings = {
        ...{ mode: 'smooth', kind: 'even', model: 'auto', smoothSeconds: 1, referenceFrame: 0 },
        channels: { x: true, y: true, rotation: true, scale: true },
        strength: fullStrength,
        range: { first: 0, last },
        framing: { ...noFraming, zoom: 1.05 },
      };
      const solved = steady([], { ...clip, times: frameTimes(index, clip) }, settings, held);
      await pool.run(
        {
          ...{ kind: 'export', clip, index, first: 0, last, path: join(folder, 'ours.mp4') },
          steps: [placeStep(solved, clip, settings)],
          encoding: encodingFor({}, clip, false),
        },
        () => undefined,
      );
    };
    await compare('the whole job, with the movie, OpenCV', whole, theirs, '1');
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
  return table;
}
