import { readFile, writeFile } from 'node:fs/promises';
import {
  fullStrength,
  noFraming,
  place,
  readTracksJson,
  steady as solveSteady,
  steadyMotion,
  writeMotionJson,
  type Channels,
  type HeldScene,
  type MotionModel,
  type NamedTrack,
  type SmoothKind,
  type SteadySettings,
  type Strength,
} from '@lurn/core';
import { frameTimes, type Clip, type ClipIndex } from '@lurn/media';
import { exportMovie } from '@lurn/pipeline';
import type { FrameRange, PointArgument, ZoomArgument } from './arguments.js';
import { follow, indexWithProgress, type FollowArguments } from './follow.js';
import { findScene, holdingGroup, printScene, type SceneArguments } from './scene.js';
import { withInput, type InputArguments } from './open-input.js';
import { Progress } from './progress.js';
import { UsageError } from './usage-error.js';

export interface SteadyArguments extends FollowArguments, InputArguments, SceneArguments {
  out: string;
  tracks?: string;
  point: PointArgument[];
  range?: FrameRange;
  mode: 'hold' | 'smooth';
  smooth: number;
  kind?: SmoothKind;
  group?: number;
  model?: MotionModel;
  channels: Channels;
  strength: Partial<Strength>;
  reference?: number;
  zoom: ZoomArgument;
  motion?: string;
}

/** Returns what was lost on the way, a sentence each. */
export async function steady(path: string, args: SteadyArguments): Promise<string[]> {
  const told = args.tracks !== undefined || args.point.length > 0;
  if (!told && !args.scene)
    throw new UsageError(
      'Say what to hold still: --scene, or either --tracks FILE or one or more --point X,Y@FRAME.',
    );
  if (args.tracks !== undefined && args.point.length > 0)
    throw new UsageError('Give either --tracks FILE or --point X,Y@FRAME, not both.');
  if (args.group !== undefined && !args.scene) throw new UsageError('--group is a group of the --scene.');
  return withInput(path, args, (clip) => steadyClip(clip, args));
}

async function steadyClip(clip: Clip, args: SteadyArguments): Promise<string[]> {
  let index: ClipIndex;
  let tracks: NamedTrack[] = [];
  let losses: string[] = [];
  if (!args.tracks && args.point.length === 0) index = await indexWithProgress(clip);
  else if (args.tracks) {
    const text = await readFile(args.tracks, 'utf8');
    index = await indexWithProgress(clip);
    tracks = readTracksJson(text, { ...clip, frames: index.pts.length });
  } else {
    ({ index, tracks, losses } = await follow(clip, {
      ...args,
      points: args.point,
      range: args.range ?? null,
    }));
  }
  const frames = index.pts.length;
  const range = args.range ?? { first: 0, last: frames - 1 };
  const extents = tracks.map((t) => t.samples.extent()).filter((e) => e !== null);
  if (extents.length === 0 && !args.scene)
    throw new UsageError('The tracks hold no usable sample, so there is no motion to take out.');
  const begins = extents.length > 0 ? Math.min(...extents.map((e) => e.first)) : range.first;
  const referenceFrame = args.reference ?? Math.max(range.first, begins);
  for (const frame of [referenceFrame, range.last]) {
    if (frame >= frames)
      throw new UsageError(`Frame ${frame} is beyond the clip's end; its frames are 0 to ${frames - 1}.`);
  }
  let scene: HeldScene | null = null;
  if (args.scene) {
    scene = await findScene(clip, index, { within: [], without: [] }, { first: 0, last: frames - 1 });
    printScene(scene.shots, args.json);
    scene = holdingGroup(scene, args.group ?? 1);
  }
  const size = { width: clip.width, height: clip.height };
  const settings: SteadySettings = {
    // How to smooth asks for smoothing.
    mode: args.kind ? 'smooth' : args.mode,
    kind: args.kind ?? 'even',
    model: args.model ?? 'auto',
    smoothSeconds: args.smooth,
    channels: args.channels,
    strength: { ...fullStrength, ...args.strength },
    referenceFrame,
    range,
    framing: noFraming,
  };
  const facts = { ...size, pixelAspect: clip.pixelAspect, times: frameTimes(index, clip) };
  const solved = solveSteady(
    tracks.map((t) => t.samples),
    facts,
    settings,
    scene,
  );
  const { motion, fit } = solved;
  let { correction } = solved;
  let framing =
    args.zoom === 'none' ? noFraming : { ...noFraming, zoom: args.zoom === 'fit' ? 1 : args.zoom };
  if (args.zoom === 'fit') {
    if (!fit)
      throw new UsageError(
        'No zoom hides every bare edge: the picture moves out of its own frame. Try a shorter range or --mode smooth.',
      );
    framing = fit.framing;
    const cause = fit.forcedBy.map(({ frame, edge }) => `frame ${frame}, ${edge}`).join('; ');
    console.log(`Zoom ${(100 * framing.zoom).toFixed(2)} %${cause ? `, forced by ${cause}` : ''}.`);
  }
  if (args.kind === 'composed') {
    // The path is made for the zoom, and lies in the middle of it.
    framing = { ...noFraming, zoom: framing.zoom };
    const composed = steadyMotion(motion, facts, { ...settings, framing });
    if (framing.zoom > 1 && composed.bare.length > 0)
      throw new UsageError(
        `No path fits into a zoom of ${(100 * framing.zoom).toFixed(1)} %: allow more, or a shorter range.`,
      );
    ({ correction } = composed);
  }
  const placements = place(correction.matrices, framing, size);
  if (args.motion)
    await writeFile(
      args.motion,
      writeMotionJson({ ...clip, frames }, motion, placements, range.first, range.last),
    );
  const progress = new Progress('Exporting', 1 + range.last - range.first);
  const calledOff = new AbortController();
  process.once('SIGINT', () => calledOff.abort());
  await exportMovie({
    clip,
    index,
    steps: [{ kind: 'place', placements, interpolation: 'cubic' }],
    ...range,
    path: args.out,
    onProgress: progress.update,
    signal: calledOff.signal,
  }).finally(() => progress.end());
  console.log(`${1 + range.last - range.first} frames written to ${args.out}.`);
  return losses;
}
