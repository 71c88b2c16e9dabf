import { apply, transformSpline } from '@lurn/core';
import { usePlayhead } from '../../state/playhead';
import { changeArea, useView } from '../../state/view';
import { usePaneFromFrame } from '../pane-frames';
import type { PaneGeometry } from '../panes';
import { SplineDraft, SplineHandles, splinePath } from './spline';

const colours = { within: '#8fd3c7', without: '#ef7a63' };

/** Areas drawn for suggestions: to look in, or, hatched, to keep out of. The one that is edited has handles. */
export function Areas({ pane }: { pane: PaneGeometry }) {
  const areas = useView((s) => s.areas);
  const edited = useView((s) => s.editedArea);
  return (
    <g data-testid="areas">
      <pattern id="keep-out" width={8} height={8} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width={3} height={8} fill={colours.without} fillOpacity={0.45} />
      </pattern>
      {areas.map(({ spline }, i) => (
        <path
          key={`under ${i}`}
          d={splinePath(pane, spline)}
          fill="none"
          stroke="#0b1013"
          strokeOpacity={0.55}
          strokeWidth={3.5}
          pointerEvents="none"
        />
      ))}
      {areas.map(({ kind, spline }, i) => (
        <path
          key={i}
          d={splinePath(pane, spline)}
          fill={kind === 'within' ? colours.within : 'url(#keep-out)'}
          fillOpacity={kind === 'within' ? 0.14 : 1}
          stroke={colours[kind]}
          strokeWidth={edited === i ? 2 : 1.5}
          pointerEvents="stroke"
          className="cursor-pointer"
          data-testid={`area-${kind}`}
          onPointerDown={(event) => {
            event.stopPropagation();
            useView.setState({ editedArea: i });
          }}
        />
      ))}
      {edited !== null && areas[edited] && (
        <SplineHandles
          pane={pane}
          spline={areas[edited].spline}
          colour={colours[areas[edited].kind]}
          onChange={(spline) => changeArea(edited, spline)}
        />
      )}
    </g>
  );
}

/** What is being drawn, on the frame shown. */
export function Draft({ pane }: { pane: PaneGeometry }) {
  const draft = useView((s) => s.draft);
  const tool = useView((s) => s.tool);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const placed = usePaneFromFrame(pane.kind, frame);
  if (!draft || !placed) return null;
  const { knots } = transformSpline({ knots: draft.knots }, placed);
  const next = draft.next && apply(placed, draft.next.x, draft.next.y);
  const colour = tool === 'without' ? colours.without : colours.within;
  return <SplineDraft pane={pane} knots={knots} next={next} colour={colour} />;
}
