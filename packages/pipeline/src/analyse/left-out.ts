import { InputError, RegionTracker, TrackKernels, type LeftOut } from '@lurn/core';
import { kernelModule } from '../kernels.js';
import type { FrameCache } from '../pass/frame-cache.js';
import { asPicture, pictureFormat, planesFor } from '../pass/pass-picture.js';
import type { LeftOutTask } from '../tasks.js';

/** What of a region disagrees with its key's look on a frame; null where it does not fit there at all. */
export async function leftOut(
  { clip, index, options, key, here }: Omit<LeftOutTask, 'kind'>,
  cache: FrameCache,
): Promise<LeftOut | null> {
  const { region } = options;
  if (!region) return null;
  const planes = planesFor(options.analysis);
  const read = async (frame: number) =>
    asPicture(await cache.get(clip, index, frame, planes), pictureFormat(clip, planes));
  const tracker = new RegionTracker(new TrackKernels(kernelModule()), { ...options, region });
  try {
    tracker.setKey(await read(key.frame), key.place, undefined, key.frame);
    return tracker.leftOutAt(await read(here.frame), here.place, here.frame);
  } catch (error) {
    // A key that shows too little to follow has nothing that could be left out.
    if (error instanceof InputError) return null;
    throw error;
  } finally {
    tracker.dispose();
  }
}
