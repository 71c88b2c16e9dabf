import { useMemo } from 'react';
import { useDocument } from '../../state/document';
import { usePlayhead } from '../../state/playhead';
import { shotAt, useScene } from '../../state/scene';
import { holdGroup } from '../../state/scene-edits';
import { useWorkspace } from '../../state/workspace';
import { groupMark, groupShade } from '../../ui/group-mark';
import type { PaneGeometry } from '../panes';

/** What moves alike, marked on the picture; pointing at a group lights it up, a click holds it. */
export function GroupMarks({ pane }: { pane: PaneGeometry }) {
  const scene = useDocument((s) => s.scene);
  const step = useWorkspace((s) => s.step);
  if (!scene || scene.hidden || step !== 'follow') return null;
  return <Marks pane={pane} />;
}

function Marks({ pane }: { pane: PaneGeometry }) {
  const scene = useDocument((s) => s.scene);
  const frame = usePlayhead((s) => s.shown);
  const features = useScene((s) => s.features);
  const lit = useScene((s) => s.lit);
  const shot = shotAt(scene, frame);
  const paths = useMemo(() => {
    if (!features) return [];
    const byGroup = new Map<number, string>();
    for (const { group, x, y } of features.on(frame)) {
      const at = `M${(pane.shiftX + pane.scaleX * x).toFixed(1)} ${(pane.shiftY + pane.scaleY * y).toFixed(1)}`;
      byGroup.set(group, (byGroup.get(group) ?? '') + at + groupMark(group));
    }
    return [...byGroup].sort(([a], [b]) => a - b);
  }, [frame, features, pane.shiftX, pane.shiftY, pane.scaleX, pane.scaleY]);
  const held = scene?.shots.at(shot)?.group ?? 0;
  return (
    <g data-testid="group-marks" fill="none" strokeLinejoin="round">
      {paths.map(([group, d]) => {
        const isLit = lit?.shot === shot && lit.group === group;
        const isFaint = group < 0 || (lit !== null && !isLit);
        const shade = groupShade(group);
        return (
          <g
            key={group}
            data-testid={group < 0 ? 'group-none' : `group-mark-${group + 1}`}
            className={group < 0 ? undefined : 'cursor-pointer'}
            pointerEvents={group < 0 ? 'none' : 'all'}
            opacity={isFaint ? 0.3 : 1}
            onPointerEnter={() => group >= 0 && useScene.setState({ lit: { shot, group } })}
            onPointerLeave={() => useScene.setState({ lit: null })}
            onPointerDown={(event) => {
              event.stopPropagation();
              holdGroup(shot, group);
            }}
          >
            <path d={d} stroke="transparent" strokeWidth={12} />
            <path d={d} stroke="#0b1013" strokeOpacity={0.75} strokeWidth={isLit ? 4.5 : 3.2} />
            <path
              d={d}
              stroke={shade}
              strokeWidth={isLit ? 2.4 : 1.4}
              fill={group === held ? shade : 'none'}
              fillOpacity={0.85}
            />
          </g>
        );
      })}
    </g>
  );
}
