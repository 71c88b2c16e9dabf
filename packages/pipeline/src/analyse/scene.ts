import { SceneMotion, SceneTable, type SceneChange, type TrackKernels } from '@lurn/core';
import type { PassFrame, SharedAnalysis } from '../pass/analyser.js';

const onKernels = new WeakMap<TrackKernels, SceneMotion>();

/** Where the whole picture's motion is worked out on some kernels: its small copies of pictures serve all who ask. */
export function sceneMotionOn(kernels: TrackKernels): SceneMotion {
  const known = onKernels.get(kernels) ?? new SceneMotion(kernels);
  onKernels.set(kernels, known);
  return known;
}

/**
 * The whole picture's motion, for all analysers of a pass: looked up where it is known, worked out once where it is not. It
 * is always worked out forwards, so that it does not depend on the direction in which it was first asked for.
 */
export class SceneAnalysis implements SharedAnalysis {
  constructor(private readonly table = new SceneTable()) {}

  look(kernels: TrackKernels, before: PassFrame, at: PassFrame): SceneChange | undefined {
    const [earlier, later] = before.frame < at.frame ? [before, at] : [at, before];
    if (!this.table.between(before.frame, at.frame))
      this.table.set(later.frame, sceneMotionOn(kernels).compare(earlier, later));
    return this.table.between(before.frame, at.frame);
  }
}
