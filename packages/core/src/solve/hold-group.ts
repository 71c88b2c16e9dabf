import {
  apply,
  fromSquarePixels,
  invert,
  multiply,
  translation,
  type Mat3,
  type Point,
} from '../geometry/mat3.js';
import { SampleState, Samples } from '../track/samples.js';
import type { SceneMotions } from '../track/scene/scene-pages.js';
import type { ShotSummary } from '../track/scene/scene-summary.js';
import { warpModelOf, type MotionModel } from './fit-model.js';
import { stillMotion, type Motion } from './motion.js';

/** What of a shot is held: a group, counted from 0; or, where the camera travels, any depth. */
export interface SceneChoice {
  group: number;
  depth: number | null;
}

/** The motion of a scene as it was found, and what of it is held, shot by shot. */
export interface HeldScene {
  shots: readonly ShotSummary[];
  motions: SceneMotions;
  choices: readonly SceneChoice[];
}

export interface HoldOptions {
  frames: number;
  referenceFrame: number;
  /** `auto`: the simplest that explains the group. */
  model: MotionModel | 'auto';
  pixelAspect: number;
  /** Where a shot without any group would turn about. */
  fallbackPivot: Point;
}

/**
 * The motion of what is held of a scene. Each shot leaves a frame of its own alone: the clip's reference frame, or its first.
 * Frames beyond the shots are carried over from the nearest.
 */
export function holdGroups({ shots, motions, choices }: HeldScene, options: HoldOptions): Motion {
  const { frames, referenceFrame } = options;
  const motion: Motion = {
    ...stillMotion(frames, referenceFrame, options.fallbackPivot),
    pixelAspect: options.pixelAspect,
    shots: [],
  };
  let last: Mat3 | null = null;
  shots.forEach((shot, s) => {
    const choice = choices.at(s) ?? { group: 0, depth: null };
    const group = shot.groups.at(choice.group) ?? shot.groups.at(0);
    const reference =
      referenceFrame >= shot.first && referenceFrame <= shot.last ? referenceFrame : shot.first;
    if (!group) {
      motion.shots?.push({
        first: shot.first,
        last: shot.last,
        referenceFrame: reference,
        pivot: options.fallbackPivot,
      });
      return;
    }
    const number = shot.groups.indexOf(group);
    const model = options.model === 'auto' ? group.proposed : options.model;
    const at = (frame: number): Mat3 => {
      if (choice.depth === null) return motions.matrix(s, frame, number, model);
      const { x, y } = motions.slideOf(s, frame);
      return multiply(motions.matrix(s, frame, 0, model), translation(choice.depth * x, choice.depth * y));
    };
    const origin = invert(at(reference));
    const pivot = apply(at(reference), group.middle.x, group.middle.y);
    motion.shots?.push({ first: shot.first, last: shot.last, referenceFrame: reference, pivot });
    if (reference === referenceFrame) motion.pivot = pivot;
    const residual = group.residuals[model];
    for (let k = shot.first; k <= shot.last; k++) {
      last = multiply(at(k), origin);
      motion.matrices.set(last, 9 * k);
      const isBridged = shot.bridged.some((span) => k >= span.first && k <= span.last);
      motion.support[k] = isBridged || k < group.first || k > group.last ? 0 : group.members;
      motion.residual[k] = residual;
      motion.expectedError[k] = residual / Math.sqrt(Math.max(group.members, 1));
    }
    if (model !== 'shift' || motion.model === 'translation') motion.model = warpModelOf[model];
  });
  const end = motion.shots?.at(-1);
  if (end) end.last = frames - 1;
  for (let k = (shots.at(-1)?.last ?? -1) + 1; last && k < frames; k++) motion.matrices.set(last, 9 * k);
  return motion;
}

/** Points that the motion of a scene carries, so that it is solved together with placed ones; clip pixels. */
export function pointsCarried(motion: Motion, size: { width: number; height: number }): Samples[] {
  const [w, h] = [size.width / 4, size.height / 4];
  const places = [-1, 0, 1].flatMap((i) => [-1, 0, 1].map((j) => ({ x: i * w, y: j * h })));
  const pivot = { x: motion.pivot.x / motion.pixelAspect, y: motion.pivot.y };
  return places.map(({ x, y }) => {
    const samples = new Samples(motion.frames);
    for (let k = 0; k < motion.frames; k++) {
      if (motion.support[k] === 0) continue;
      const table = motion.matrices.subarray(9 * k, 9 * k + 9) as unknown as Mat3;
      const at = apply(fromSquarePixels(table, motion.pixelAspect), pivot.x + x, pivot.y + y);
      samples.set(k, { ...at, rotation: 0, scale: 1, confidence: 1, state: SampleState.tracked });
    }
    return samples;
  });
}
