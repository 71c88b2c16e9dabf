import { needsChroma, plainAnalysis, suggestPoints, TrackKernels, type Suggestion } from '@lurn/core';
import { frameBytes, readFrames } from '@lurn/media';
import { kernelModule } from './kernels.js';
import type { SuggestTask } from './tasks.js';
import { asPicture, pictureFormat } from './track-picture.js';

/** The best places to follow on one frame of a clip. Throws a RangeError when there is no such frame. */
export async function suggest(
  { clip, index, frame, options }: Omit<SuggestTask, 'kind'>,
  signal?: AbortSignal,
): Promise<Suggestion[]> {
  const planes = needsChroma(options.analysis ?? plainAnalysis) ? 'all' : 'luma';
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
