import { multiply } from '../../geometry/mat3.js';
import type { ContentKind } from './content-kind.js';
import { cornered } from './cornered.js';

export const plays = ['loop', 'hold', 'still'] as const;

/** A clip of the project, at its own rate, in a quad of its own; or a frame of one. */
export interface ClipContent {
  kind: 'clip';
  /** The clip's id; of a recipe its path; empty for the clip itself. */
  clip: string;
  /** The frame of it that is shown on the first of the layer's. */
  from: number;
  /** From there on: over and over, held at its end, or that frame alone. */
  play: (typeof plays)[number];
  quad: readonly number[];
}

/** What a frame of a clip goes by among pictures. */
export const filmName = (clip: string, frame: number): string => `${clip}@${frame}`;

export const clip: ContentKind<ClipContent> = {
  fresh: { kind: 'clip', clip: '', from: 0, play: 'loop', quad: [] },
  needsOutline: false,
  ...cornered<ClipContent>(),
  operate: (content, { matrix, square, filmFrame }) =>
    square && {
      kind: 'picture',
      asset: filmName(content.clip, filmFrame),
      frameFromPicture: multiply(matrix, square),
    },
};
