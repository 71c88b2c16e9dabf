import type { Point } from '@lurn/core';
import { useState, type KeyboardEvent, type PointerEvent } from 'react';
import { dragTo, startDrag, type Drag } from '../drag';
import { toStage, type PaneGeometry } from '../panes';
import { nudgeBy } from '../snap';
import { stagePoint } from './stage-point';

/** Handles can be grasped this far from their middle, stage pixels. */
const reach = 9;

interface HandleProps {
  pane: PaneGeometry;
  /** Where it is, pixels of the pane's picture. */
  at: Point;
  label: string;
  shape?: 'square' | 'round' | 'hollow';
  colour: string;
  cursor?: string;
  /** While it is dragged, and, with `done`, when it is let go or nudged by an arrow key. */
  onMove: (to: Point, done: boolean) => void;
  /** Brings a place that it is dragged to to a better one near by. */
  snap?: (to: Point) => Point;
  onRemove?: () => void;
  /** A double click, or Enter. */
  onToggle?: () => void;
  testId?: string;
}

/**
 * What anything on the stage is grasped by, alike for all of them: dragged, finer with Shift; moved by the arrow keys when
 * it has the focus; removed by Delete.
 */
export function Handle({
  pane,
  at,
  label,
  shape = 'square',
  colour,
  cursor = 'cursor-move',
  onMove,
  snap = (to) => to,
  onRemove,
  onToggle,
  testId,
}: HandleProps) {
  const [drag, setDrag] = useState<{ drag: Drag; at: Point; moved: boolean } | null>(null);
  const { x, y } = toStage(pane, drag?.at ?? at);
  const start = (event: PointerEvent<SVGElement>): void => {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    if (event.altKey && onRemove) return onRemove();
    setDrag({ drag: startDrag(at, stagePoint(event)), at, moved: false });
  };
  const move = (event: PointerEvent<SVGElement>): void => {
    if (!drag) return;
    const next = dragTo(drag.drag, stagePoint(event), { x: pane.scaleX, y: pane.scaleY }, event.shiftKey);
    const to = event.shiftKey ? next.at : snap(next.at);
    setDrag({ drag: next.drag, at: to, moved: true });
    onMove(to, false);
  };
  const end = (): void => {
    if (drag?.moved) onMove(drag.at, true);
    setDrag(null);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = nudgeBy(event);
    if (by) onMove({ x: at.x + by.x, y: at.y + by.y }, true);
    else if ((event.key === 'Delete' || event.key === 'Backspace') && onRemove) onRemove();
    else if (event.key === 'Enter' && onToggle) onToggle();
    else return;
    event.stopPropagation();
    event.preventDefault();
  };
  return (
    <g
      transform={`translate(${x} ${y})`}
      tabIndex={0}
      role="button"
      aria-label={label}
      className={`group/handle outline-none ${cursor}`}
      data-testid={testId}
      onPointerDown={start}
      onPointerMove={move}
      onPointerUp={end}
      onPointerCancel={end}
      onDoubleClick={(event) => {
        event.stopPropagation();
        onToggle?.();
      }}
      onKeyDown={onKeyDown}
    >
      <circle r={reach} fill="transparent" />
      <circle
        r={reach}
        fill="none"
        stroke={colour}
        strokeWidth={2}
        className="opacity-0 group-focus-visible/handle:opacity-100"
      />
      {shape === 'square' ? (
        <rect x={-4} y={-4} width={8} height={8} rx={1} fill={colour} stroke="#141c20" />
      ) : (
        <circle
          r={4}
          fill={shape === 'round' ? colour : '#141c20'}
          stroke={shape === 'round' ? '#141c20' : colour}
        />
      )}
    </g>
  );
}
