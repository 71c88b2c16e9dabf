import { cornerPaths, quadMotion } from '../solve/quad-motion.js';
import type { FrameTimes } from '../geometry/frame-times.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import {
  bareEdges,
  framingMatrix,
  place,
  placeVarying,
  viewOf,
  type BareEdge,
  type Framing,
  type PictureSize,
  type Placing,
  type View,
} from '../framing/framing.js';
import { fitFraming, type FramingFit } from '../framing/fit-framing.js';
import { varyingZoom, type VaryingZoom } from '../framing/varying-zoom.js';
import { sliceTimes } from '../geometry/frame-times.js';
import { apply, matrixAt, multiply, SingularMatrix, toSquarePixels } from '../geometry/mat3.js';
import type { Resampling } from '../kernels/kernels.js';
import type { EdgeKind, UnfilledKind } from '../render/output-picture.js';
import type { MotionModel } from '../solve/fit-model.js';
import { holdGroups, pointsCarried, type HeldScene } from '../solve/hold-group.js';
import {
  CollapsedMotion,
  collapsedOn,
  curveNames,
  curvesOf,
  frameFromReference,
  type Curves,
  type Motion,
} from '../solve/motion.js';
import { takePose } from '../solve/pose-motion.js';
import { rowMotionOf, type RowMotion } from '../solve/row-motion.js';
import { solveMotion } from '../solve/solve-motion.js';
import type { Samples } from '../track/samples.js';
import { isNoReadout, readoutOf } from '../track/scene/scene-summary.js';
import { handMatrix, handPlaceAt, type HandKey } from './hand-keys.js';
import { withSpans, type SteadySpan } from './spans.js';
import { smoothScale } from './smooth.js';
import { composePath, correctionsOf } from './composed/composed-path.js';
import { reportOf, type SteadyReport } from './report.js';
import type { WanderArea } from './wander.js';
import { correct, correctTo, type Channels, type Correction, type Strength } from './correct.js';

export const smoothKinds = ['even', 'composed'] as const;
export type SmoothKind = (typeof smoothKinds)[number];

/** All a person chooses about steadying one clip. */
export interface SteadySettings {
  mode: 'hold' | 'smooth';
  /** Standard deviation of the Gaussian for `smooth`, in seconds. */
  smoothSeconds: number;
  /**
   * Of `smooth`: `even` is a Gaussian; `composed` only stillness, steady moves and eases between them, as far as the framing's
   * zoom leaves room.
   */
  kind: SmoothKind;
  /** What the motion may do; `auto` is the simplest that explains a scene, and of points a similarity. */
  model: MotionModel | 'auto';
  channels: Channels;
  /** How much of each channel is taken out. */
  strength: Strength;
  /** Stretches of frames that something else is done to than to the rest. */
  spans?: readonly SteadySpan[];
  /** Of `smooth`: where what is followed may wander in the steadied picture; anywhere when left out. */
  within?: WanderArea | null;
  /** Where the steadied picture is put by hand, before framing, by frame. */
  keys?: readonly HandKey[];
  /** How the readout of a rolling shutter is taken out; as found when left out. */
  rollingShutter?: RollingShutter;
  referenceFrame: number;
  /** First and last frame that matter, both included. */
  range: { first: number; last: number };
  framing: Framing;
  /** The zoom changes slowly, as far as bare edges ask for, in place of the framing's own; constant when left out. */
  varying?: { restlessness: number } | null;
  /** The output's own size; the clip's when left out. */
  output?: PictureSize | null;
  /** What bare edges show; black when left out. */
  edge?: EdgeKind;
  /** What shows where no frame fills an edge; mirrored when left out. */
  unfilled?: UnfilledKind;
  /** How pixels are taken from between others; bicubic when left out. */
  resampling?: Resampling;
}

export const rollingShutterModes = ['auto', 'off', 'share'] as const;

/** `auto`: as a scene tells it; `share`: as given, a share of a frame, negative where the last row is read first. */
export interface RollingShutter {
  mode: (typeof rollingShutterModes)[number];
  share: number;
}

export interface SteadyClip extends PictureSize {
  times: FrameTimes;
  /** A pixel's width over its height, like "16:11". */
  pixelAspect: string;
}

