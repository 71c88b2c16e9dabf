import type { PictureSize } from '@lurn/core';

/** What keeps a treated movie from having the motion put back that was taken out of it; null where nothing does. */
export function treatedTrouble(
  treated: PictureSize & { name: string; frames: number },
  exported: PictureSize & { frames: number },
): string | null {
  if (treated.frames !== exported.frames)
    return `${treated.name} has ${treated.frames} frames, what was exported ${exported.frames}: a treated movie has the frames that were exported.`;
  if (treated.width !== exported.width || treated.height !== exported.height)
    return `${treated.name} is ${treated.width}×${treated.height}, what was exported ${exported.width}×${exported.height}: treat it at that size.`;
  return null;
}
