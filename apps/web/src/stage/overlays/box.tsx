import type { TrackView } from '@lurn/contract';
import { SampleState, sampleStateNames, type Point, type Sample } from '@lurn/core';
import { useState, type PointerEvent } from 'react';
import { setKey } from '../../state/editor';
import { usePlayhead } from '../../state/playhead';
import { pointedAt, useSelection } from '../../state/selection';
import { changeTracks, chooseTrack } from '../../state/track-edits';
import { trackColour } from '../../ui/track-colour';
import { dragTo, startDrag, type Drag } from '../drag';
import type { PaneGeometry } from '../panes';
import { BoxHandles } from './box-handles';
import { BoxMarks } from './box-marks';
import { stagePoint } from './stage-point';

/** A point that is being placed by hand, clip pixels; the pointer is on the stage. */
export interface Aim {
  x: number;
  y: number;
  pointer: { x: number; y: number };
  box: { width: number; height: number };
  colour: string;
}

interface BoxProps {
  pane: PaneGeometry;
  /** Told while a point is being placed by hand, for the loupe; null when it is let go. */
  onAim: (aim: Aim | null) => void;
  track: TrackView;
  sample: Sample | null;
  frame: number;
  selected: boolean;
  chosen: boolean;
  named: boolean;
}

/** A track's box on the frame shown, which can be dragged and sized. */
export function Box({ pane, track, sample, frame, selected, chosen, named, onAim }: BoxProps) {
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

  const onSize = (boxes: Pick<TrackView, 'template' | 'search'>, done: boolean): void => {
    setSized(boxes);
    if (done) void changeTracks([track.id], boxes).finally(() => setSized(null));
  };
  const inner = { width: template.width * pane.scaleX, height: template.height * pane.scaleY };
  return (
    <>
      <g
        transform={`translate(${cx} ${cy})`}
        data-testid="track-box"
        data-track={track.name}
        data-state={state}
        data-x={x.toFixed(3)}
        data-y={y.toFixed(3)}
        onContextMenu={() => !chosen && chooseTrack(track.id)}
        onPointerDown={startMove}
        onPointerMove={move}
        onPointerUp={endMove}
        onPointerCancel={endMove}
      >
        <BoxMarks
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
      </g>
      {selected && !track.locked && (
        <BoxHandles pane={pane} middle={here} boxes={{ template, search }} colour={colour} onSize={onSize} />
      )}
    </>
  );
}