export interface SteadyResult extends Placing {
  motion: Motion;
  correction: Correction;
  /**
   * The smallest zoom that hides every bare edge in the range; null when there is none. For a composed path, which fits into
   * any zoom it can, the one that even smoothing would need.
   */
  fit: FramingFit | null;
  /** The zoom of each frame, where it varies. */
  zooms: Float64Array | null;
  /** Shake before and after, and what the framing costs, over the range. */
  report: SteadyReport;
  /** The bare edges of the settings' own framing, one a frame, worst first. */
  bare: BareEdge[];
  /** Frames of the range on which what is followed leaves the area that it may wander in. */
  strays: number[];
}

/**
 * From tracks, and what is held of the scene, to placements: solve, correct, frame. Light enough to run again for every slider
 * move. What turns keeps its shape only where pixels are square: the motion is solved there, placements are in clip pixels
 * again. Throws a CollapsedMotion where the motion cannot be undone on some frame.
 */
export const steady = (
  tracks: readonly Samples[],
  clip: SteadyClip,
  settings: SteadySettings,
  scene: HeldScene | null = null,
): SteadyResult => steadyMotion(motionOf(tracks, clip, settings, scene), clip, settings);

/** The motion that tracks and what is held of the scene come to. Throws a CollapsedMotion where it is none. */
export function motionOf(
  tracks: readonly Samples[],
  clip: SteadyClip,
  {
    referenceFrame,
    model,
    rollingShutter,
  }: Pick<SteadySettings, 'referenceFrame' | 'model' | 'rollingShutter'>,
  scene: HeldScene | null,
): Motion {
  const { mode, share } = rollingShutter ?? { mode: 'auto', share: 0 };
  const found = mode === 'auto' && scene ? readoutOf(scene.shots) : null;
  const readout = mode === 'share' ? share : found && !isNoReadout(found.share) ? found.share : 0;
  try {
    return { ...solved(tracks, clip, { referenceFrame, model }, scene), readout };
  } catch (error) {
    // Flattened on the frame that all is told from.
    if (error instanceof SingularMatrix) throw new CollapsedMotion(referenceFrame);
    throw error;
  }
}

function solved(
  tracks: readonly Samples[],
  clip: SteadyClip,
  { referenceFrame, model }: Pick<SteadySettings, 'referenceFrame' | 'model'>,
  scene: HeldScene | null,
): Motion {
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  const { frames } = clip.times;
  const fallbackPivot = { x: (clip.width * pixelAspect) / 2, y: clip.height / 2 };
  const placed = tracks.filter((track) => track.extent() !== null);
  const held = scene && holdGroups(scene, { frames, referenceFrame, model, pixelAspect, fallbackPivot });
  if (held && placed.length === 0) return held;
  const all = held ? [...placed, ...pointsCarried(held, clip)] : placed;
  if (all.length === 1 && all[0].corners && model === 'perspective') {
    const motion = quadMotion(all[0], { frames, referenceFrame, pixelAspect });
    return { ...motion, pixelAspect, shots: held?.shots };
  }
  const square = all.flatMap((track) => {
    if (track.corners) return cornerPaths(track, pixelAspect);
    return pixelAspect === 1 ? track : widened(track, pixelAspect);
  });
  const motion = solveMotion(square, { frames, referenceFrame, fallbackPivot, model });
  // One track alone turns and grows as its own box does, where that is asked for.
  if (square.length === 1 && model !== 'auto' && model !== 'shift')
    takePose(motion, square[0], model !== 'rotation');
  return { ...motion, pixelAspect, shots: held?.shots };
}

function widened(track: Samples, by: number): Samples {
  const wide = track.copy();
  wide.x.forEach((x, i) => (wide.x[i] = x * by));
  return wide;
}

