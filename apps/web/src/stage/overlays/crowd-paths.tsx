import { Fragment, type PointerEvent } from 'react';
import { boxAt, pathsOf, type ShownTrack } from '../crowd';
import type { PaneGeometry } from '../panes';
import { stagePoint } from './stage-point';

/** Boxes that are drawn together until the pointer is on one. */
export function Crowd({
  shown,
  chosen,
  frame,
  pane,
  onHover,
}: {
  shown: readonly ShownTrack[];
  chosen: ReadonlySet<string>;
  frame: number;
  pane: PaneGeometry;
  onHover: (id: string) => void;
}) {
  const hover = (event: PointerEvent<SVGElement>): void => {
    const id = boxAt(shown, frame, pane, stagePoint(event));
    if (id && event.buttons === 0) onHover(id);
  };
  return (
    <g fill="none" onPointerMove={hover} data-testid="crowd">
      {pathsOf(shown, chosen, frame, pane).map(({ colour, chosen, lost, d }) => (
        <Fragment key={`${colour} ${chosen} ${lost}`}>
          <path d={d} stroke="#000" strokeOpacity={0.5} strokeWidth={chosen ? 4 : 3} pointerEvents="none" />
          <path
            d={d}
            stroke={colour}
            strokeWidth={chosen ? 2 : 1.1}
            strokeDasharray={lost ? '3 4' : undefined}
            pointerEvents="all"
          />
        </Fragment>
      ))}
    </g>
  );
}
