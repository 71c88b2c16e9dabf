import { describe, expect, test } from '@jest/globals';
import { translation } from '../geometry/mat3.js';
import { TrackKernels } from '../kernels/track-kernels.js';
import { kernelModule } from '../testing/kernel-module.js';
import { filmScene, texture } from '../testing/scene-film.js';
import { mapPlane } from '../track/image/patch.js';
import { SceneFeatures, type ShotFeatures } from '../track/scene/shot-features.js';
import { ShotTracker } from '../track/scene/shot-tracker.js';
import { fitJointly } from './joint-fit.js';
import { estimateReadout, type ReadoutFit } from './rolling-shutter.js';

const { sin, sqrt } = Math;
const kernels = new TrackKernels(kernelModule());
const [width, height] = [480, 270];
const frames = 44;
const ground = texture(41, 700, 420);

/** A shake of a hand that walks: up to about a turn in six frames. */
const shaken = (frame: number) => ({
  x: -110 + 5 * sin(frame * 0.9) + 3 * sin(frame * 0.37),
  y: -75 + 4 * sin(frame * 1.05 + 1),
});

function filmed(readout: number, shakes: boolean): ShotFeatures {
  const tracker = new ShotTracker(kernels);
  const features = new SceneFeatures();
  const seen = (k: number) => (shakes ? translation(shaken(k).x, shaken(k).y) : translation(-110, -75));
  for (let k = 0; k < frames; k++) {
    const grounds = [{ plane: ground, frameFromGround: seen }];
    features.add(
      tracker.look(mapPlane(kernels, filmScene(width, height, grounds, k, { noise: 1.5, readout })), k),
    );
  }
  features.add(tracker.end());
  return features.shots()[0];
}

/** RMS distance of samples from one similarity a frame. */
function wobble(shot: ShotFeatures): number {
  const weights = new Float64Array(shot.features).fill(1);
  const { residuals } = fitJointly(shot, { model: 'similarity', weights, scale: 2, rounds: 4 });
  let [sum, n] = [0, 0];
  residuals.forEach((r, f) => {
    if (!Number.isFinite(r) || r > 5) return;
    sum += shot.seen[f] * r * r;
    n += shot.seen[f];
  });
  return sqrt(sum / n);
}

describe('the readout of a rolling shutter', () => {
  test.each([0.8, 0.4])(
    'of %d of a frame is found from shaken features, and most of the wobble goes',
    (readout) => {
      const shot = filmed(readout, true);
      const found = estimateReadout(shot, height) as ReadoutFit;
      expect(found.readout.isTold).toBe(true);
      expect(Math.abs(found.readout.share - readout)).toBeLessThan(0.05);
      // Three quarters of it at least; what is left is how exactly features are followed.
      expect(wobble(found.shot)).toBeLessThan(0.25 * wobble(shot));
    },
  );

  test('of none is none', () => {
    const found = estimateReadout(filmed(0, true), height);
    expect(found?.readout.isTold).toBe(true);
    expect(Math.abs(found?.readout.share ?? 1)).toBeLessThan(0.04);
  });

  test('cannot be told where nothing shakes', () => {
    expect(estimateReadout(filmed(0.8, false), height)?.readout.isTold).toBe(false);
  });
});