/** The part of `steady` after the solving, for a motion that is known already. */
export function steadyMotion(motion: Motion, clip: SteadyClip, settings: SteadySettings): SteadyResult {
  const { first, last } = settings.range;
  const collapsed = collapsedOn(motion);
  if (collapsed !== null) throw new CollapsedMotion(collapsed);
  const even = shotByShot(motion, clip, settings, correctEven);
  const isComposed = settings.mode === 'smooth' && settings.kind === 'composed';
  const correction = isComposed ? correctComposed(motion, clip, settings) : even;
  for (const one of new Set([even, correction])) putByHand(one, motion, clip, settings.keys ?? []);
  const view = viewOf(clip, settings.output);
  const rows = rowMotionOf(motion, clip.height);
  const fit = fitFraming(even.matrices, first, last, view, rows);
  const ownFit =
    correction === even || !settings.varying ? fit : fitFraming(correction.matrices, first, last, view, rows);
  const zooms = ownFit && varyingZooms(motion, correction, ownFit.framing, clip, settings, view, rows);
  const placements = zooms
    ? placeVarying(correction.matrices, zooms, view)
    : place(correction.matrices, settings.framing, view);
  return {
    motion,
    correction,
    placements,
    rows,
    fit,
    zooms: zooms?.zooms ?? null,
    bare: bareEdges(placements, first, last, view, rows),
    strays: straysOf(motion, correction, settings),
    report: reportOn(motion, placements, view, settings.range, rows),
  };
}

/** Where the zoom varies, that of each frame; null elsewhere, and where no zoom hides every bare edge. */
function varyingZooms(
  motion: Motion,
  { matrices }: Correction,
  framing: Framing,
  { times }: SteadyClip,
  { range, varying }: SteadySettings,
  view: View,
  rows: RowMotion | null,
): VaryingZoom | null {
  if (!varying) return null;
  const shots = (motion.shots ?? [range])
    .map(({ first, last }) => ({ first: Math.max(first, range.first), last: Math.min(last, range.last) }))
    .filter(({ first, last }) => first <= last);
  const { restlessness } = varying;
  return varyingZoom(matrices, view, { framing, restlessness, times, shots, rows });
}

/** Pixels beyond the area that nobody sees. */
const strayTolerance = 0.5;

function straysOf(
  motion: Motion,
  { matrices }: Correction,
  { mode, within, range }: SteadySettings,
): number[] {
  if (mode !== 'smooth' || !within) return [];
  const strays: number[] = [];
  for (const shot of motion.shots ?? [{ first: 0, last: motion.frames - 1, pivot: motion.pivot }])
    for (let k = Math.max(shot.first, range.first); k <= Math.min(shot.last, range.last); k++) {
      const seen = multiply(matrixAt(matrices, k), frameFromReference(motion, k));
      const { x, y } = apply(seen, shot.pivot.x / motion.pixelAspect, shot.pivot.y);
      const beyond = Math.max(within.left - x, x - within.right, within.top - y, y - within.bottom);
      if (beyond > strayTolerance) strays.push(k);
    }
  return strays;
}

/** Whether there is anything to be done to the picture: a motion to take out, or something put by hand. */
export const isSteadied = (
  motion: Motion,
  { keys = [], framing, output }: Pick<SteadySettings, 'keys' | 'framing' | 'output'>,
): boolean =>
  keys.length > 0 ||
  !!output ||
  framing.zoom !== 1 ||
  framing.offsetX !== 0 ||
  framing.offsetY !== 0 ||
  motion.support.some((n) => n > 0);

const correctEven: Correcting = (
  motion,
  { times },
  { mode, smoothSeconds, channels, strength, spans, within, range },
) => correct(motion, { mode, smoothSeconds, times, channels, strength, spans, within, range });

/** Puts the steadied picture where keys have it, on every frame. */
function putByHand(correction: Correction, motion: Motion, clip: SteadyClip, keys: readonly HandKey[]): void {
  if (keys.length === 0) return;
  const { matrices } = correction;
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  for (let k = 0; k < motion.frames; k++) {
    const put = handMatrix(handPlaceAt(keys, k), clip, pixelAspect);
    matrices.set(multiply(put, matrixAt(matrices, k)), 9 * k);
  }
  correction.intended = seenMotion(motion, matrices);
}

/** How a motion is seen in the steadied picture. */
function seenMotion(motion: Motion, corrections: Float64Array): Curves {
  const seen = new Float64Array(corrections.length);
  for (let k = 0; k < motion.frames; k++)
    seen.set(
      toSquarePixels(multiply(matrixAt(corrections, k), frameFromReference(motion, k)), motion.pixelAspect),
      9 * k,
    );
  return curvesOf({ ...motion, matrices: seen });
}

type Correcting = (motion: Motion, clip: SteadyClip, settings: SteadySettings) => Correction;

