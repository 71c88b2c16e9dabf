import type { TrackView } from '@lurn/contract';
import { SampleState, sampleStateNames, type Point, type Sample } from '@lurn/core';
import { Fragment, memo, useMemo, useState, type PointerEvent } from 'react';
import { pointedAt } from '../state/selection';
import { useDocument } from '../state/document';
import { setKey } from '../state/editor';
import { useSelection } from '../state/selection';
import { usePlayhead } from '../state/playhead';
import { changeTracks, chooseTrack } from '../state/track-edits';
import { trackColour } from '../ui/track-colour';
import type { TrackSamples } from '../state/track-samples';
import { boxAt, pathsOf, type ShownTrack } from './crowd';
import { dragTo, startDrag, type Drag } from './drag';
import type { PaneGeometry } from './panes';

export interface Aim {
  x: number;
  y: number;
  pointer: { x: number; y: number };
  box: { width: number; height: number };
  colour: string;
}

interface BoxesProps {
  pane: PaneGeometry;
  /** Told while a point is being placed by hand, for the loupe; null when it is let go. */
  onAim: (aim: Aim | null) => void;
}

const shownTracks = (
  tracks: readonly TrackView[],
  samples: ReadonlyMap<string, TrackSamples>,
): ShownTrack[] =>
  tracks.flatMap((track) => {
    const own = samples.get(track.id);
    return own && !track.hidden ? [{ track, own }] : [];
  });

/** Paths over the source picture: painted by themselves, as boxes move without them. */
export function Paths({ pane }: { pane: PaneGeometry }) {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const chosen = useSelection((s) => s.chosen);
  return (
    <g>
      {shownTracks(tracks, samples).map(({ track, own }) => (
        <PathLine
          key={track.id}
          pane={pane}
          samples={own}
          colour={trackColour(track.position)}
          faint={!chosen.has(track.id)}
        />
      ))}
    </g>
  );
}

/** Boxes over the source picture. */
export function Boxes({ pane, onAim }: BoxesProps) {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const selected = useSelection((s) => s.selected);
  const chosen = useSelection((s) => s.chosen);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const rise = ({ id }: TrackView): number => Number(id === selected) + Number(chosen.has(id));
  const [hovered, setHovered] = useState<string | null>(null);
  const ordered = shownTracks(tracks, samples).sort((a, b) => rise(a.track) - rise(b.track));
  const many = ordered.length > mostApart;
  const isApart = ({ track: { id } }: ShownTrack): boolean => !many || id === selected || id === hovered;
  return (
    <g>
      {many && (
        <Crowd
          shown={ordered.filter((one) => !isApart(one))}
          chosen={chosen}
          frame={frame}
          pane={pane}
          onHover={setHovered}
        />
      )}
      {ordered.filter(isApart).map(({ track, own }) => (
        <Box
          key={track.id}
          pane={pane}
          track={track}
          sample={own.get(frame)}
          frame={frame}
          selected={track.id === selected}
          chosen={chosen.has(track.id)}
          named={track.id === selected || track.id === hovered || tracks.length <= mostNamed}
          onAim={onAim}
        />
      ))}
    </g>
  );
}

