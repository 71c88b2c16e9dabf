import { multiply } from '../../geometry/mat3.js';
import type { ContentKind } from './content-kind.js';
import { cornered } from './cornered.js';

/** A picture of the clip's files, in a quad of its own. */
export interface PictureContent {
  kind: 'picture';
  /** The asset's id; of a recipe its path. */
  asset: string;
  /** Its corners, upper left first and on clockwise, pixels on the frame that it was drawn on: eight numbers. */
  quad: readonly number[];
}

export const picture: ContentKind<PictureContent> = {
  fresh: { kind: 'picture', asset: '', quad: [] },
  needsOutline: false,
  ...cornered<PictureContent>(),
  operate: ({ asset }, { matrix, square }) =>
    square && { kind: 'picture', asset, frameFromPicture: multiply(matrix, square) },
  assets: ({ asset }) => [asset],
};
