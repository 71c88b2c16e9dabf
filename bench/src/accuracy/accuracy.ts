import {
  defaultFollowOptions,
  isFound,
  reasonNames,
  Samples,
  SampleState,
  type FollowOptions,
  type Plane,
  type Sample,
} from '@lurn/core';
import {
  packSamples,
  pointModule,
  SceneAnalysis,
  ThreadWork,
  unpackFindings,
  type PointOrder,
  type SegmentOrder,
} from '@lurn/pipeline';
import { expose, project } from './camera.js';
import { compress } from './compress.js';
import { conditions, inFrame, type Condition } from './conditions.js';
import { addRow, beginTable, type Table } from '../tables.js';
import { registrationBounds } from './registration-bound.js';

interface Found {
  error: number;
  sample: Sample;
}

/** At this confidence a sample is taken for right; so far off, in pixels, it is wrong. */
const sureAt = 0.8;
const wrongBeyond = 0.5;
/** So many at once are followed as thoroughly as one. */
const few = 7;

/** Follows the places of a condition from its first frame on, so many at once. */
async function follow(condition: Condition, atOnce: number): Promise<Found[]> {
  const { take, places, frames, crf, model = defaultFollowOptions.model } = condition;
  const shoot = (k: number): Plane => expose(take, k);
  const pictureAt = crf === undefined ? shoot : await compress(shoot, frames, crf);
  const options: FollowOptions = { ...defaultFollowOptions, model, below: 'bridge', longestGap: 30 };
  const key = { confidence: 1, rotation: 0, scale: 1, state: SampleState.placed };
  const paths = places.map((place) => {
    const path = new Samples(frames);
    path.set(0, { ...project(take, 0, place), ...key });
    return path;
  });
  const orders = paths.map((path, run): SegmentOrder => ({
    segment: { run, start: 0, end: frames - 1 },
    path: packSamples(path),
    options,
    offsets: [],
    lent: null,
  }));
  // A few are followed more thoroughly than many are.
  const groups = await Promise.all(
    Array.from({ length: Math.ceil(orders.length / atOnce) }, async (_, i) => {
      const work = new ThreadWork();
      const order: PointOrder = { segments: orders.slice(i * atOnce, (i + 1) * atOnce) };
      await work.begin(1, [{ number: 0, module: pointModule, order }]);
      return { work, scene: new SceneAnalysis() };
    }),
  );
  for (let frame = 0; frame < frames; frame++) {
    const picture = pictureAt(frame);
    for (const { work, scene } of groups) {
      const [{ found }] = work.look(picture, frame, (before, at) => scene.look(work.kernels, before, at));
      for (const one of unpackFindings(found as Float64Array))
        if (!one.arrival) paths[one.run].set(one.frame, one);
    }
  }
  const found: Found[] = [];
  paths.forEach((path, i) => {
    for (let k = 1; k < frames; k++) {
      const truth = project(take, k, places[i]);
      const sample = path.get(k);
      if (sample && inFrame(truth))
        found.push({ error: Math.hypot(sample.x - truth.x, sample.y - truth.y), sample });
    }
  });
  return found;
}

const rms = (errors: readonly number[]): number =>
  Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length);
const percent = (part: number, whole: number): string => `${Math.round((100 * part) / whole)} %`;
const isSure = ({ sample }: Found): boolean => isFound(sample.state) && sample.confidence >= sureAt;

/** The two reasons given most often for what is not sure, with their shares. */
function reasonsOf(found: readonly Found[]): string {
  const doubted = found.filter((one) => !isSure(one));
  const counts = reasonNames.map((name, i) => ({
    name,
    count: doubted.filter(({ sample }) => sample.reason === i).length,
  }));
  const most = counts.filter(({ count }) => count > 0).sort((a, b) => b.count - a.count);
  return most
    .slice(0, 2)
    .map(({ name, count }) => `${name} ${percent(count, doubted.length)}`)
    .join(', ');
}

const columns = [
  'condition',
  'strength',
  'RMS, px',
  '95 %',
  'worst',
  'tracked',
  'sure',
  'sure and wrong',
  'goal',
  'why not sure',
];

/**
 * Accuracy against generated truth, a row a condition: the error of what was tracked, how much was tracked or
 * bridged, how much was sure, how much of that was wrong, and why the rest was not sure. `wanted` limits it to conditions of that name; so many
 * places are followed at once.
 */
export async function benchAccuracy(wanted = 'all', atOnce = few): Promise<Table[]> {
  const title = atOnce > few ? `Following, ${atOnce} points at once` : 'Following, a few points';
  const table = beginTable(atOnce > few ? `accuracy all ${atOnce}` : 'accuracy', title, columns);
  const sure: Found[] = [];
  for (const condition of conditions()) {
    if (wanted !== 'all' && !condition.name.startsWith(wanted)) continue;
    const { name, strength, frames, goal, further } = condition;
    const takes = [condition, ...(further ?? [])];
    const found: Found[] = [];
    for (const take of takes) found.push(...(await follow({ ...condition, ...take }, atOnce)));
    const places = takes.flatMap((take) => take.places);
    const mine = found.filter(isSure);
    sure.push(...mine);
    const total = places.length * (frames - 1);
    const errors = found
      .filter(({ sample }) => sample.state === SampleState.tracked)
      .map(({ error }) => error)
      .sort((a, b) => a - b);
    const bound = further && rms(takes.flatMap((t) => registrationBounds(t.take, t.places)));
    addRow(
      table,
      ...[name, strength, rms(errors).toFixed(3)],
      (errors[Math.floor(errors.length * 0.95)] ?? 0).toFixed(3),
      (errors.at(-1) ?? 0).toFixed(2),
      percent(errors.length, total),
      percent(mine.length, total),
      `${mine.filter(({ error }) => error > wrongBeyond).length}`,
      goal ? `${goal}` : bound ? `${(rms(errors) / bound).toFixed(2)} × the bound (goal 1.3)` : '',
      reasonsOf(found),
    );
  }
  const right = sure.filter(({ error }) => error <= wrongBeyond).length;
  addRow(
    table,
    ...['all sure samples', `${sure.length}`, '', '', '', '', ''],
    `${sure.length - right}, ${((100 * right) / sure.length).toFixed(2)} % right`,
    ...['99 %', ''],
  );
  return [table];
}
