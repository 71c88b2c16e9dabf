import type { CoverContent } from '../operation.js';
import type { ContentKind } from './content-kind.js';

export const cover: ContentKind<CoverContent> = {
  fresh: { kind: 'cover', how: 'averaged', colour: [0, 0, 0], strength: 16 },
  needsOutline: true,
  feather: 6,
  operate: (content, { strength, grown }) => ({
    ...content,
    strength: Math.max(1, content.strength * strength * grown),
  }),
};
