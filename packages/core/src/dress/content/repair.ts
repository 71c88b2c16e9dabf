import { boxCorners } from '../../geometry/quad.js';
import { strokeBox, type Stroke } from '../stroke.js';
import { patchOperation } from './patch-operation.js';
import type { ContentKind } from './content-kind.js';

/** What is painted with the brush: colours, and what is copied of the clip. */
export interface RepairContent {
  kind: 'repair';
  /** One over another, in order. */
  strokes: readonly Stroke[];
  /** Whether it takes on each frame's light, and its grain. */
  follow: boolean;
}

export const repair: ContentKind<RepairContent> = {
  fresh: { kind: 'repair', strokes: [], follow: true },
  needsOutline: false,
  quad: (_, box) => box && boxCorners(box),
  middle: ({ strokes }) => strokes.flatMap((stroke) => boxCorners(strokeBox(stroke))),
  // Strokes end where they were painted: without outlines nothing is drawn in or fades.
  isUnshaped: true,
  operate: patchOperation,
};
