import { useState } from 'react';
import { setWipe } from '../../state/view';
import { dragTo, startDrag, type Drag } from '../drag';

/** What the wipe is moved by, on a stage so many pixels wide. */
export function WipeEdge({ width, wipe }: { width: number; wipe: number }) {
  const [drag, setDrag] = useState<Drag | null>(null);
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Wipe between source and steadied"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * wipe)}
      className="absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none outline-none focus-visible:bg-primary/20"
      style={{ left: width * wipe }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setDrag(startDrag({ x: wipe, y: 0 }, { x: event.clientX, y: 0 }));
      }}
      onPointerMove={(event) => {
        if (drag) setWipe(dragTo(drag, { x: event.clientX, y: 0 }, { x: width, y: 1 }).at.x);
      }}
      onPointerUp={() => setDrag(null)}
      onPointerCancel={() => setDrag(null)}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
        event.stopPropagation();
        setWipe(wipe + (event.key === 'ArrowLeft' ? -0.02 : 0.02));
      }}
    >
      <div className="mx-auto h-full w-0.5 bg-primary" />
      <div className="absolute top-1/2 left-1/2 h-9 w-3 -translate-x-1/2 -translate-y-1/2 rounded-full border border-primary-content/30 bg-primary" />
    </div>
  );
}
