import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { defaultPointOptions, PointTracker, SampleState, TrackKernels, type Plane, type Sample } from '@lurn/core';
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
  const { take, places, hidden } = condition;
  const pictureAt = await picturesOf(condition);
  const core = kernels();
  const trackers = places.map(() => new PointTracker(core, defaultPointOptions));
  const alive = places.map(() => true);
  const found: Found[] = [];
  for (let k = 0; k < condition.frames; k++) {
    const picture = pictureAt(k);
    trackers.forEach((tracker, i) => {
      const truth = project(take, k, places[i]);
      if (k === 0) {
        tracker.setKey(picture, { ...truth, rotation: 0, scale: 1 });
        return;
      }
      if (!alive[i]) return;
      const sample = tracker.step(picture);
      if (sample.state === SampleState.lost && !condition.bridge) alive[i] = false;
      if (!inFrame(truth)) return;
      found.push({ error: Math.hypot(sample.x - truth.x, sample.y - truth.y), sample, hidden: hidden?.(k) ?? false });
    });
  }
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
    condition.name.padEnd(14), condition.strength.padEnd(16), 'rms', rms.toFixed(3), 'p95', (errors[Math.floor(errors.length * 0.95)] ?? 0).toFixed(3),
    'max', (errors.at(-1) ?? 0).toFixed(2), 'found', ((100 * kept.length) / total).toFixed(0) + '%', 'sure', ((100 * sure.length) / total).toFixed(0) + '%', 'silent', silent.length,
    condition.goal ? `goal ${condition.goal}` : '', ((performance.now() - t0) / 1000).toFixed(1) + 's',
  );
}
const sure = all.filter((f) => f.sample.state === SampleState.tracked && f.sample.confidence >= 0.8);
console.log('sure', sure.length, 'of them within 0.5 px', ((100 * sure.filter((f) => f.error <= 0.5).length) / sure.length).toFixed(2));
