import type { TrackView } from '@lurn/contract';
import { SampleState, sampleStateNames, type Sample, type Samples } from '@lurn/core';
import { useMemo, useState, type PointerEvent } from 'react';
import { changeTrack, setKey, useEditor } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { trackColour } from '../ui/track-colour';
import type { PaneGeometry } from './panes';

export interface Aim {
  x: number;
  y: number;
  pointer: { x: number; y: number };
  box: { width: number; height: number };
  colour: string;
}

interface OverlayProps {
  pane: PaneGeometry;
  /** Told while a point is being placed by hand, for the loupe; null when it is let go. */
  onAim: (aim: Aim | null) => void;
}

/** Boxes and paths over the source picture. */
export function Overlay({ pane, onAim }: OverlayProps) {
  const tracks = useEditor((s) => s.tracks);
  const samples = useEditor((s) => s.samples);
  useEditor((s) => s.versions);
  const selected = useEditor((s) => s.selected);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const ordered = [...tracks].sort((a, b) => Number(a.id === selected) - Number(b.id === selected));
  return (
    <g>
      {ordered.map((track) => {
        const own = samples.get(track.id);
        if (!own || track.hidden) return null;
        return (
          <g key={track.id} data-track={track.name}>
            <PathLine
              id={track.id}
              pane={pane}
              samples={own}
              colour={trackColour(track.position)}
              faint={track.id !== selected}
            />
            <Box
              pane={pane}
              track={track}
              sample={own.get(frame)}
              frame={frame}
              selected={track.id === selected}
              named={track.id === selected || tracks.length <= mostNamed}
              onAim={onAim}
            />
          </g>
        );
      })}
    </g>
  );
}

