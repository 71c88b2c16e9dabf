import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import {
  apply,
  defaultFollowOptions,
  invert,
  Samples,
  SampleState,
  type Mat3,
  type PlaceScore,
  type Point,
} from '@lurn/core';
import { indexClip, openClip, type Clip, type ClipIndex } from '@lurn/media';
import { suggest, trackClip, WorkerPool, type FoundSample } from '@lurn/pipeline';
import { median } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

/** Frames that places are followed for. */
const frames = 120;
const start = 90;
const wrong = 0.5;
const sure = 0.8;
/** Places anywhere that are scored. */
const places = 200;
const border = 60;

interface TruthFile {
  layers: { frameFromLayer: Mat3[] }[];
}
type Layers = TruthFile['layers'];

/** The demo film against its truth: points that are suggested, and how the score of any place tells how it will be followed. */
export async function benchFilm(): Promise<Table[]> {
  const table = beginTable('film', 'The demo film', ['what', 'quantity', 'value']);
  const off = `of them more than ${wrong} px off`;
  for (const name of ['quay', 'lantern']) {
    const clip = await openClip(demo(`${name}.mp4`));
    const index = await indexClip(clip);
    const { layers } = JSON.parse(readFileSync(demo(`${name}.truth.json`), 'utf8')) as TruthFile;
    for (const count of [100, 200]) {
      const points = await suggest({ clip, index, frame: 0, options: { ...defaultFollowOptions, count } });
      const found = await follow(clip, index, points, 0, frames - 1);
      const errors = points.map((point, i) => errorsOf(layers, point, 0, found[i]));
      const judged = found.flatMap((samples, i) =>
        samples.filter(isSure).map((s) => errors[i].get(s.frame) ?? 0),
      );
      const what = `${name}, ${count} points suggested, ${frames} frames`;
      const share = judged.filter((error) => error > wrong).length / judged.length;
      addRow(table, what, 'sure', percent(judged.length, count * (frames - 1)));
      addRow(table, what, off, `${(100 * share).toFixed(1)} %`);
    }
    await benchScore(table, name, clip, index, layers);
  }
  return [table];
}

/** Spearman's rank correlation between the scores of places anywhere and the share of frames they are found on. */
async function benchScore(
  table: Table,
  name: string,
  clip: Clip,
  index: ClipIndex,
  layers: Layers,
): Promise<void> {
  const points = anywhere(clip);
  const pool = new WorkerPool(1, 8);
  const scores: PlaceScore[] = [];
  const { template, search, model } = defaultFollowOptions;
  for (const at of points) {
    const task = {
      kind: 'judge',
      clip,
      index,
      frame: start,
      at,
      options: { template, search, model },
    } as const;
    await pool.run(task, (news) => 'score' in news && scores.push(news.score));
  }
  await pool.close();
  const last = Math.min(start + frames / 2, index.pts.length - 1);
  const found = await follow(clip, index, points, start - frames / 2, last, start);
  const held = points.map((point, i) => {
    const errors = errorsOf(layers, point, start, found[i]);
    return found[i].filter((s) => (errors.get(s.frame) ?? Infinity) <= wrong).length;
  });
  const told = (of: (score: PlaceScore) => number): string =>
    correlation(ranks(scores.map(of)), ranks(held)).toFixed(2);
  const alone = ({ score, tried }: PlaceScore): number => (tried ? score / tried : 0);
  const good = held.filter((_, i) => scores[i].score >= 0.9);
  const what = `${name}, ${places} places anywhere`;
  addRow(
    table,
    what,
    'rank correlation of the score with the frames found',
    told((s) => s.score),
  );
  addRow(table, what, 'the same of what one picture tells', told(alone));
  const total = good.reduce((a, b) => a + b, 0);
  addRow(table, what, 'frames found of those scored 90 % and more', percent(total, good.length * frames));
}

const demo = (file: string): string => fileURLToPath(new URL(`../../demo/clips/${file}`, import.meta.url));
const percent = (part: number, whole: number): string => `${((100 * part) / whole).toFixed(0)} %`;
const isSure = ({ confidence }: FoundSample): boolean => confidence >= sure;

/** The same places each time. */
function anywhere({ width, height }: Clip): Point[] {
  let seed = 11;
  const next = (): number => (seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  return Array.from({ length: places }, () => ({
    x: border + next() * (width - 2 * border),
    y: border + next() * (height - 2 * border),
  }));
}

async function follow(
  clip: Clip,
  index: ClipIndex,
  points: readonly Point[],
  first: number,
  last: number,
  from = first,
): Promise<FoundSample[][]> {
  const found = points.map((): FoundSample[] => []);
  const runs = points.map((point) => {
    const samples = new Samples(index.pts.length);
    samples.set(from, { ...point, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
    return { samples, options: defaultFollowOptions, from };
  });
  const onSamples = (news: FoundSample[]): void =>
    news.forEach((s) => s.state === SampleState.tracked && found[s.run].push({ ...s }));
  await trackClip({ clip, index, runs, direction: 'both', first, last, onSamples });
  return found;
}

/** How far each sample is from the layer of the film that the point goes with best, pixels by frame. */
function errorsOf(
  layers: Layers,
  point: Point,
  start: number,
  found: readonly FoundSample[],
): Map<number, number> {
  const all = layers.map(({ frameFromLayer }) => {
    const p = apply(invert(frameFromLayer[start]), point.x, point.y);
    return found.map(({ frame, x, y }) => {
      const q = apply(frameFromLayer[frame], p.x, p.y);
      return Math.hypot(x - q.x, y - q.y);
    });
  });
  const best = all.reduce((a, b) => (median(b) < median(a) ? b : a));
  return new Map(found.map(({ frame }, i) => [frame, best[i]]));
}

/** Places in order, those that are alike sharing the middle of theirs. */
function ranks(values: readonly number[]): number[] {
  const sorted = [...values].sort((a, b) => a - b);
  return values.map((value) => (sorted.indexOf(value) + sorted.lastIndexOf(value)) / 2);
}

function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (values: readonly number[]): number => values.reduce((x, y) => x + y, 0) / values.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let [both, squaresA, squaresB] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    both += (a[i] - meanA) * (b[i] - meanB);
    squaresA += (a[i] - meanA) ** 2;
    squaresB += (b[i] - meanB) ** 2;
  }
  return both / Math.sqrt(squaresA * squaresB);
}