/** Corrects each shot of a motion by itself: nothing is smoothed across a cut. */
function shotByShot(
  motion: Motion,
  clip: SteadyClip,
  settings: SteadySettings,
  correcting: Correcting,
): Correction {
  const { shots = [], frames } = motion;
  if (shots.length < 2) return correcting(motion, clip, settings);
  const curves = (): Curves =>
    Object.fromEntries(curveNames.map((name) => [name, new Float64Array(frames)])) as Curves;
  const whole: Correction = { matrices: new Float64Array(9 * frames), found: curves(), intended: curves() };
  for (const { first, last, referenceFrame, pivot } of shots) {
    const [from, to] = [Math.max(settings.range.first, first), Math.min(settings.range.last, last)];
    const spans = settings.spans
      ?.filter((span) => span.first <= last && span.last >= first)
      .map((span) => ({
        ...span,
        first: Math.max(span.first - first, 0),
        last: Math.min(span.last, last) - first,
      }));
    const part = correcting(
      {
        ...motion,
        frames: last - first + 1,
        referenceFrame: referenceFrame - first,
        pivot,
        shots: undefined,
        matrices: motion.matrices.subarray(9 * first, 9 * (last + 1)),
      },
      { ...clip, times: sliceTimes(clip.times, first, last) },
      // A shot beyond the range is corrected over all of it: nobody sees it.
      {
        ...settings,
        spans,
        range: from > to ? { first: 0, last: last - first } : { first: from - first, last: to - first },
      },
    );
    whole.matrices.set(part.matrices, 9 * first);
    for (const name of curveNames) {
      whole.found[name].set(part.found[name], first);
      whole.intended[name].set(part.intended[name], first);
    }
  }
  return whole;
}

/** What placements of a motion come to over a range of frames. */
export const reportOn = (
  motion: Motion,
  placements: Float64Array,
  size: View,
  { first, last }: SteadySettings['range'],
  rows: RowMotion | null,
): SteadyReport =>
  reportOf(
    {
      first,
      frameFromReference: tableOf(motion, first, last),
      outputFromFrame: placements.subarray(9 * first, 9 * (last + 1)),
      cuts: motion.shots?.map((shot) => shot.first),
      rows,
    },
    size,
  );

/** The motion of some frames as a table of clip pixels. */
function tableOf(motion: Motion, first: number, last: number): Float64Array {
  const table = new Float64Array(9 * (last - first + 1));
  for (let k = first; k <= last; k++) table.set(frameFromReference(motion, k), 9 * (k - first));
  return table;
}

/** Below this zoom there is no room for another path than the camera's own. */
const leastRoom = 1.0005;

/** The correction that leaves the steadiest path that the framing's zoom has room for. */
export const correctComposed: Correcting = (motion, clip, settings) =>
  shotByShot(motion, clip, settings, composeShot);

function composeShot(motion: Motion, clip: SteadyClip, settings: SteadySettings): Correction {
  const { zoom } = settings.framing;
  const { channels, strength } = settings;
  if (zoom < leastRoom) return correctTo(motion, curvesOf(motion), { channels, strength });
  const frameFromReferences = tableOf(motion, 0, motion.frames - 1);
  const path = composePath({
    frameFromReference: frameFromReferences,
    size: viewOf(clip, settings.output),
    ...settings.range,
    zoom,
    evenScale: smoothScale(curvesOf(motion).scale, settings.smoothSeconds, clip.times),
    rows: rowMotionOf(motion, clip.height),
    within: settings.within && {
      ...settings.within,
      point: { x: motion.pivot.x / motion.pixelAspect, y: motion.pivot.y },
    },
  });
  const matrices = correctionsOf(
    path,
    frameFromReferences,
    framingMatrix({ zoom, offsetX: 0, offsetY: 0 }, { width: clip.width, height: clip.height }),
  );
  const composed = seenMotion(motion, matrices);
  const { spans = [] } = settings;
  const wanted = withSpans(composed, curvesOf(motion), spans, motion.referenceFrame, composed);
  const isWhole =
    spans.length === 0 &&
    Object.values(strength).every((share) => share === 1) &&
    [channels.x, channels.y, channels.rotation, channels.scale].every(Boolean);
  // In part, the path is no longer the one that keeps every edge.
  if (!isWhole) return correctTo(motion, wanted, { channels, strength });
  return { matrices, found: curvesOf(motion), intended: wanted };
}
