import { apply, type Mat3 } from '@lurn/core';
import { useEffect } from 'react';
import { usePlayhead } from '../../state/playhead';
import { lookForLeftOut, useRegions } from '../../state/regions';
import { toStage, type PaneGeometry } from '../panes';

/** Milliseconds that a frame rests before it is looked at. */
const rest = 200;

interface LeftOutProps {
  pane: PaneGeometry;
  trackId: string;
  frame: number;
  /** From the clip's picture to the pane's, where that is another. */
  placement: Mat3 | null;
  /** Changes whenever it lies elsewhere. */
  place: string;
}

/** What of the selected region is left out on the frame at rest. */
export function LeftOut({ pane, trackId, frame, placement, place }: LeftOutProps) {
  const leftOut = useRegions((s) => s.leftOut);
  const playing = usePlayhead((s) => s.playing);
  const looks = pane.kind === 'source' && !playing;
  useEffect(() => {
    if (!looks) return;
    const waiting = setTimeout(() => void lookForLeftOut(trackId, frame), rest);
    return () => clearTimeout(waiting);
  }, [looks, trackId, frame, place]);
  if (leftOut?.trackId !== trackId || leftOut.frame !== frame || !leftOut.found || playing) return null;
  return (
    <g data-testid="left-out" pointerEvents="none">
      {leftOut.found.quads.map((quad, i) => {
        const corners = [0, 1, 2, 3].map((k) => {
          const p = { x: quad[2 * k], y: quad[2 * k + 1] };
          const { x, y } = toStage(pane, placement ? apply(placement, p.x, p.y) : p);
          return `${x},${y}`;
        });
        return (
          <polygon
            key={i}
            points={corners.join(' ')}
            fill="#ef7a63"
            fillOpacity={0.32}
            stroke="#ef7a63"
            strokeOpacity={0.5}
            strokeWidth={0.75}
          />
        );
      })}
    </g>
  );
}
