import { readFile, writeFile } from 'node:fs/promises';
import {
  fullStrength,
  heldOutPaths,
  isSteadied,
  noFraming,
  shakeOf,
  steady as solveSteady,
  steadyMotion,
  writeMotionCsv,
  writeMotionJson,
  usualRestlessness,
  type Channels,
  type EdgeKind,
  type UnfilledKind,
  type Framing,
  type MotionModel,
  type NamedTrack,
  type RollingShutter,
  type PictureSize,
  type Placing,
  type Resampling,
  type SmoothKind,
  type SteadyClip,
  type SteadyResult,
  type SteadySettings,
  type Strength,
} from '@lurn/core';
import { readTracksJson } from '@lurn/model';
import type { Clip, ClipIndex } from '@lurn/media';
import { placeStep, type DressStep } from '@lurn/pipeline';
import { encodingOf, type EncodingArguments } from './encoding.js';
import type { FrameRange, PointArgument, ZoomArgument } from './arguments.js';
import { follow, indexWithProgress } from './follow.js';
import type { FollowArguments } from './follow-arguments.js';
import { withInput, type InputArguments } from './open-input.js';
import { findScene, holdingGroup, printScene, type FoundScene, type SceneArguments } from './scene.js';
import { dressStep } from './dress.js';
import { planRecipe } from './recipe-plan.js';
import { steadyClip, type RegionArguments } from './regions.js';
import { UsageError } from './usage-error.js';
import { writeMovie } from './write-movie.js';

export interface SteadyArguments
  extends FollowArguments, RegionArguments, InputArguments, SceneArguments, EncodingArguments {
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
  zoom?: ZoomArgument;
  motion?: string;
  rollingShutter?: RollingShutter;
  restlessness?: number;
  size?: PictureSize;
  edge?: EdgeKind;
  unfilled?: UnfilledKind;
  resample?: Resampling;
  recipe?: string;
  only?: 'layers' | 'matte';
}

type Say = (text: string) => void;

/** What is steadied, and how. */
interface Plan {
  index: ClipIndex;
  tracks: NamedTrack[];
  scene: FoundScene | null;
  settings: SteadySettings;
  /** What was lost on the way, a sentence each. */
  losses: string[];
  /** What is drawn onto the pictures before they are placed. */
  dressing: DressStep[];
}

/** Returns what was lost on the way, a sentence each. */
export async function steady(path: string, args: SteadyArguments): Promise<string[]> {
  const told = args.tracks !== undefined || args.point.length + args.region.length > 0;
  if (args.recipe !== undefined && (told || args.scene))
    throw new UsageError('A recipe says itself what is held: leave --scene, --tracks and --point out.');
  if (!told && !args.scene && args.recipe === undefined)
    throw new UsageError(
      'Say what to hold still: --scene, or either --tracks FILE or one or more --point X,Y@FRAME or --region, or a --recipe.',
    );
  if (args.tracks !== undefined && args.point.length + args.region.length > 0)
    throw new UsageError('Give either --tracks FILE or --point X,Y@FRAME, not both.');
  if (args.group !== undefined && !args.scene) throw new UsageError('--group is a group of the --scene.');
  return withInput(path, args, async (clip) => {
    // What cannot be written is said before anything is followed.
    if (args.only && args.recipe === undefined)
      throw new UsageError('--only is of the layers of a --recipe.');
    if (args.recipe === undefined) encodingOf(clip, args, args.edge === 'transparent');
    const plan =
      args.recipe === undefined ? await planOf(clip, args) : await planFrom(args.recipe, clip, args);
    await carryOut(clip, plan, args);
    return plan.losses;
  });
}

/** What the command line asks for. */
async function planOf(clip: Clip, args: SteadyArguments): Promise<Plan> {
  let index: ClipIndex;
  let tracks: NamedTrack[] = [];
  let losses: string[] = [];
  if (args.point.length + args.region.length > 0)
    ({ index, tracks, losses } = await follow(clip, {
      ...args,
      points: args.point,
      range: args.range ?? null,
    }));
  else index = await indexWithProgress(clip);
  const frames = index.pts.length;
  if (args.tracks) tracks = readTracksJson(await readFile(args.tracks, 'utf8'), { ...clip, frames });
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
  let scene: FoundScene | null = null;
  if (args.scene) {
    scene = await findScene(clip, index, { within: [], without: [] }, { first: 0, last: frames - 1 });
    printScene(scene.shots, args.json);
    scene = holdingGroup(scene, args.group ?? 1);
  }
  const settings: SteadySettings = {
    // How to smooth asks for smoothing.
    mode: args.kind ? 'smooth' : args.mode,
    kind: args.kind ?? 'even',
    model: args.model ?? 'auto',
    smoothSeconds: args.smooth,
    channels: args.channels,
    strength: { ...fullStrength, ...args.strength },
    rollingShutter: args.rollingShutter,
    referenceFrame,
    range,
    framing: noFraming,
  };
  return { index, tracks, scene, settings, losses, dressing: [] };
}

/** What a recipe asks for, followed anew on this clip. */
async function planFrom(path: string, clip: Clip, args: SteadyArguments): Promise<Plan> {
  const plan = await planRecipe(path, clip, args.json ?? false);
  const { index, scene, steady, layers, losses } = plan;
  if (!steady) throw new UsageError('The recipe does not say how the clip is steadied.');
  const tracks = plan.tracks.filter(({ used }) => used);
  const dressing = layers.length > 0 ? [await dressStep(layers, plan.carriers, path, { clip, index })] : [];
  return { index, tracks, scene, settings: steady, losses, dressing };
}

