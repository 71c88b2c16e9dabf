import { apply, invert, multiply, scaleAbout, strokePoints, type Mat3, type Point } from '@lurn/core';
import { useDressing } from '../../state/dressing';
import {
  frameFromLayer,
  isRepair,
  moveStroke,
  removeStroke,
  strokeMiddle,
  useBrush,
  type RepairLayer,
} from '../../state/brush';
import { useDocument } from '../../state/document';
import { useLayers } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { useView } from '../../state/view';
import { useWorkspace } from '../../state/workspace';
import { usePaneFromFrame } from '../pane-frames';
import { toStage, type PaneGeometry } from '../panes';
import { Handle } from './handle';

const colour = '#b9a3f5';
const sourceColour = '#8fd3c7';

/** The brush, where it copies from, the stroke under way, and the one that is chosen. */
export function BrushMarks({ pane }: { pane: PaneGeometry }) {
  const step = useWorkspace((s) => s.step);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const placed = usePaneFromFrame(pane.kind, frame);
  const selected = useLayers((s) => s.selected);
  const layer = useDocument((s) => s.layers.find(({ id }) => id === selected));
  const tool = useView((s) => s.tool);
  if (step !== 'dress' || !placed) return null;
  return (
    <g data-testid={`brush-${pane.kind}`}>
      {isRepair(layer) && <ChosenStroke pane={pane} layer={layer} frame={frame} placed={placed} />}
      {tool === 'brush' && <Brush pane={pane} placed={placed} frame={frame} />}
    </g>
  );
}

const path = (points: readonly Point[]): string => {
  const [first, ...rest] = points;
  const end = rest.length > 0 ? rest : [{ x: first.x + 0.01, y: first.y }];
  return `M${first.x} ${first.y}${end.map(({ x, y }) => `L${x} ${y}`).join('')}`;
};

function Brush({ pane, placed, frame }: { pane: PaneGeometry; placed: Mat3; frame: number }) {
  const { at, draft, waiting, width, soft, source, asks, how } = useBrush();
  const seen = ({ x, y }: Point): Point => toStage(pane, apply(placed, x, y));
  const across = at ? width * scaleAbout(placed, at) * pane.scaleY : 0;
  const from =
    source?.frame === frame && source.at && (how === 'clone' || how === 'heal') ? seen(source.at) : null;
  return (
    <g pointerEvents="none">
      {[draft ?? [], ...waiting.map((one) => (one.frame === frame ? one.dabs : []))].map((dabs, i) =>
        dabs.length === 0 ? null : (
          <path
            key={i}
            d={path(dabs.map(seen))}
            fill="none"
            stroke={colour}
            strokeOpacity={0.45}
            strokeWidth={width * scaleAbout(placed, dabs[0]) * pane.scaleY}
            strokeLinecap="round"
            strokeLinejoin="round"
            data-testid="stroke-draft"
          />
        ),
      )}
      {at && (
        <g transform={`translate(${seen(at).x} ${seen(at).y})`}>
          <circle r={across / 2} fill="none" stroke="#0b1013" strokeOpacity={0.6} strokeWidth={3} />
          <circle r={across / 2} fill="none" stroke={asks ? sourceColour : '#f2f5f3'} strokeWidth={1.25} />
          {soft > 0 && (
            <circle
              r={(across / 2) * (1 - soft)}
              fill="none"
              stroke="#f2f5f3"
              strokeOpacity={0.45}
              strokeDasharray="2 3"
            />
          )}
        </g>
      )}
      {from && (
        <g transform={`translate(${from.x} ${from.y})`} data-testid="brush-source">
          <circle r={8} fill="none" stroke="#0b1013" strokeOpacity={0.6} strokeWidth={3.5} />
          <path d="M-12 0H-3M3 0H12M0 -12V-3M0 3V12" stroke={sourceColour} strokeWidth={1.5} />
          <circle r={8} fill="none" stroke={sourceColour} strokeWidth={1.5} />
        </g>
      )}
    </g>
  );
}

interface ChosenProps {
  pane: PaneGeometry;
  layer: RepairLayer;
  frame: number;
  placed: Mat3;
}

/** The stroke that is chosen in the list, with a handle that it is moved by. */
function ChosenStroke({ pane, layer, frame, placed }: ChosenProps) {
  const chosen = useBrush((s) => s.chosen);
  const tool = useView((s) => s.tool);
  // Where it lies is read when layers are carried anew.
  useDressing((s) => s.carried);
  const carried = frameFromLayer(layer, frame);
  const stroke = chosen === null ? undefined : layer.content.strokes[chosen];
  if (!stroke || !carried || chosen === null) return null;
  const matrix = multiply(placed, carried);
  const points = strokePoints(stroke);
  const middle = strokeMiddle(stroke);
  const across = stroke.width * scaleAbout(matrix, middle) * pane.scaleY;
  return (
    <g data-testid="chosen-stroke">
      <path
        d={path(points.map(({ x, y }) => toStage(pane, apply(matrix, x, y))))}
        fill="none"
        stroke={colour}
        strokeOpacity={0.35}
        strokeWidth={across}
        strokeLinecap="round"
        strokeLinejoin="round"
        pointerEvents="none"
      />
      {!layer.locked && tool === 'move' && (
        <Handle
          pane={pane}
          at={apply(matrix, middle.x, middle.y)}
          label="Move the stroke"
          shape="round"
          colour={colour}
          testId="stroke-middle"
          onMove={(to, done) => {
            if (!done) return;
            const back = invert(matrix);
            const p = apply(back, to.x, to.y);
            moveStroke(layer, chosen, p.x - middle.x, p.y - middle.y);
          }}
          onRemove={() => removeStroke(layer, chosen)}
        />
      )}
    </g>
  );
}
