import { curveAt } from '@lurn/core';
import { useRef } from 'react';

const [width, height] = [232, 120];
/** Without any point the curve is straight: its ends are where it begins. */
const straight = [0, 0, 1, 1];

interface CurveEditorProps {
  label: string;
  /** Pairs of x and y, 0 to 1. */
  value: readonly number[];
  onChange: (value: number[]) => void;
}

/** Which brightness comes of which: points are dragged, added by a double click, taken away by Delete. */
export function CurveEditor({ label, value, onChange }: CurveEditorProps) {
  const chart = useRef<SVGSVGElement>(null);
  const points = value.length === 0 ? straight : value;
  const count = points.length / 2;
  const path = Array.from({ length: 65 }, (_, i) => {
    const x = i / 64;
    return `${(x * width).toFixed(1)},${((1 - curveAt(points, x)) * height).toFixed(1)}`;
  }).join(' ');
  const placeOf = (event: { clientX: number; clientY: number }): { x: number; y: number } => {
    const box = (chart.current as SVGSVGElement).getBoundingClientRect();
    const kept = (v: number): number => Math.min(Math.max(v, 0), 1);
    return {
      x: kept((event.clientX - box.left) / box.width),
      y: kept(1 - (event.clientY - box.top) / box.height),
    };
  };
  const move = (i: number, x: number, y: number): void => {
    // Points stay in their order.
    const least = i > 0 ? points[2 * i - 2] + 0.01 : 0;
    const most = i < count - 1 ? points[2 * i + 2] - 0.01 : 1;
    const next = [...points];
    next[2 * i] = Math.min(Math.max(x, least), most);
    next[2 * i + 1] = Math.min(Math.max(y, 0), 1);
    onChange(next);
  };
  const remove = (i: number): void => {
    if (count > 2) onChange(points.filter((_, k) => k >> 1 !== i));
  };
  const add = ({ x, y }: { x: number; y: number }): void => {
    const pairs = Array.from({ length: count }, (_, i) => [points[2 * i], points[2 * i + 1]]);
    if (pairs.some(([other]) => Math.abs(other - x) < 0.02)) return;
    onChange([...pairs, [x, y]].sort((a, b) => a[0] - b[0]).flat());
  };
  return (
    <div className="space-y-1">
      <div className="flex items-center justify-between">
        <span>{label}</span>
        <span className="flex gap-1">
          <button className="btn btn-xs" onClick={() => add({ x: 0.5, y: curveAt(points, 0.5) })}>
            Add a point
          </button>
          <button className="btn btn-xs" disabled={value.length === 0} onClick={() => onChange([])}>
            Straight
          </button>
        </span>
      </div>
      <svg
        ref={chart}
        viewBox={`0 0 ${width} ${height}`}
        className="w-full touch-none overflow-visible rounded-field bg-base-100"
        role="group"
        aria-label={label}
        onDoubleClick={(event) => add(placeOf(event))}
      >
        <line x1={0} y1={height} x2={width} y2={0} className="stroke-base-content/20" strokeDasharray="3 3" />
        <polyline points={path} fill="none" className="stroke-secondary" strokeWidth={1.5} />
        {Array.from({ length: count }, (_, i) => {
          const [x, y] = [points[2 * i], points[2 * i + 1]];
          return (
            <circle
              key={i}
              cx={x * width}
              cy={(1 - y) * height}
              r={5}
              className="cursor-grab fill-secondary outline-offset-2"
              role="slider"
              tabIndex={0}
              aria-label={`Point ${i + 1} of ${count}`}
              aria-valuenow={Math.round(100 * y)}
              aria-valuetext={`${Math.round(100 * x)} % becomes ${Math.round(100 * y)} %`}
              onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
              onPointerMove={(event) => {
                if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
                const to = placeOf(event);
                move(i, to.x, to.y);
              }}
              onKeyDown={(event) => {
                const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
                  event.key
                ];
                if (event.key === 'Delete' || event.key === 'Backspace') remove(i);
                else if (by) move(i, x + by[0] / 100, y + by[1] / 100);
                else return;
                event.preventDefault();
                event.stopPropagation();
              }}
            />
          );
        })}
      </svg>
    </div>
  );
}
