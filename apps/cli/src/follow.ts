import {
  framesPerSecond,
  interpolateKeys,
  Reason,
  reasonNames,
  reasonWords,
  Samples,
  SampleState,
  startingBoxes,
  type FollowOptions as TrackOptions,
  type KeyInterpolation,
  type NamedTrack,
} from '@lurn/core';
import { indexClip, type Clip, type ClipIndex } from '@lurn/media';
import { trackClip } from '@lurn/pipeline';
import type { FrameRange, KeyArgument, PointArgument } from './arguments.js';
import { followingOf, type FollowArguments } from './follow-arguments.js';
import { Progress } from './progress.js';
import { followRegions, layQuads, regionsFrom, steadyClip, type RegionArguments } from './regions.js';
import { UsageError } from './usage-error.js';

export interface FollowOptions extends FollowArguments, RegionArguments {
  points: PointArgument[];
  range: FrameRange | null;
}

export interface Followed {
  index: ClipIndex;
  tracks: NamedTrack[];
  /** A sentence for each track that did not reach the ends. */
  losses: string[];
}

export async function indexWithProgress(clip: Clip): Promise<ClipIndex> {
  const expected =
    clip.duration === null ? null : Math.round(clip.duration * framesPerSecond(clip.frameRate));
  const progress = new Progress('Reading', expected);
  try {
    return await indexClip(clip, { onProgress: progress.update });
  } finally {
    progress.end();
  }
}

/** Follows points and regions both ways from their frames. */
export async function follow(clip: Clip, options: FollowOptions): Promise<Followed> {
  if (options.region.length === 0) return followPoints(clip, options);
  const index = await indexWithProgress(clip);
  const frames = index.pts.length;
  const names = namesOf(options.points);
  // What cannot be followed is said before anything is.
  const drawn = regionsFrom(options, clip, frames, names);
  const points =
    options.points.length > 0 ? await followPoints(clip, options, index) : { tracks: [], losses: [] };
  await followRegions(clip, index, drawn, points.tracks, options);
  const regions = layQuads(drawn, options.quad, steadyClip(clip, index));
  const whole = options.range ?? { first: 0, last: frames - 1 };
  const losses = regions.flatMap((track) => describeLoss(track, whole));
  return { index, tracks: [...points.tracks, ...regions], losses: [...points.losses, ...losses] };
}

const namesOf = (points: readonly PointArgument[]): string[] =>
  points.map((p, i) => p.name ?? `Point ${i + 1}`);

/** Counts the clip's frames in the same pass where that is not done yet and it can. */
async function followPoints(clip: Clip, options: FollowOptions, counted?: ClipIndex): Promise<Followed> {
  const { points, range } = options;
  // A header's duration tells the length nearly; a little room is left, and the true count checked after.
  const guess =
    clip.duration === null ? null : Math.ceil(clip.duration * framesPerSecond(clip.frameRate) * 1.02) + 16;
  const names = namesOf(points);
  for (const [i, { x, y }] of points.entries())
    if (x < 0 || y < 0 || x > clip.width || y > clip.height)
      throw new UsageError(
        `"${names[i]}" at ${x},${y} lies outside the picture, which has ${clip.width}×${clip.height} pixels.`,
      );
  for (const { name } of options.key)
    if (!names.includes(name))
      throw new UsageError(`There is no point "${name}" for this key; name it in --point.`);
  const keysOf = (i: number): Omit<KeyArgument, 'name'>[] => [
    { ...points[i], aside: { x: 0, y: 0 } },
    ...options.key.filter((k) => k.name === names[i]),
  ];
  const placed = points.flatMap((_, i) => keysOf(i));
  if (options.byHand) return joinByHand(clip, options, options.byHand, names, keysOf);
  const latest = Math.max(...placed.map((p) => p.frame));
  let known = counted;
  if (!known && (range || guess === null || latest >= guess)) known = await indexWithProgress(clip);
  for (;;) {
    const room = known ? known.pts.length : (guess as number);
    if (known) checkFrames(placed, range, known.pts.length);
    const runs = points.map((p, i) => startRun(clip, p.frame, keysOf(i), room, options));
    const last = range?.last ?? (known ? room - 1 : undefined);
    const progress = new Progress('Tracking', null);
    const index = await trackClip({
      clip,
      index: known,
      runs,
      direction: 'both',
      last,
      first: range?.first ?? 0,
      onProgress: progress.update,
    }).finally(() => progress.end());
    if (!index) throw new Error('Tracking ended without an index.');
    checkFrames(placed, range, index.pts.length);
    if (index.pts.length > room) {
      known = index;
      continue;
    }
    const frames = index.pts.length;
    const tracks = runs.map(({ samples }, i) => ({
      name: names[i],
      samples: trim(samples, frames),
    }));
    return {
      index,
      tracks,
      losses: tracks.flatMap((track) => describeLoss(track, range ?? { first: 0, last: frames - 1 })),
    };
  }
}

