import { identity, invert, matrixAt, type Mat3 } from '@lurn/core';
import { useDocument } from '../state/document';
import { useDressing } from '../state/dressing';
import { heldPlacing, useHeld } from '../state/held';
import type { PaneKind } from './panes';

/** How a frame of the clip lies in a pane's picture; null where it does not lie there. */
export function paneFromFrame(kind: PaneKind, frame: number): Mat3 | null {
  if (kind === 'source') return identity;
  const placements = kind === 'held' ? heldPlacing()?.placements : useDocument.getState().result?.placements;
  return placements && frame >= 0 && 9 * frame < placements.length ? matrixAt(placements, frame) : null;
}

/** The way back. */
export const frameFromPane = (kind: PaneKind, frame: number): Mat3 | null => {
  const matrix = paneFromFrame(kind, frame);
  return matrix && invert(matrix);
};

/** How a frame lies in a pane's picture, drawn anew when that changes. */
export function usePaneFromFrame(kind: PaneKind, frame: number): Mat3 | null {
  useDocument((s) => (kind === 'steadied' ? s.result : null));
  useHeld((s) => (kind === 'held' ? s : null));
  useDressing((s) => (kind === 'held' ? s.held : null));
  return paneFromFrame(kind, frame);
}
