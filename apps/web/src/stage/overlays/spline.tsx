import {
  cornerKnot,
  flattenSpline,
  insertKnot,
  nearestOn,
  type ClosedSpline,
  type Point,
  type SplineKnot,
} from '@lurn/core';
import type { MouseEvent, PointerEvent } from 'react';
import { toPicture, toStage, type PaneGeometry } from '../panes';
import { Handle } from './handle';
import { stagePoint } from './stage-point';

/** With fewer knots there would be nothing inside. */
const leastKnots = 3;

const through = (pane: PaneGeometry, points: readonly Point[]): string =>
  points
    .map((p, i) => {
      const { x, y } = toStage(pane, p);
      return `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join('');

/** A closed spline on the stage as the path of an SVG. */
export const splinePath = (pane: PaneGeometry, spline: ClosedSpline): string =>
  `${through(pane, flattenSpline(spline))}Z`;

const handleAt = ({ x, y, inX, inY, outX, outY }: SplineKnot, side: 'in' | 'out'): Point =>
  side === 'in' ? { x: x + inX, y: y + inY } : { x: x + outX, y: y + outY };

/** A knot whose one handle is drawn elsewhere; the other stays opposite, as long as it is. */
function withHandle(knot: SplineKnot, side: 'in' | 'out', to: Point): SplineKnot {
  const [dx, dy] = [to.x - knot.x, to.y - knot.y];
  const other = side === 'in' ? Math.hypot(knot.outX, knot.outY) : Math.hypot(knot.inX, knot.inY);
  const length = Math.hypot(dx, dy) || 1;
  const [ox, oy] = [(-dx / length) * other, (-dy / length) * other];
  return side === 'in'
    ? { ...knot, inX: dx, inY: dy, outX: ox, outY: oy }
    : { ...knot, outX: dx, outY: dy, inX: ox, inY: oy };
}

const isCorner = ({ inX, inY, outX, outY }: SplineKnot): boolean => !inX && !inY && !outX && !outY;

/** Corner to smooth, along the line between its neighbours, and back. */
function toggled({ knots }: ClosedSpline, index: number): SplineKnot {
  const knot = knots[index];
  if (!isCorner(knot)) return cornerKnot(knot);
  const before = knots[(index + knots.length - 1) % knots.length];
  const after = knots[(index + 1) % knots.length];
  const [dx, dy] = [(after.x - before.x) / 6, (after.y - before.y) / 6];
  return { ...knot, inX: -dx, inY: -dy, outX: dx, outY: dy };
}

/** The knots and handles of a closed spline: dragged, added on its line by a double click, removed, made smooth. */
export function SplineHandles({
  pane,
  spline,
  colour,
  onChange,
}: {
  pane: PaneGeometry;
  spline: ClosedSpline;
  colour: string;
  onChange: (spline: ClosedSpline, done: boolean) => void;
}) {
  const { knots } = spline;
  const put = (index: number, knot: SplineKnot, done: boolean): void =>
    onChange({ knots: knots.map((one, i) => (i === index ? knot : one)) }, done);
  const addKnot = (event: MouseEvent<SVGElement>): void => {
    event.stopPropagation();
    const { piece, t } = nearestOn(spline, toPicture(pane, stagePoint(event)));
    onChange(insertKnot(spline, piece, t), true);
  };
  return (
    <g data-testid="spline-handles">
      <path
        d={splinePath(pane, spline)}
        fill="none"
        stroke="transparent"
        strokeWidth={12}
        pointerEvents="stroke"
        className="cursor-copy"
        data-testid="spline-line"
        onPointerDown={(event: PointerEvent) => event.stopPropagation()}
        onDoubleClick={addKnot}
      >
        <title>Double-click to add a knot</title>
      </path>
      {knots.map((knot, i) =>
        isCorner(knot) ? null : (
          <g key={`arms ${i}`}>
            {(['in', 'out'] as const).map((side) => {
              const [from, to] = [toStage(pane, knot), toStage(pane, handleAt(knot, side))];
              return (
                <g key={side}>
                  <path
                    d={`M${from.x} ${from.y}L${to.x} ${to.y}`}
                    stroke="#0b1013"
                    strokeOpacity={0.7}
                    strokeWidth={3}
                  />
                  <path d={`M${from.x} ${from.y}L${to.x} ${to.y}`} stroke={colour} strokeWidth={1.25} />
                  <Handle
                    pane={pane}
                    at={handleAt(knot, side)}
                    shape="hollow"
                    colour={colour}
                    label={`Curve ${side === 'in' ? 'into' : 'out of'} knot ${i + 1}`}
                    onMove={(to, done) => put(i, withHandle(knot, side, to), done)}
                  />
                </g>
              );
            })}
          </g>
        ),
      )}
      {knots.map((knot, i) => (
        <Handle
          key={i}
          pane={pane}
          at={knot}
          shape={isCorner(knot) ? 'square' : 'round'}
          colour={colour}
          label={`Knot ${i + 1}: arrow keys move it, Enter makes it ${isCorner(knot) ? 'smooth' : 'a corner'}, Delete removes it`}
          testId="knot"
          onMove={({ x, y }, done) => put(i, { ...knot, x, y }, done)}
          onToggle={() => put(i, toggled(spline, i), true)}
          onRemove={
            knots.length > leastKnots
              ? () => onChange({ knots: knots.filter((_, k) => k !== i) }, true)
              : undefined
          }
        />
      ))}
    </g>
  );
}

/** A spline that is being drawn: its line so far, the next piece, and the knot that would close it. */
export function SplineDraft({
  pane,
  knots,
  next,
  colour,
}: {
  pane: PaneGeometry;
  knots: readonly SplineKnot[];
  next: Point | null;
  colour: string;
}) {
  const all = next ? [...knots, cornerKnot(next)] : knots;
  const d = all
    .map((knot, i) => {
      const to = toStage(pane, knot);
      if (i === 0) return `M${to.x} ${to.y}`;
      const [a, b] = [toStage(pane, handleAt(all[i - 1], 'out')), toStage(pane, handleAt(knot, 'in'))];
      return `C${a.x} ${a.y} ${b.x} ${b.y} ${to.x} ${to.y}`;
    })
    .join('');
  return (
    <g pointerEvents="none" data-testid="spline-draft">
      <path d={d} fill="none" stroke="#0b1013" strokeOpacity={0.6} strokeWidth={3.5} />
      <path d={d} fill="none" stroke={colour} strokeWidth={1.5} />
      {knots.map((knot, i) => {
        const { x, y } = toStage(pane, knot);
        const closes = i === 0 && knots.length >= leastKnots;
        return (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={closes ? 6.5 : 3.5}
            fill={closes ? 'none' : colour}
            stroke={closes ? colour : '#141c20'}
            strokeWidth={closes ? 2 : 1}
          />
        );
      })}
    </g>
  );
}
