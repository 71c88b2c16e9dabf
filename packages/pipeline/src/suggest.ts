import { judgePlace, suggestPoints, TrackKernels, type PlaceScore, type Suggestion } from '@lurn/core';
import { frameBytes, readFrames } from '@lurn/media';
import type { FrameCache } from './frame-cache.js';
import { kernelModule } from './kernels.js';
import type { JudgeTask, SuggestTask } from './tasks.js';
import { asPicture, pictureFormat, planesFor } from './track-picture.js';

/** The best places to follow on one frame of a clip. Throws a RangeError when there is no such frame. */
export async function suggest(
  { clip, index, frame, options }: Omit<SuggestTask, 'kind'>,
  signal?: AbortSignal,
): Promise<Suggestion[]> {
  const planes = planesFor(options.analysis);
  const data = new Uint8Array(frameBytes(clip, planes));
  for await (const _ of readFrames(clip, {
    first: frame,
    last: frame,
    index,
    planes,
    signal,
    slot: () => data,
  })) {
    const picture = asPicture(data, pictureFormat(clip, planes));
    return suggestPoints(new TrackKernels(kernelModule()), picture, options);
  }
  throw new RangeError(`"${clip.name}" has no frame ${frame}.`);
}

/** How well one place will be followed, from frames kept at hand. */
export async function judge(
  { clip, index, frame, at, options }: Omit<JudgeTask, 'kind'>,
  cache: FrameCache,
): Promise<PlaceScore> {
  const planes = planesFor(options.analysis);
  const data = await cache.get(clip, index, frame, planes);
  return judgePlace(
    new TrackKernels(kernelModule()),
    asPicture(data, pictureFormat(clip, planes)),
    at,
    options,
  );
}
