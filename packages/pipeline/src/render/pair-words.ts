import type { PairLayout } from '@lurn/core';
import type { Words } from '@lurn/media';

/** Where the words stand: each on its own picture. */
export const pairWords: Record<PairLayout, readonly [Words, Words]> = {
  side: [
    { text: 'Before', x: 0.02, y: 0.04, size: 0.045 },
    { text: 'After', x: 0.52, y: 0.04, size: 0.045 },
  ],
  stack: [
    { text: 'Before', x: 0.03, y: 0.03, size: 0.025 },
    { text: 'After', x: 0.03, y: 0.53, size: 0.025 },
  ],
  wipe: [
    { text: 'Before', x: 0.03, y: 0.04, size: 0.045 },
    { text: 'After', x: 0.86, y: 0.04, size: 0.045 },
  ],
};
