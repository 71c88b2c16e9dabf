import { writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { writeSceneJson, writeTracksCsv, writeTracksJson, type ClosedSpline } from '@lurn/core';
import { indexClip, type Clip } from '@lurn/media';
import { suggest } from '@lurn/pipeline';
import type { FrameRange, PointArgument } from './arguments.js';
import { boxesOf, follow, indexWithProgress } from './follow.js';
import type { FollowArguments } from './follow-arguments.js';
import { findScene, printScene, type SceneArguments } from './scene.js';
import { withInput, type InputArguments } from './open-input.js';
import type { RegionArguments } from './regions.js';
import { UsageError } from './usage-error.js';

export interface TrackArguments extends FollowArguments, RegionArguments, InputArguments, SceneArguments {
  point: PointArgument[];
  range?: FrameRange;
  out?: string;
  suggest?: number;
  frame: number;
  within: ClosedSpline[];
  without: ClosedSpline[];
}

const isJson = (path: string): boolean => extname(path).toLowerCase() === '.json';

/** Returns what was lost on the way, a sentence each. */
export async function track(path: string, args: TrackArguments): Promise<string[]> {
  const { out } = args;
  if (out !== undefined && !isJson(out) && extname(out).toLowerCase() !== '.csv')
    throw new UsageError(`--out must end in .json or .csv, not "${out}".`);
  if (args.scene) {
    if (args.point.length > 0 || args.suggest !== undefined)
      throw new UsageError('--scene follows the whole picture by itself: leave --point and --suggest out.');
    if (out !== undefined && !isJson(out)) throw new UsageError('A scene is written as .json.');
    return withInput(path, args, (clip) => trackScene(clip, args, out));
  }
  if (args.point.length === 0 && args.region.length === 0 && args.suggest === undefined)
    throw new UsageError(
      'Give at least one --point X,Y@FRAME or --region to follow, or let --suggest N find some.',
    );
  if (out === undefined && args.suggest === undefined)
    throw new UsageError('Say with --out where to write the tracks.');
  return withInput(path, args, (clip) => trackClip(clip, args, out));
}

/** Finds the whole picture's motion and writes its groups. */
async function trackScene(clip: Clip, args: TrackArguments, out: string | undefined): Promise<string[]> {
  const index = await indexWithProgress(clip);
  const frames = index.pts.length;
  const range = args.range ?? { first: 0, last: frames - 1 };
  if (range.last >= frames)
    throw new UsageError(`Frame ${range.last} is beyond the clip's end; its frames are 0 to ${frames - 1}.`);
  const { within, without } = args;
  const { shots, motions } = await findScene(clip, index, { within, without }, range);
  printScene(shots, args.json);
  if (out !== undefined) await writeFile(out, writeSceneJson({ ...clip, frames }, shots, motions));
  return [];
}

async function trackClip(clip: Clip, args: TrackArguments, out: string | undefined): Promise<string[]> {
  const points = [
    ...args.point,
    ...(args.suggest === undefined ? [] : await suggested(clip, args, args.suggest)),
  ];
  if (out === undefined) return [];
  if (points.length === 0 && args.region.length === 0)
    throw new UsageError(`Nothing on frame ${args.frame} is worth following there.`);
  const { index, tracks, losses } = await follow(clip, { ...args, points, range: args.range ?? null });
  const facts = { ...clip, frames: index.pts.length };
  await writeFile(out, isJson(out) ? writeTracksJson(facts, tracks) : writeTracksCsv(tracks, facts));
  console.log(
    `${tracks.length === 1 ? 'One track' : `${tracks.length} tracks`} over ${facts.frames} frames written to ${out}.`,
  );
  return losses;
}

/** Finds the places best followed, and says how good each is. */
async function suggested(clip: Clip, args: TrackArguments, count: number): Promise<PointArgument[]> {
  const { frame, channel, filter, fields, within, without } = args;
  const index = await indexClip(clip);
  if (frame >= index.pts.length)
    throw new UsageError(
      `Frame ${frame} is beyond the clip's end; its frames are 0 to ${index.pts.length - 1}.`,
    );
  const found = await suggest({
    clip,
    index,
    frame,
    options: {
      count,
      ...boxesOf(clip, args),
      within,
      without,
      analysis: { channel, filter, fields },
    },
  });
  return found.map(({ x, y, score }, i) => {
    console.log(`${x},${y}@${frame}  score ${score.toFixed(2)}`);
    return { x, y, frame, name: `Suggested ${i + 1}` };
  });
}
