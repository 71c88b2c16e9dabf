import { access, mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { defaultFollowOptions, noFraming, Samples, SampleState, translation } from '@lurn/core';
import {
  encodingFor,
  frameBytes,
  indexClip,
  openClip,
  readFrames,
  startFfmpeg,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import {
  exportMovie,
  placeStep,
  packSamples,
  WorkerPool,
  type ExportTask,
  type FoundSample,
  type TrackTask,
} from './index.js';
import { FrameCache } from './pass/frame-cache.js';

const frames = 40;
const asIs = (placements: Float64Array) => ({ placements, rows: null, zooms: null });
const position = (k: number) => ({ x: 0.9 * k, y: 6 * Math.sin(k / 5) });

let folder: string;
let clip: Clip;
let index: ClipIndex;
const pool = new WorkerPool();

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-pipeline-'));
  const path = join(folder, 'moving.mp4');
  await makeStripClip({ path, frames, position, sound: 1.6 });
  clip = await openClip(path);
  index = await indexClip(clip);
});
afterAll(async () => {
  await pool.close();
  await rm(folder, { recursive: true, force: true });
});

const key = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };

function task(
  keys: { frame: number; x: number; y: number }[],
  from: number,
  direction: TrackTask['direction'],
): TrackTask {
  const samples = new Samples(frames);
  for (const { frame, x, y } of keys) samples.set(frame, { ...key, x, y });
  const run = {
    samples: packSamples(samples),
    options: { ...defaultFollowOptions, search: { width: 81, height: 81 } },
    offsets: [],
    from,
  };
  return { kind: 'track', clip, index, runs: [run], direction, first: 0, last: frames - 1 };
}

async function found(what: TrackTask): Promise<FoundSample[]> {
  const all: FoundSample[] = [];
  await pool.run(what, (news) => 'found' in news && all.push(...news.found));
  return all;
}

test('tracks both ways from a key in the middle, right to a tenth of a pixel', async () => {
  const start = { frame: 20, x: 150, y: 100 };
  const samples = await found(task([start], 20, 'both'));
  expect(samples.map((s) => s.frame).sort((a, b) => a - b)).toEqual(
    Array.from({ length: frames }, (_, k) => k).filter((k) => k !== 20),
  );
  const squares = samples.map((s) => {
    const dx = s.x - (start.x + position(s.frame).x - position(20).x);
    const dy = s.y - (start.y + position(s.frame).y - position(20).y);
    return dx * dx + dy * dy;
  });
  expect(Math.sqrt(squares.reduce((a, b) => a + b) / squares.length)).toBeLessThan(0.1);
});

test('a key on the way is kept, and the path goes on from it', async () => {
  // The second key is on another feature: what is followed from there on is that one.
  const samples = await found(
    task(
      [
        { frame: 0, x: 120, y: 90 },
        { frame: 15, x: 180, y: 110 },
      ],
      0,
      'forwards',
    ),
  );
  expect(samples.some((s) => s.frame === 15)).toBe(false);
  const last = samples.find((s) => s.frame === 30);
  expect(last?.x).toBeCloseTo(180 + position(30).x - position(15).x, 0);
});

test('between two keys both ways are followed, and the path meets both', async () => {
  // The second key lies a pixel beside the point: the path is led there evenly.
  const second = { frame: 30, x: 120 + position(30).x + 1, y: 90 + position(30).y };
  const samples = await found(task([{ frame: 0, x: 120, y: 90 }, second], 0, 'forwards'));
  const final = new Map(samples.map((s) => [s.frame, s]));
  for (const k of [1, 10, 15, 29]) {
    const sample = final.get(k) as FoundSample;
    expect(sample.x - 120 - position(k).x).toBeCloseTo(k / 30, 0);
    expect(Math.abs(sample.x - 120 - position(k).x - k / 30)).toBeLessThan(0.2);
  }
});

