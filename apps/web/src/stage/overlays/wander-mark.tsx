import { useDocument } from '../../state/document';
import { areaOnOutput, wanderAnywhere, wanderBetween } from '../../state/wander';
import { toStage, type PaneGeometry } from '../panes';
import { Handle } from './handle';

const colour = '#e9b65d';

/** The area of the steadied picture that what is followed may wander in. */
export function WanderMark({ pane }: { pane: PaneGeometry }) {
  const area = useDocument((s) => (s.steady?.mode === 'smooth' ? s.steady.within : undefined));
  // The area rides on the framing.
  useDocument((s) => s.steady?.framing);
  const shown = area && areaOnOutput(area);
  if (!shown) return null;
  const [a, b] = [
    { x: shown.left, y: shown.top },
    { x: shown.right, y: shown.bottom },
  ];
  const [from, to] = [toStage(pane, a), toStage(pane, b)];
  const box = { x: from.x, y: from.y, width: to.x - from.x, height: to.y - from.y, fill: 'none' };
  return (
    <g data-testid="wander-mark">
      <rect {...box} stroke="#0b1013" strokeOpacity={0.6} strokeWidth={3.5} pointerEvents="none" />
      <rect {...box} stroke={colour} strokeWidth={1.5} strokeDasharray="7 5" pointerEvents="none" />
      {[
        { name: 'Upper left', at: a, other: b },
        { name: 'Lower right', at: b, other: a },
      ].map(({ name, at, other }) => (
        <Handle
          key={name}
          pane={pane}
          at={at}
          colour={colour}
          label={`${name} corner of the area to wander in: drag or arrow keys; Delete removes the area`}
          onMove={(moved) => wanderBetween(moved, other)}
          onRemove={wanderAnywhere}
        />
      ))}
    </g>
  );
}