/** Where the point has been and goes, in clip pixels; drawn anew only when samples change. */
function PathLine({
  id,
  pane,
  samples,
  colour,
  faint,
}: {
  id: string;
  pane: PaneGeometry;
  samples: Samples;
  colour: string;
  faint: boolean;
}) {
  const version = useEditor((s) => s.versions.get(id));
  const d = useMemo(() => {
    let path = '';
    let open = false;
    for (let k = 0; k < samples.frames; k++) {
      if (!samples.found(k)) open = false;
      else {
        path += `${open ? 'L' : 'M'}${samples.x[k].toFixed(1)} ${samples.y[k].toFixed(1)}`;
        open = true;
      }
    }
    return path;
    // Samples are altered in place; their version says when.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [samples, version]);
  return (
    <path
      d={d}
      transform={`translate(${pane.shiftX} ${pane.shiftY}) scale(${pane.scaleX} ${pane.scaleY})`}
      fill="none"
      stroke={colour}
      strokeOpacity={faint ? 0.35 : 0.75}
      strokeWidth={1.25}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}

type Handle = { box: 'template' | 'search'; sx: number; sy: number };

interface BoxProps extends OverlayProps {
  track: TrackView;
  sample: Sample | null;
  frame: number;
  selected: boolean;
  named: boolean;
}

/** Of more boxes than this only the selected one bears its name; the others tell theirs under the pointer. */
const mostNamed = 12;

function Box({ pane, track, sample, frame, selected, named, onAim }: BoxProps) {
  const [moved, setMoved] = useState<{ x: number; y: number } | null>(null);
  const [sized, setSized] = useState<Pick<TrackView, 'template' | 'search'> | null>(null);
  if (!sample && !moved) return null;
  const colour = trackColour(track.position);
  const { x, y } = moved ?? (sample as Sample);
  const template = sized?.template ?? track.template;
  const search = sized?.search ?? track.search;
  const cx = pane.shiftX + pane.scaleX * x;
  const cy = pane.shiftY + pane.scaleY * y;
  const state = sample ? sampleStateNames[sample.state] : 'placed';
  const lost = sample?.state === SampleState.lost;
  const stagePoint = (event: PointerEvent<SVGElement>): { x: number; y: number } => {
    const frameOfStage = (event.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
    return { x: event.clientX - frameOfStage.left, y: event.clientY - frameOfStage.top };
  };

  const startMove = (event: PointerEvent<SVGElement>): void => {
    if (event.button !== 0) return;
    event.stopPropagation();
    useEditor.setState({ selected: track.id });
    if (track.locked) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    usePlayhead.setState({ playing: false });
    setMoved({ x, y });
    onAim({ x, y, pointer: stagePoint(event), box: template, colour });
  };
  const move = (event: PointerEvent<SVGElement>): void => {
    if (!moved) return;
    // Held Shift makes the hand ten times finer.
    const gain = event.shiftKey ? 0.1 : 1;
    const next = {
      x: moved.x + (event.movementX * gain) / pane.scaleX,
      y: moved.y + (event.movementY * gain) / pane.scaleY,
    };
    setMoved(next);
    onAim({ ...next, pointer: stagePoint(event), box: template, colour });
  };
  const endMove = (): void => {
    onAim(null);
    if (moved && sample && (moved.x !== sample.x || moved.y !== sample.y))
      setKey(track.id, frame, moved.x, moved.y);
    setMoved(null);
  };

  const startSize = (event: PointerEvent<SVGElement>): void => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    setSized({ template, search });
  };
  const size = (event: PointerEvent<SVGElement>, { box }: Handle): void => {
    if (!sized) return;
    const p = stagePoint(event);
    const full = (distance: number, scale: number): number =>
      Math.min(Math.max(Math.round((2 * Math.abs(distance)) / scale), 7), 4001);
    const next = { width: full(p.x - cx, pane.scaleX), height: full(p.y - cy, pane.scaleY) };
    if (box === 'template') {
      setSized({
        template: next,
        search: {
          width: Math.max(search.width, next.width + 8),
          height: Math.max(search.height, next.height + 8),
        },
      });
    } else {
      setSized({
        template,
        search: {
          width: Math.max(next.width, template.width + 8),
          height: Math.max(next.height, template.height + 8),
        },
      });
    }
  };
  const endSize = (): void => {
    if (sized) void changeTrack(track.id, sized).finally(() => setSized(null));
  };

  const rectangle = ({ width, height }: { width: number; height: number }) => ({
    x: cx - (width * pane.scaleX) / 2,
    y: cy - (height * pane.scaleY) / 2,
    width: width * pane.scaleX,
    height: height * pane.scaleY,
  });
  const inner = rectangle(template);
  const outer = rectangle(search);
  return (
    <g data-testid="track-box" data-state={state} data-x={x.toFixed(3)} data-y={y.toFixed(3)}>
      {selected && (
        <rect
          {...outer}
          fill="none"
          stroke={colour}
          strokeOpacity={0.6}
          strokeDasharray="5 4"
          pointerEvents="none"
        />
      )}
      <rect
        {...inner}
        fill="none"
        stroke="#000"
        strokeOpacity={0.5}
        strokeWidth={selected ? 4 : 3}
        pointerEvents="none"
      />
      <rect
        {...inner}
        fill={colour}
        fillOpacity={selected ? 0.06 : 0.02}
        stroke={colour}
        strokeWidth={selected ? 2 : 1.4}
        strokeDasharray={lost ? '3 4' : undefined}
        className={track.locked ? 'cursor-not-allowed' : 'cursor-move'}
        role="button"
        aria-label={`Box of ${track.name}`}
        data-testid={selected ? 'selected-box' : undefined}
        onPointerDown={startMove}
        onPointerMove={move}
        onPointerUp={endMove}
        onPointerCancel={endMove}
      >
        <title>{track.name}</title>
      </rect>
      <path
        d={`M${cx - 5} ${cy}H${cx + 5}M${cx} ${cy - 5}V${cy + 5}`}
        stroke={colour}
        strokeWidth={1.4}
        pointerEvents="none"
      />
      {sample?.state === SampleState.placed && (
        <path
          d={`M${cx} ${inner.y - 11}l5 5-5 5-5-5z`}
          fill={colour}
          stroke="#000"
          strokeOpacity={0.5}
          pointerEvents="none"
        />
      )}
      <text
        x={inner.x}
        y={inner.y + inner.height + 13}
        fill={colour}
        fontSize={11}
        fontWeight={600}
        stroke="#0b1013"
        strokeWidth={3}
        paintOrder="stroke"
        pointerEvents="none"
      >
        {named && track.name}
        {lost && (named ? ' · lost' : 'lost')}
      </text>
      {selected &&
        !track.locked &&
        (['search', 'template'] as const).flatMap((box) =>
          [
            [-1, -1],
            [1, -1],
            [1, 1],
            [-1, 1],
          ].map(([sx, sy]) => {
            const r = box === 'template' ? inner : outer;
            const handle = { box, sx, sy };
            return (
              <rect
                key={`${box}${sx}${sy}`}
                x={(sx < 0 ? r.x : r.x + r.width) - 4}
                y={(sy < 0 ? r.y : r.y + r.height) - 4}
                width={8}
                height={8}
                rx={box === 'search' ? 4 : 1}
                fill={box === 'template' ? colour : '#141c20'}
                stroke={box === 'template' ? '#141c20' : colour}
                className={sx * sy > 0 ? 'cursor-nwse-resize' : 'cursor-nesw-resize'}
                data-testid={`handle-${box}-${sx}-${sy}`}
                onPointerDown={startSize}
                onPointerMove={(event) => size(event, handle)}
                onPointerUp={endSize}
                onPointerCancel={endSize}
              />
            );
          }),
        )}
    </g>
  );
}
