import {
  judgePlace,
  suggestPoints,
  TrackKernels,
  Trial,
  type PlaceScore,
  type Suggestion,
  type TrackPicture,
} from '@lurn/core';
import { MediaError, frameBytes, readFrames, type Clip, type ClipIndex } from '@lurn/media';
import { budget, type FrameCache } from '../pass/frame-cache.js';
import { kernelModule } from '../kernels.js';
import type { JudgeTask, SuggestTask } from '../tasks.js';
import { asPicture, pictureFormat, planesFor, type Planes } from '../pass/pass-picture.js';

/** Places are tried out in so many frames on either side, if as many pictures can be kept at hand. */
const tried = 4;

/** The best places to follow on one frame of a clip. Throws a MediaError when there is no such frame. */
export async function suggest(
  { clip, index, frame, options }: Omit<SuggestTask, 'kind'>,
  signal?: AbortSignal,
): Promise<Suggestion[]> {
  const planes = planesFor(options.analysis);
  const { first, last } = about(clip, index, frame, planes);
  const pictures = new Map<number, TrackPicture>();
  const slot = (): Uint8Array => new Uint8Array(frameBytes(clip, planes));
  for await (const read of readFrames(clip, { first, last, index, planes, signal, slot }))
    pictures.set(read.frame, asPicture(read.data, pictureFormat(clip, planes)));
  const own = pictures.get(frame);
  if (!own) throw new MediaError(`"${clip.name}" has no frame ${frame}.`);
  const kernels = new TrackKernels(kernelModule());
  return suggestPoints(kernels, own, options, trialIn(kernels, pictures, frame));
}

/** How well one place will be followed, from frames kept at hand. */
export async function judge(
  { clip, index, frame, at, options }: Omit<JudgeTask, 'kind'>,
  cache: FrameCache,
): Promise<PlaceScore> {
  const planes = planesFor(options.analysis);
  const { first, last } = about(clip, index, frame, planes);
  const pictures = new Map<number, TrackPicture>();
  for (let k = first; k <= last; k++)
    pictures.set(k, asPicture(await cache.get(clip, index, k, planes), pictureFormat(clip, planes)));
  const kernels = new TrackKernels(kernelModule());
  const own = pictures.get(frame) as TrackPicture;
  return judgePlace(kernels, own, at, options, trialIn(kernels, pictures, frame));
}

/** The frames that places of one are tried out in. */
function about(clip: Clip, index: ClipIndex, frame: number, planes: Planes): { first: number; last: number } {
  const reach = Math.min(tried, Math.floor((budget / frameBytes(clip, planes) - 1) / 2));
  const far = Math.max(reach, 0);
  return { first: Math.max(frame - far, 0), last: Math.min(frame + far, index.pts.length - 1) };
}

function trialIn(kernels: TrackKernels, pictures: ReadonlyMap<number, TrackPicture>, frame: number): Trial {
  const way = (step: number): TrackPicture[] => {
    const found: TrackPicture[] = [];
    for (let k = frame + step, next = pictures.get(k); next; next = pictures.get((k += step)))
      found.push(next);
    return found;
  };
  return new Trial(kernels, pictures.get(frame) as TrackPicture, [way(1), way(-1)]);
}