/** Joins the keys of each point by a curve; nothing is followed. */
async function joinByHand(
  clip: Clip,
  options: FollowOptions,
  curve: KeyInterpolation,
  names: readonly string[],
  keysOf: (i: number) => Omit<KeyArgument, 'name'>[],
): Promise<Followed> {
  const index = await indexWithProgress(clip);
  const tracks = names.map((name, i): NamedTrack => {
    const keys = keysOf(i);
    checkFrames(keys, options.range, index.pts.length);
    if (keys.length < 2) throw new UsageError(`"${name}" has one key; by hand it takes two or more (--key).`);
    const samples = placedAt(keys, index.pts.length);
    interpolateKeys(samples, curve);
    return { name, samples };
  });
  return { index, tracks, losses: [] };
}

/** The boxes as they were asked for, else as a clip of this size has them. */
export function boxesOf(
  clip: Clip,
  { template, search }: Pick<FollowArguments, 'template' | 'search'>,
): Pick<TrackOptions, 'template' | 'search'> {
  const square = (width: number | undefined) => (width === undefined ? undefined : { width, height: width });
  return startingBoxes(clip, { template: square(template), search: square(search) });
}

function placedAt(keys: readonly Omit<KeyArgument, 'name'>[], frames: number): Samples {
  const samples = new Samples(frames);
  for (const { x, y, frame } of keys)
    samples.set(frame, { x, y, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
  return samples;
}

function startRun(
  clip: Clip,
  from: number,
  keys: readonly Omit<KeyArgument, 'name'>[],
  frames: number,
  following: FollowOptions,
) {
  const options: TrackOptions = {
    ...boxesOf(clip, following),
    ...followingOf(following),
  };
  const offsets = keys.map(({ frame, aside }) => ({ frame, ...aside }));
  return { samples: placedAt(keys, frames), from, options, offsets };
}

function checkFrames(points: readonly { frame: number }[], range: FrameRange | null, frames: number): void {
  const beyond = [...points.map((p) => p.frame), ...(range ? [range.last] : [])].find(
    (frame) => frame >= frames,
  );
  if (beyond !== undefined)
    throw new UsageError(`Frame ${beyond} is beyond the clip's end; its frames are 0 to ${frames - 1}.`);
  const outside = range && points.find((p) => p.frame < range.first || p.frame > range.last);
  if (outside)
    throw new UsageError(
      `The point at frame ${outside.frame} lies outside the range ${range.first}:${range.last}.`,
    );
}

function trim(samples: Samples, frames: number): Samples {
  const trimmed = new Samples(frames);
  for (let k = 0; k < frames; k++) {
    const sample = samples.get(k);
    if (sample) trimmed.set(k, sample);
  }
  return trimmed;
}

/** What of a range a track does not tell, stretch by stretch. */
export function describeLoss({ name, samples }: NamedTrack, { first, last }: FrameRange): string[] {
  const sentences: string[] = [];
  for (let frame = first; frame <= last; frame++) {
    if (samples.found(frame)) continue;
    const from = frame;
    while (frame < last && !samples.found(frame + 1)) frame++;
    const where = from === frame ? `frame ${from}` : `frames ${from} to ${frame}`;
    const reason = samples.reason.subarray(from, frame + 1).find((one) => one !== Reason.none);
    const why = reason === undefined ? '' : `: ${reasonWords[reasonNames[reason]]}`;
    sentences.push(`"${name}" was lost on ${where}${why}.`);
  }
  return sentences;
}