test('many tracks, spread over threads, come out as one alone does', async () => {
  const alone = task([{ frame: 20, x: 150, y: 100 }], 20, 'both');
  const crowd = { ...alone, runs: Array.from({ length: 17 }, () => alone.runs[0]) };
  // The second crowd comes at once, while the threads still let go of the first.
  const [one, all, again] = [await found(alone), await found(crowd), await found(crowd)];
  const sorted = (samples: FoundSample[], run: number) =>
    samples
      .filter((s) => s.run === run)
      .sort((a, b) => a.frame - b.frame)
      .map(({ frame, x, y }) => [frame, x, y]);
  const errors = (samples: FoundSample[], run: number) =>
    sorted(samples, run).map(([frame, x, y]) => {
      const [from, to] = [position(20), position(frame)];
      return Math.hypot(x - 150 - to.x + from.x, y - 100 - to.y + from.y);
    });
  const rms = (of: number[]) => Math.sqrt(of.reduce((sum, e) => sum + e * e, 0) / of.length);
  // Many look at less of each box from frame to frame: a few hundredths of a pixel is what that may cost.
  for (const run of [0, 8, 16]) {
    const mine = sorted(all, run);
    expect(mine.map(([frame]) => frame)).toEqual(sorted(one, 0).map(([frame]) => frame));
    expect(rms(errors(all, run))).toBeLessThan(rms(errors(one, 0)) + 0.03);
    expect(sorted(again, run)).toEqual(mine);
  }
});

test('colour channels are read with their planes', async () => {
  const green = task([{ frame: 20, x: 150, y: 100 }], 20, 'forwards');
  green.runs[0].options = {
    ...green.runs[0].options,
    analysis: { channel: 'green', filter: 'soften', fields: 'both' },
  };
  const last = (await found(green)).find((s) => s.frame === 39);
  expect(last?.x).toBeCloseTo(150 + position(39).x - position(20).x, 0);
});

test('frames at hand are the very frames, from memory the second time', async () => {
  const cache = new FrameCache();
  await cache.warm(clip, index, 20, 'luma');
  const bytes = frameBytes(clip, 'luma');
  for (const k of [12, 20, 27, 39, 0]) {
    const wanted = new Uint8Array(bytes);
    for await (const _ of readFrames(clip, { first: k, last: k, index, planes: 'luma', slot: () => wanted }))
      break;
    const kept = await cache.get(clip, index, k, 'luma');
    expect(Buffer.compare(kept, wanted)).toBe(0);
    expect(await cache.get(clip, index, k, 'luma')).toBe(kept);
  }
});

test('a step by hand takes its frames from those at hand', async () => {
  const step = { ...task([{ frame: 20, x: 150, y: 100 }], 20, 'forwards'), last: 21, step: true };
  const samples = await found(step);
  expect(samples.map((s) => s.frame)).toEqual([21]);
  expect(samples[0].x).toBeCloseTo(150 + position(21).x - position(20).x, 0);
});

test('ten bits in are ten bits out: a ramp finer than eight bits keeps its steps', async () => {
  const path = join(folder, 'ramp.mkv');
  // Levels 64 to 940 of ten bits across 1752 pixels: half a level a pixel, an eighth of one in eight bits.
  const ramp = ['-f', 'lavfi', '-i', 'color=black:s=1752x64:r=25:d=0.2,format=yuv420p10le'];
  const levels = "geq=lum='64+X/2':cb=512:cr=512";
  await startFfmpeg([...ramp, '-vf', levels, '-c:v', 'ffv1', '-y', path]).done;
  const source = await openClip(path);
  const sourceIndex = await indexClip(source);
  const placements = new Float64Array(9 * 5);
  for (let k = 0; k < 5; k++) placements.set(translation(0.25, 0), 9 * k);
  const made = join(folder, 'ramp.mp4');
  const steps = [placeStep(asIs(placements), source, { framing: noFraming })];
  const encoding = encodingFor({}, source, false);
  await exportMovie({ clip: source, index: sourceIndex, steps, encoding, first: 0, last: 4, path: made });
  const out = await openClip(made);
  expect([out.bits, out.subsampling, out.codec]).toEqual([10, '420', 'h264']);
  const slot = new Uint8Array(frameBytes(out, 'exported', 10));
  for await (const frame of readFrames(out, {
    first: 0,
    last: 0,
    planes: 'exported',
    bits: 10,
    slot: () => slot,
  }))
    void frame;
  const row = new Uint16Array(slot.buffer, 2 * 1752 * 32, 1752);
  let worst = 0;
  const distinct = new Set<number>();
  for (let x = 16; x < 1736; x++) {
    worst = Math.max(worst, Math.abs(row[x] - (64 + (x - 0.25) / 2)));
    distinct.add(row[x]);
  }
  // Eight bits would leave 219 levels, each up to 2 away; the encoder itself loses about one.
  expect(distinct.size).toBeGreaterThan(600);
  expect(worst).toBeLessThan(2);
});

