import { measureAround, pictureBytes, type Match } from '@lurn/core';
import { MediaError, pictureFormat, readFrames } from '@lurn/media';
import type { AroundTask } from '../tasks.js';

/** What is about a layer on a frame, measured on the original. */
export async function readAround(
  { clip, index, mask, frame }: AroundTask,
  signal?: AbortSignal,
): Promise<Match> {
  const format = pictureFormat(clip, 8);
  const slot = new Uint8Array(pictureBytes(format));
  const range = { first: frame, last: frame, index, planes: 'exported', signal } as const;
  for await (const { data } of readFrames(clip, { ...range, slot: () => slot }))
    return measureAround(data, format, mask);
  throw new MediaError(`Frame ${frame} of "${clip.name}" cannot be read.`);
}
