import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import {
  defaultFollowOptions,
  Follower,
  isFound,
  Samples,
  SampleState,
  SceneWatch,
  TrackKernels,
  type FollowOptions,
  type Plane,
  type Sample,
  type SceneChange,
} from '@lurn/core';
import { expose, project } from './camera.js';
import { conditions, inFrame, type Condition } from './conditions.js';
import { compress } from './compress.js';

interface Found {
  error: number;
  sample: Sample;
  hidden: boolean;
}

function kernels(): TrackKernels {
  const path = new URL('kernels/kernels.wasm', import.meta.resolve('@lurn/core'));
  return new TrackKernels(new WebAssembly.Module(readFileSync(fileURLToPath(path))));
}

async function picturesOf(condition: Condition): Promise<(k: number) => Plane> {
  const shoot = (k: number): Plane => expose(condition.take, k);
  return condition.crf === undefined ? shoot : compress(shoot, condition.frames, condition.crf);
}

export async function run(condition: Condition): Promise<Found[]> {
  const { take, places, hidden, frames } = condition;
  const pictureAt = await picturesOf(condition);
  const core = kernels();
  const watch = new SceneWatch(core);
  const options: FollowOptions = { ...defaultFollowOptions, below: 'bridge', longestGap: 30 };
  const followers = places.map((place) => {
    const path = new Samples(frames);
    path.set(0, {
      ...project(take, 0, place),
      confidence: 1,
      rotation: 0,
      scale: 1,
      state: SampleState.placed,
    });
    return new Follower(core, options, path);
  });
  let before: Plane | null = null;
  for (let k = 0; k < frames; k++) {
    const picture = pictureAt(k);
    const last = before;
    let change: SceneChange | null = null;
    const scene = last
      ? () => (change ??= watch.compare({ picture: last, frame: k - 1 }, { picture, frame: k }))
      : undefined;
    followers.forEach((follower) => follower.look(picture, k, scene));
    before = picture;
  }
  followers.forEach((follower) => follower.finish());
  const found: Found[] = [];
  followers.forEach(({ path }, i) => {
    for (let k = 1; k < frames; k++) {
      const truth = project(take, k, places[i]);
      const sample = path.get(k);
      if (!inFrame(truth) || !sample) continue;
      found.push({
        error: Math.hypot(sample.x - truth.x, sample.y - truth.y),
        sample,
        hidden: hidden?.(k) ?? false,
      });
    }
  });
  return found;
}

const wanted = process.argv[2];
const all: Found[] = [];
for (const condition of conditions()) {
  if (wanted && !condition.name.startsWith(wanted)) continue;
  const t0 = performance.now();
  const found = await run(condition);
  all.push(...found);
  const total = condition.places.length * (condition.frames - 1);
  const kept = found.filter((f) => f.sample.state === SampleState.tracked);
  const errors = kept.map((f) => f.error).sort((a, b) => a - b);
  const rms = Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length);
  const sure = kept.filter((f) => f.sample.confidence >= 0.8);
  const silent = sure.filter((f) => f.error > 0.5);
  console.log(
    condition.name.padEnd(14),
    condition.strength.padEnd(16),
    'rms',
    rms.toFixed(3),
    'p95',
    (errors[Math.floor(errors.length * 0.95)] ?? 0).toFixed(3),
    'max',
    (errors.at(-1) ?? 0).toFixed(2),
    'found',
    ((100 * kept.length) / total).toFixed(0) + '%',
    'sure',
    ((100 * sure.length) / total).toFixed(0) + '%',
    'silent',
    silent.length,
    condition.goal ? `goal ${condition.goal}` : '',
    ((performance.now() - t0) / 1000).toFixed(1) + 's',
  );
}
const sure = all.filter((f) => isFound(f.sample.state) && f.sample.confidence >= 0.8);
console.log(
  'sure',
  sure.length,
  'of them within 0.5 px',
  ((100 * sure.filter((f) => f.error <= 0.5).length) / sure.length).toFixed(2),
);