/** The smallest zoom that hides every bare edge, said with what forces it. */
function fitted(fit: SteadyResult['fit'], say: Say): Framing {
  if (!fit)
    throw new UsageError(
      'No zoom hides every bare edge: the picture moves out of its own frame. Try a shorter range or --mode smooth.',
    );
  const cause = fit.forcedBy.map(({ frame, edge }) => `frame ${frame}, ${edge}`).join('; ');
  say(`Zoom ${(100 * fit.framing.zoom).toFixed(2)} %${cause ? `, forced by ${cause}` : ''}.`);
  return fit.framing;
}

/** What shook, and what still does, on features that no solve has seen. */
function tellShake(scene: FoundScene, placing: Placing, clip: SteadyClip, range: FrameRange, say: Say): void {
  const paths = heldOutPaths(scene.features, scene.shots, scene.choices);
  const shake = shakeOf(paths, placing, clip.times, range);
  if (shake)
    say(
      `Shake ${shake.before.toFixed(2)} px RMS before, ${shake.after.toFixed(2)} after, on ${shake.paths} paths that no solve has seen.`,
    );
}

async function carryOut(clip: Clip, plan: Plan, args: SteadyArguments): Promise<void> {
  // What is read by scripts stands alone.
  const say: Say = args.json ? console.error : console.log;
  const { index, tracks, scene, settings: chosen } = plan;
  const frames = index.pts.length;
  const facts = steadyClip(clip, index);
  const settings: SteadySettings = {
    ...chosen,
    ...(args.size ? { output: args.size } : {}),
    ...(args.edge ? { edge: args.edge } : {}),
    ...(args.unfilled ? { unfilled: args.unfilled } : {}),
    ...(args.resample ? { resampling: args.resample } : {}),
    // Beyond the frame there is no layer.
    ...(args.only ? { edge: args.only === 'layers' ? ('transparent' as const) : ('black' as const) } : {}),
  };
  const { range } = settings;
  const encoding = encodingOf(clip, args, settings.edge === 'transparent');
  const solved = solveSteady(
    tracks.map((t) => t.samples),
    facts,
    settings,
    scene,
  );
  if (!isSteadied(solved.motion, settings))
    throw new UsageError(
      'There is nothing in it to take out: no track with a usable sample, and nothing by hand.',
    );
  const result = framed(solved, facts, settings, args, say);
  const { motion, placements, rows } = result;
  if (motion.readout) say(`Rolling shutter of ${motion.readout.toFixed(2)} of a frame taken out.`);
  if (scene) tellShake(scene, { placements, rows }, facts, range, say);
  if (args.motion)
    await writeFile(
      args.motion,
      args.motion.toLowerCase().endsWith('.csv')
        ? writeMotionCsv(motion, clip, range, 'pose')
        : writeMotionJson({ ...clip, frames }, motion, placements, range.first, range.last, settings.output),
    );
  if (args.only && plan.dressing.length === 0) throw new UsageError(`There is no layer in ${args.recipe}.`);
  const steps = [
    ...plan.dressing.map((step) => ({ ...step, only: args.only })),
    placeStep(
      result,
      clip,
      settings,
      tracks.map((t) => t.samples),
    ),
  ];
  await writeMovie('Exporting', { clip, index, steps, encoding, ...range, path: args.out }, say);
}

/** What was solved, in the framing that is asked for. */
function framed(
  solved: SteadyResult,
  facts: SteadyClip,
  settings: SteadySettings,
  args: SteadyArguments,
  say: Say,
): SteadyResult {
  const { motion, fit } = solved;
  // A recipe has a framing of its own, unless another is asked for.
  const zoom = args.zoom ?? (args.recipe === undefined ? 'fit' : null);
  if (zoom === null && args.restlessness === undefined) return solved;
  let { framing } = settings;
  let varying = zoom === 'varying' || (zoom === null && settings.varying);
  if (zoom === 'none') framing = noFraming;
  else if (zoom === 'fit' || zoom === 'varying') framing = fitted(fit, say);
  else if (zoom !== null) framing = { ...noFraming, zoom };
  if (zoom !== null && zoom !== 'varying') varying = false;
  const isComposed = settings.mode === 'smooth' && settings.kind === 'composed';
  // The path is made for the zoom, and lies in the middle of it.
  if (isComposed) framing = { ...noFraming, zoom: framing.zoom };
  const restlessness = args.restlessness ?? settings.varying?.restlessness ?? usualRestlessness;
  const result = steadyMotion(motion, facts, {
    ...settings,
    framing,
    varying: varying ? { restlessness } : null,
  });
  if (isComposed && args.recipe === undefined && framing.zoom > 1 && result.bare.length > 0)
    throw new UsageError(
      `No path fits into a zoom of ${(100 * framing.zoom).toFixed(1)} %: allow more, or a shorter range.`,
    );
  if (result.zooms) {
    const shown = result.zooms.subarray(settings.range.first, settings.range.last + 1);
    const [least, most] = [Math.min(...shown), Math.max(...shown)].map((z) => (100 * z).toFixed(2));
    say(`The zoom varies from ${least} to ${most} %.`);
  }
  return result;
}