test('an exported movie shows the very frames, moved as told', async () => {
  const path = join(folder, 'out.mp4');
  const placements = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) placements.set(translation(-8, -4), 9 * k);
  const steps = [placeStep(asIs(placements), clip, { framing: noFraming })];
  const encoding = encodingFor({}, clip, false);
  let done = 0;
  await pool.run({ kind: 'export', clip, index, steps, encoding, first: 5, last: 34, path }, (news) => {
    if ('frames' in news) done = news.frames;
  });
  expect(done).toBeGreaterThan(0);
  const out = await openClip(path);
  const outIndex = await indexClip(out);
  expect(outIndex.pts.length).toBe(30);
  expect(out.frameRate).toEqual(clip.frameRate);
  const before = new Uint8Array(frameBytes(clip, 'luma'));
  const after = new Uint8Array(frameBytes(out, 'luma'));
  for (const k of [0, 13, 29]) {
    for await (const _ of readFrames(clip, {
      first: 5 + k,
      last: 5 + k,
      index,
      planes: 'luma',
      slot: () => before,
    }))
      break;
    for await (const _ of readFrames(out, {
      first: k,
      last: k,
      index: outIndex,
      planes: 'luma',
      slot: () => after,
    }))
      break;
    let sum = 0;
    for (let y = 40; y < 160; y++)
      for (let x = 10; x < 300; x++) sum += Math.abs(after[y * 320 + x] - before[(y + 4) * 320 + x + 8]);
    // Coding at CRF 17 costs about one grey level.
    expect(sum / (120 * 290)).toBeLessThan(1.5);
  }
});

/** A movie of the clip as it is. */
function copying(path: string): ExportTask {
  const placements = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) placements.set(translation(0, 0), 9 * k);
  const steps = [placeStep(asIs(placements), clip, { framing: noFraming, resampling: 'bilinear' })];
  const encoding = encodingFor({}, clip, false);
  return { kind: 'export', clip, index, steps, encoding, first: 0, last: frames - 1, path };
}

test('what is called off ends soon and leaves no half file', async () => {
  const path = join(folder, 'cancelled.mp4');
  const stop = new AbortController();
  const work = pool.run(copying(path), () => stop.abort(), { signal: stop.signal });
  await expect(work).rejects.toThrow('Cancelled.');
  await expect(access(path)).rejects.toThrow();
  await expect(access(`${path}.partial`)).rejects.toThrow();
});

test('a failure comes with its reason', async () => {
  const gone = {
    ...task([{ frame: 0, x: 100, y: 90 }], 0, 'forwards'),
    clip: { ...clip, path: join(folder, 'gone.mp4') },
  };
  await expect(found(gone)).rejects.toThrow(/No such file/);
});

test('what takes longer than it may is called off with a sentence', async () => {
  const work = pool.run(copying(join(folder, 'late.mp4')), () => undefined, { limit: 1 });
  await expect(work).rejects.toThrow('This took longer than 0.001 s; it was called off.');
});

/** Processes that we have started, that have ended, and that nobody has seen end (proc(5)). */
async function zombies(): Promise<string[]> {
  const ids = (await readdir('/proc')).filter((name) => /^\d+$/.test(name));
  const stats = await Promise.all(ids.map((id) => readFile(`/proc/${id}/stat`, 'utf8').catch(() => '')));
  return stats.filter((stat) => {
    const [state, parent] = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return state === 'Z' && Number(parent) === process.pid;
  });
}

test('what was started is seen to end, also where its thread is ended after it', async () => {
  const own = new WorkerPool(2);
  const stop = new AbortController();
  await Promise.allSettled([
    own.run(copying(join(folder, 'stopped.mp4')), () => stop.abort(), { signal: stop.signal }),
    own.run({ kind: 'warm', clip, index, frame: 20 }, () => undefined),
    own.run(copying(join(folder, 'brief.mp4')), () => undefined, { limit: 30 }),
  ]);
  await own.close();
  expect(await zombies()).toEqual([]);
});
