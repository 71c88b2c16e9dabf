import { defaultPointOptions, framesPerSecond, Samples, SampleState, type NamedTrack } from '@lurn/core';
import { indexClip, type Clip, type ClipIndex } from '@lurn/media';
import { trackClip } from '@lurn/pipeline';
import type { FrameRange, PointArgument } from './arguments.js';
import { Progress } from './progress.js';
import { UsageError } from './usage-error.js';

export interface FollowOptions {
  points: PointArgument[];
  template: number;
  search: number;
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

/** Tracks points both ways from their frames. Counts the clip's frames in the same pass where it can. */
export async function follow(clip: Clip, options: FollowOptions): Promise<Followed> {
  const { points, range } = options;
  // A header's duration tells the length nearly; a little room is left, and the true count checked after.
  const guess =
    clip.duration === null ? null : Math.ceil(clip.duration * framesPerSecond(clip.frameRate) * 1.02) + 16;
  const latest = Math.max(...points.map((p) => p.frame));
  let known: ClipIndex | undefined;
  if (range || guess === null || latest >= guess) known = await indexWithProgress(clip);
  for (;;) {
    const room = known ? known.pts.length : (guess as number);
    if (known) checkFrames(points, range, known.pts.length);
    const runs = points.map((p) => startRun(p, room, options));
    const last = range?.last ?? (known ? room - 1 : undefined);
    const from = known ? Math.min(...points.map((p) => p.frame)) : 0;
    const progress = new Progress(
      'Tracking',
      (last ?? room - 1) - from + 1 + latest - (range?.first ?? 0) + 1,
    );
    const index = await trackClip({
      ...{ clip, index: known, runs, direction: 'both', last },
      first: range?.first ?? 0,
      onProgress: progress.update,
    }).finally(() => progress.end());
    if (!index) throw new Error('Tracking ended without an index.');
    checkFrames(points, range, index.pts.length);
    if (index.pts.length > room) {
      known = index;
      continue;
    }
    const frames = index.pts.length;
    const tracks = runs.map(({ samples }, i) => ({
      name: points[i].name ?? `Point ${i + 1}`,
      samples: trim(samples, frames),
    }));
    return {
      index,
      tracks,
      losses: tracks.flatMap((track) => describeLoss(track, range ?? { first: 0, last: frames - 1 })),
    };
  }
}

function startRun({ x, y, frame }: PointArgument, frames: number, { template, search }: FollowOptions) {
  const samples = new Samples(frames);
  samples.set(frame, { x, y, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
  const square = (side: number) => ({ width: side, height: side });
  return {
    samples,
    from: frame,
    options: { ...defaultPointOptions, template: square(template), search: square(search) },
  };
}

function checkFrames(points: readonly PointArgument[], range: FrameRange | null, frames: number): void {
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

function describeLoss({ name, samples }: NamedTrack, { first, last }: FrameRange): string[] {
  const extent = samples.extent();
  if (!extent) return [];
  const sentences: string[] = [];
  if (extent.first > first)
    sentences.push(`"${name}" was lost going backwards, before frame ${extent.first}.`);
  if (extent.last < last) sentences.push(`"${name}" was lost going forwards, after frame ${extent.last}.`);
  return sentences;
}
