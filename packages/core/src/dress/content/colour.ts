import type { ColourContent } from '../operation.js';
import type { ContentKind } from './content-kind.js';

export const colour: ContentKind<ColourContent> = {
  fresh: {
    kind: 'colour',
    hue: 0,
    saturation: 1,
    contrast: 1,
    brightness: 0,
    lightness: 0,
    curve: [],
    tint: [1, 1, 1],
    tintAmount: 0,
  },
  needsOutline: true,
  operate: (content) => content,
};
