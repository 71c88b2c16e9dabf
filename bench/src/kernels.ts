import { spawn, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { runTool } from '@lurn/media';
import { median } from './rounds.js';
import { startTrackKernels } from './track-kernels.js';
import { addRow, beginTable, type Table } from './tables.js';

const quay = fileURLToPath(new URL('../../demo/clips/quay.mp4', import.meta.url));
/** Debian's own: another one on the path need not see Debian's packages. */
const python = existsSync('/usr/bin/python3') ? '/usr/bin/python3' : 'python3';
const script = fileURLToPath(new URL('../opencv.py', import.meta.url));
const width = 1920;
const height = 1080;
const size = width * height;
const rounds = 15;
const points = 500;
const window = 21;
const levels = 4;

interface Answer {
  ms: number;
  answer: unknown;
}

/** Flow, corners and template search at 1080p against OpenCV on one thread, in alternating rounds of one run. */
export async function benchKernels(): Promise<Table[]> {
  if (spawnSync(python, ['-c', 'import cv2'], { stdio: 'ignore' }).status !== 0) {
    console.log('OpenCV is not installed (Debian: python3-opencv); the kernels are not compared.');
    return [];
  }
  const folder = await mkdtemp(join(tmpdir(), 'lurn-kernels-'));
  try {
    const frames = join(folder, 'frames.y');
    const filter = 'select=between(n\\,100\\,101),extractplanes=y';
    const raw = ['-fps_mode', 'passthrough', '-f', 'rawvideo'];
    await runTool('ffmpeg', ['-v', 'error', '-i', quay, '-vf', filter, ...raw, frames]);
    return await compare(folder, frames);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function compare(folder: string, frames: string): Promise<Table[]> {
  const pictures = await readFile(frames);
  const kernels = startTrackKernels();
  const room = size + 64;
  const [before, after] = [0, 1].map((i) => {
    const at = kernels.alloc(room);
    kernels.bytes(at, size).set(pictures.subarray(i * size, (i + 1) * size));
    return at;
  });

  // The same points for both: our corners, at the middles of whole pixels.
  const cell = 16;
  const cells = Math.floor(width / cell) * Math.floor(height / cell);
  const [out, scratch] = [kernels.alloc(12 * cells), kernels.alloc(76 * (width + 16))];
  const bestCorners = (): number[] => {
    kernels.cornerCells(before, width, width, height, cell, scratch, out);
    const found = kernels.floats(out, 3 * cells);
    let most = 0;
    for (let i = 0; i < cells; i++) most = Math.max(most, found[3 * i]);
    const order: number[] = [];
    // As OpenCV: a hundredth of the best corner is no corner.
    for (let i = 0; i < cells; i++) if (found[3 * i] > 0.01 * most) order.push(i);
    order.sort((a, b) => found[3 * b] - found[3 * a]);
    const chosen: number[] = [];
    const taken = new Set<number>();
    const gap = 20;
    for (const i of order) {
      if (chosen.length >= 2 * points) break;
      const [x, y] = [found[3 * i + 1], found[3 * i + 2]];
      const at = Math.floor(y / gap) * 1000 + Math.floor(x / gap);
      const near = [-1001, -1000, -999, -1, 0, 1, 999, 1000, 1001].some((d) => taken.has(at + d));
      if (near || x < 40 || y < 40 || x > width - 40 || y > height - 40) continue;
      taken.add(at);
      chosen.push(x, y);
    }
    return chosen;
  };
  const chosen = bestCorners();
  const count = chosen.length / 2;
  await writeFile(join(folder, 'points.f32'), new Uint8Array(Float32Array.from(chosen).buffer));

  const tables = [before, after].map((at) => buildPyramid(kernels, at));
  const [from, to, residual] = [
    kernels.alloc(16 * count),
    kernels.alloc(16 * count),
    kernels.alloc(4 * count),
  ];
  const middles = chosen.map((v) => v + 0.5);
  kernels.putDoubles(from, middles);
  const ours = {
    flow: (): void => {
      // Streaming: the frame before has its pyramid already.
      buildPyramid(kernels, after, tables[1]);
      kernels.putDoubles(to, middles);
      kernels.flow(tables[0].table, tables[1].table, levels, from, to, count, window, 20, 0.003, residual);
    },
    corners: (): void => void bestCorners(),
    search: makeSearch(kernels, before, after),
  };

  const yardstick = spawn(python, [script, folder, `${width}`, `${height}`], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  const lines = createInterface({ input: yardstick.stdout })[Symbol.asyncIterator]();
  const hear = async (): Promise<unknown> => JSON.parse((await lines.next()).value as string);
  const version = (await hear()) as string;
  const columns = ['what', 'ours, ms', 'OpenCV, ms', 'ratio', 'goal', 'agreement'];
  const table = beginTable('kernels', `Kernels against OpenCV ${version}, one thread, 1080p`, columns);
  const goals = { flow: 0.45, corners: 0.2, search: 0.3 };
  for (const name of ['flow', 'corners', 'search'] as const) {
    const repeats = name === 'search' ? 200 : 1;
    const times: { ours: number; theirs: number }[] = [];
    let answer: unknown;
    for (let i = 0; i < rounds; i++) {
      yardstick.stdin.write(`${name}\n`);
      const said = (await hear()) as Answer;
      answer = said.answer;
      const start = performance.now();
      for (let r = 0; r < repeats; r++) ours[name]();
      times.push({ ours: (performance.now() - start) / repeats, theirs: said.ms });
    }
    const ratio = median(times.map((t) => t.ours / t.theirs));
    const agreement = name === 'flow' ? agree(kernels, to, residual, answer as number[][]) : '';
    const middle = (of: 'ours' | 'theirs'): string => median(times.map((t) => t[of])).toFixed(2);
    const names = {
      flow: `sparse flow of ${count} points`,
      corners: 'corners',
      search: 'template of 41 in 161',
    };
    addRow(table, names[name], middle('ours'), middle('theirs'), ratio.toFixed(2), goals[name], agreement);
  }
  yardstick.stdin.end();
  return [table];
}

type Kernels = ReturnType<typeof startTrackKernels>;

function buildPyramid(
  kernels: Kernels,
  at: number,
  known?: { table: number; planes: number[] },
): { table: number; planes: number[] } {
  const table = known?.table ?? kernels.alloc(16 * levels);
  const planes = known?.planes ?? [at];
  for (let level = 1; level < levels; level++) {
    const [w, h] = [width >> level, height >> level];
    planes[level] ??= kernels.alloc(w * h + 64);
    kernels.halvePlane(
      planes[level - 1],
      width >> (level - 1),
      width >> (level - 1),
      height >> (level - 1),
      planes[level],
    );
  }
  kernels.putIntegers(
    table,
    planes.flatMap((p, level) => [p, width >> level, height >> level, width >> level]),
  );
  return { table, planes };
}

/** A template of 41 in a box of 161, coarse to fine over three levels as the tracker does it. */
function makeSearch(kernels: Kernels, before: number, after: number): () => void {
  const [x, y] = [940, 520];
  const sides = [41, 20, 10];
  const areas = [161, 80, 40];
  const at = (picture: number, reach: number): number => picture + (y - reach) * width + x - reach;
  const halve = (source: number, stride: number, side: number, out: number): void =>
    void kernels.halvePlane(source, stride, side, side, out);
  const small = sides.map((side) => kernels.alloc(side * side + 64));
  const area = areas.map((side) => kernels.alloc(side * side + 64));
  const packed = sides.map((side) => kernels.alloc(16 + 2 * ((side + 7) & ~7) * side + 64));
  const scores = kernels.alloc(4 * 31 * 31 + 64);
  halve(at(before, 20), width, 41, small[1]);
  halve(small[1], 20, 20, small[2]);
  kernels.packTemplate(at(before, 20), width, 41, 41, packed[0]);
  for (const level of [1, 2])
    kernels.packTemplate(small[level], sides[level], sides[level], sides[level], packed[level]);
  const look = (level: number, left: number, top: number, count: number): { x: number; y: number } => {
    const stride = level === 0 ? width : areas[level];
    const from = (level === 0 ? at(after, 80) : area[level]) + top * stride + left;
    kernels.correlate(packed[level], sides[level], sides[level], from, stride, count, count, scores);
    const found = kernels.floats(scores, count * count);
    let best = 0;
    for (let i = 1; i < found.length; i++) if (found[i] > found[best]) best = i;
    return { x: left + (best % count), y: top + Math.floor(best / count) };
  };
  return () => {
    halve(at(after, 80), width, 161, area[1]);
    halve(area[1], 80, 80, area[2]);
    let place = look(2, 0, 0, 31);
    for (const level of [1, 0]) {
      const most = areas[level] - sides[level] - 2;
      const near = (v: number): number => Math.min(Math.max(2 * v - 1, 0), most);
      place = look(level, near(place.x), near(place.y), 3);
    }
  };
}

function agree(kernels: Kernels, found: number, residual: number, theirs: number[][]): string {
  const residuals = kernels.floats(residual, theirs.length);
  const distances = theirs
    .map(([x, y, ok], i) =>
      ok && residuals[i] >= 0
        ? Math.hypot(kernels.double(found, 2 * i) - 0.5 - x, kernels.double(found, 2 * i + 1) - 0.5 - y)
        : -1,
    )
    .filter((d) => d >= 0)
    .sort((a, b) => a - b);
  const at = (share: number): string => distances[Math.floor(share * (distances.length - 1))].toFixed(4);
  return `${at(0.5)} px median, ${at(0.95)} px at the 95th percentile (goal 0.01)`;
}
