import { patchOperation } from './patch-operation.js';
import type { ContentKind } from './content-kind.js';

/** What is there without what passes before it, taken from frames of the clip on which it is seen. */
export interface FillContent {
  kind: 'fill';
  /** So many frames are looked at, spread over the layer's own. */
  frames: number;
  /** Whether it takes on each frame's light, and its grain. */
  follow: boolean;
}

export const fill: ContentKind<FillContent> = {
  fresh: { kind: 'fill', frames: 15, follow: true },
  needsOutline: true,
  feather: 3,
  operate: patchOperation,
};
