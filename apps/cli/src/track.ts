import { writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { writeTracksCsv, writeTracksJson } from '@lurn/core';
import { openClip } from '@lurn/media';
import type { FrameRange, PointArgument } from './arguments.js';
import { follow } from './follow.js';
import { UsageError } from './usage-error.js';

export interface TrackArguments {
  point: PointArgument[];
  template: number;
  search: number;
  range?: FrameRange;
  out: string;
}

/** Returns what was lost on the way, a sentence each. */
export async function track(path: string, args: TrackArguments): Promise<string[]> {
  const kind = extname(args.out).toLowerCase();
  if (kind !== '.json' && kind !== '.csv')
    throw new UsageError(`--out must end in .json or .csv, not "${args.out}".`);
  const clip = await openClip(path);
  const { index, tracks, losses } = await follow(clip, {
    ...args,
    points: args.point,
    range: args.range ?? null,
  });
  const facts = { ...clip, frames: index.pts.length };
  await writeFile(args.out, kind === '.json' ? writeTracksJson(facts, tracks) : writeTracksCsv(tracks));
  console.log(
    `${tracks.length === 1 ? 'One track' : `${tracks.length} tracks`} over ${facts.frames} frames written to ${args.out}.`,
  );
  return losses;
}