/** Boxes that are drawn together until the pointer is on one. */
function Crowd({
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

/** Where the point has been and goes, in clip pixels; drawn anew only when samples change. */
function PathLine({
  pane,
  samples,
  colour,
  faint,
}: {
  pane: PaneGeometry;
  samples: TrackSamples;
  colour: string;
  faint: boolean;
}) {
  const d = useMemo(() => {
    let path = '';
    let open = false;
    for (let k = 0; k < samples.frames; k++) {
      if (!samples.found(k)) open = false;
      else {
        path += `${open ? 'L' : 'M'}${samples.x(k).toFixed(1)} ${samples.y(k).toFixed(1)}`;
        open = true;
      }
    }
    return path;
  }, [samples]);
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

function stagePoint(event: PointerEvent<SVGElement>): { x: number; y: number } {
  const { left, top } = (event.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
  return { x: event.clientX - left, y: event.clientY - top };
}

type Handle = { box: 'template' | 'search'; sx: number; sy: number };

interface BoxProps extends BoxesProps {
  track: TrackView;
  sample: Sample | null;
  frame: number;
  selected: boolean;
  chosen: boolean;
  named: boolean;
}

/** Of more boxes than this only the selected one bears its name, and the one under the pointer. */
const mostNamed = 12;
/** More boxes than this are drawn together. */
const mostApart = 24;

function Box({ pane, track, sample, frame, selected, chosen, named, onAim }: BoxProps) {
  const [moving, setMoving] = useState<{ drag: Drag; at: Point } | null>(null);
  const moved = moving?.at ?? null;
  const [sized, setSized] = useState<Pick<TrackView, 'template' | 'search'> | null>(null);
  const here = moved ?? sample;
  if (!here) return null;
  const colour = trackColour(track.position);
  const { x, y } = here;
  const template = sized?.template ?? track.template;
  const search = sized?.search ?? track.search;
  const cx = pane.shiftX + pane.scaleX * x;
  const cy = pane.shiftY + pane.scaleY * y;
  const state = sample ? sampleStateNames[sample.state] : 'placed';
  const startMove = (event: PointerEvent<SVGElement>): void => {
    if (event.button !== 0) return;
    event.stopPropagation();
    // One of several that are chosen can be dragged without letting the others go.
    if (pointedAt(event) === 'besides') return chooseTrack(track.id, 'besides');
    if (chosen) useSelection.setState({ selected: track.id });
    else chooseTrack(track.id);
    if (track.locked) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    usePlayhead.setState({ playing: false });
    const pointer = stagePoint(event);
    setMoving({ drag: startDrag({ x, y }, pointer), at: { x, y } });
    onAim({ x, y, pointer, box: template, colour });
  };
  const move = (event: PointerEvent<SVGElement>): void => {
    if (!moving) return;
    const pointer = stagePoint(event);
    const next = dragTo(moving.drag, pointer, { x: pane.scaleX, y: pane.scaleY }, event.shiftKey);
    setMoving(next);
    onAim({ ...next.at, pointer, box: template, colour });
  };
  const endMove = (): void => {
    onAim(null);
    if (moved && sample && (moved.x !== sample.x || moved.y !== sample.y))
      setKey(track.id, frame, moved.x, moved.y);
    setMoving(null);
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
    if (sized) void changeTracks([track.id], sized).finally(() => setSized(null));
  };

  const inner = { width: template.width * pane.scaleX, height: template.height * pane.scaleY };
  return (
    <g
      transform={`translate(${cx} ${cy})`}
      data-testid="track-box"
      data-track={track.name}
      data-state={state}
      data-x={x.toFixed(3)}
      data-y={y.toFixed(3)}
      onPointerDown={startMove}
      onPointerMove={move}
      onPointerUp={endMove}
      onPointerCancel={endMove}
    >
      <Marks
        name={track.name}
        locked={track.locked}
        {...inner}
        selected={selected}
        chosen={chosen}
        named={named}
        colour={colour}
        isKey={sample?.state === SampleState.placed}
        lost={sample?.state === SampleState.lost}
      />
      {selected && !track.locked && (
        <Handles
          inner={inner}
          outer={{ width: search.width * pane.scaleX, height: search.height * pane.scaleY }}
          colour={colour}
          onStart={startSize}
          onSize={size}
          onEnd={endSize}
        />
      )}
    </g>
  );
}

/** A box's frame, cross, name and state, about its middle; stays as it is while the box moves. */
const Marks = memo(function Marks({
  name,
  locked,
  width,
  height,
  selected,
  chosen,
  named,
  colour,
  isKey,
  lost,
}: {
  name: string;
  locked: boolean;
  width: number;
  height: number;
  selected: boolean;
  chosen: boolean;
  named: boolean;
  colour: string;
  isKey: boolean;
  lost: boolean;
}) {
  const frame = { x: -width / 2, y: -height / 2, width, height };
  return (
    <>
      <rect
        {...frame}
        fill="none"
        stroke="#000"
        strokeOpacity={0.5}
        strokeWidth={chosen ? 4 : 3}
        pointerEvents="none"
      />
      <rect
        {...frame}
        fill={colour}
        fillOpacity={chosen ? 0.06 : 0.02}
        stroke={colour}
        strokeWidth={chosen ? 2 : 1.1}
        strokeDasharray={lost ? '3 4' : undefined}
        className={locked ? 'cursor-not-allowed' : 'cursor-move'}
        role="button"
        aria-label={`Box of ${name}`}
        data-testid={selected ? 'selected-box' : undefined}
      >
        <title>{name}</title>
      </rect>
      {Math.min(width, height) < leastToGrasp && (
        <rect
          x={-leastToGrasp / 2}
          y={-leastToGrasp / 2}
          width={leastToGrasp}
          height={leastToGrasp}
          fill="none"
          pointerEvents="all"
          className={locked ? 'cursor-not-allowed' : 'cursor-move'}
        />
      )}
      <path d="M-5 0H5M0 -5V5" stroke={colour} strokeWidth={1.4} pointerEvents="none" />
      {isKey && (
        <path
          d={`M0 ${frame.y - 11}l5 5-5 5-5-5z`}
          fill={colour}
          stroke="#000"
          strokeOpacity={0.5}
          pointerEvents="none"
        />
      )}
      {(named || lost) && (
        <text
          x={frame.x}
          y={frame.y + height + 13}
          fill={colour}
          fontSize={11}
          fontWeight={600}
          stroke="#0b1013"
          strokeWidth={3}
          paintOrder="stroke"
          pointerEvents="none"
        >
          {named && name}
          {lost && (named ? ' · lost' : 'lost')}
        </text>
      )}
    </>
  );
});

/** Stage pixels across. */
const leastWithHandles = 26;
const leastToGrasp = 16;

const corners = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
];

/** The search box, and what both boxes are drawn larger or smaller by. */
function Handles({
  inner,
  outer,
  colour,
  onStart,
  onSize,
  onEnd,
}: {
  inner: { width: number; height: number };
  outer: { width: number; height: number };
  colour: string;
  onStart: (event: PointerEvent<SVGElement>) => void;
  onSize: (event: PointerEvent<SVGElement>, handle: Handle) => void;
  onEnd: () => void;
}) {
  // Handles about a small box would leave nothing to drag it by.
  const roomy = Math.min(inner.width, inner.height) >= leastWithHandles;
  const boxes = roomy ? (['search', 'template'] as const) : (['search'] as const);
  return (
    <>
      <rect
        x={-outer.width / 2}
        y={-outer.height / 2}
        {...outer}
        fill="none"
        stroke={colour}
        strokeOpacity={0.6}
        strokeDasharray="5 4"
        pointerEvents="none"
      />
      {boxes.flatMap((box) =>
        corners.map(([sx, sy]) => {
          const { width, height } = box === 'template' ? inner : outer;
          const handle = { box, sx, sy };
          return (
            <rect
              key={`${box}${sx}${sy}`}
              x={(sx * width) / 2 - 4}
              y={(sy * height) / 2 - 4}
              width={8}
              height={8}
              rx={box === 'search' ? 4 : 1}
              fill={box === 'template' ? colour : '#141c20'}
              stroke={box === 'template' ? '#141c20' : colour}
              className={sx * sy > 0 ? 'cursor-nwse-resize' : 'cursor-nesw-resize'}
              data-testid={`handle-${box}-${sx}-${sy}`}
              onPointerDown={onStart}
              onPointerMove={(event) => onSize(event, handle)}
              onPointerUp={onEnd}
              onPointerCancel={onEnd}
            />
          );
        }),
      )}
    </>
  );
}
