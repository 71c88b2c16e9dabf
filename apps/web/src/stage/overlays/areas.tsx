import { useView, type Area } from '../../state/view';
import type { PaneGeometry } from '../panes';

/** With its corners in order, however it was drawn. */
export const upright = ({ kind, left, top, right, bottom }: Area): Area => ({
  kind,
  left: Math.min(left, right),
  right: Math.max(left, right),
  top: Math.min(top, bottom),
  bottom: Math.max(top, bottom),
});

/** Areas drawn for suggestions: to look in, or, hatched, to keep out of. */
export function Areas({ pane, drawn }: { pane: PaneGeometry; drawn: Area | null }) {
  const areas = useView((s) => s.areas);
  return (
    <g pointerEvents="none" data-testid="areas">
      <pattern id="keep-out" width={8} height={8} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width={3} height={8} fill="#ef7a63" fillOpacity={0.45} />
      </pattern>
      {(drawn ? [...areas, upright(drawn)] : areas).map(({ kind, left, top, right, bottom }, i) => (
        <rect
          key={i}
          x={pane.shiftX + pane.scaleX * left}
          y={pane.shiftY + pane.scaleY * top}
          width={pane.scaleX * (right - left)}
          height={pane.scaleY * (bottom - top)}
          fill={kind === 'within' ? '#8fd3c7' : 'url(#keep-out)'}
          fillOpacity={kind === 'within' ? 0.14 : 1}
          stroke={kind === 'within' ? '#8fd3c7' : '#ef7a63'}
          strokeWidth={1.5}
        />
      ))}
    </g>
  );
}
