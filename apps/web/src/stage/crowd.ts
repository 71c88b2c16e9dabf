import type { TrackView } from '@lurn/contract';
import { SampleState } from '@lurn/core';
import type { TrackSamples } from '../state/track-samples';
import { trackColour } from '../ui/track-colour';
import type { PaneGeometry } from './panes';

/** A track whose box is shown. */
export interface ShownTrack {
  track: TrackView;
  own: TrackSamples;
}

/** Boxes that look alike, as one path. */
export interface Alike {
  colour: string;
  chosen: boolean;
  lost: boolean;
  d: string;
}

/** A box and the cross in its middle, stage pixels. */
const boxPath = (cx: number, cy: number, width: number, height: number): string =>
  `M${(cx - width / 2).toFixed(1)} ${(cy - height / 2).toFixed(1)}` +
  `h${width.toFixed(1)}v${height.toFixed(1)}h${(-width).toFixed(1)}z` +
  `M${(cx - 5).toFixed(1)} ${cy.toFixed(1)}h10m-5 -5v10`;

/** Hundreds of boxes, each a handful of elements, are slow to lay out: those that look alike are drawn as one. */
export function pathsOf(
  shown: readonly ShownTrack[],
  chosen: ReadonlySet<string>,
  frame: number,
  pane: PaneGeometry,
): Alike[] {
  const found = new Map<string, Alike>();
  for (const { track, own } of shown) {
    if (!own.state(frame)) continue;
    const look = {
      colour: trackColour(track.position),
      chosen: chosen.has(track.id),
      lost: own.state(frame) === SampleState.lost,
    };
    const key = `${look.colour} ${look.chosen} ${look.lost}`;
    const alike = found.get(key) ?? { ...look, d: '' };
    found.set(key, alike);
    alike.d += boxPath(
      pane.shiftX + pane.scaleX * own.x(frame),
      pane.shiftY + pane.scaleY * own.y(frame),
      pane.scaleX * track.template.width,
      pane.scaleY * track.template.height,
    );
  }
  return [...found.values()].sort((a, b) => Number(a.chosen) - Number(b.chosen));
}

/** The track whose box lies about a place of the stage, the one whose middle is nearest; null where none does. */
export function boxAt(
  shown: readonly ShownTrack[],
  frame: number,
  pane: PaneGeometry,
  at: { x: number; y: number },
): string | null {
  let nearest: string | null = null;
  let least = Infinity;
  for (const { track, own } of shown) {
    if (!own.state(frame)) continue;
    const dx = Math.abs(pane.shiftX + pane.scaleX * own.x(frame) - at.x);
    const dy = Math.abs(pane.shiftY + pane.scaleY * own.y(frame) - at.y);
    const { width, height } = track.template;
    const inside = dx <= (pane.scaleX * width) / 2 && dy <= (pane.scaleY * height) / 2;
    if (inside && Math.hypot(dx, dy) < least) [nearest, least] = [track.id, Math.hypot(dx, dy)];
  }
  return nearest;
}
