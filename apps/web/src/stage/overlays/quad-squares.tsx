import { apply, quadFromSquare, type Point, type Quad } from '@lurn/core';
import { toStage, type PaneGeometry } from '../panes';

const [columns, rows] = [8, 6];

/** Numbered squares in a quad: whether they stick to the thing is seen at once. */
export function QuadSquares({
  pane,
  quad,
  colour,
}: {
  pane: PaneGeometry;
  quad: readonly Point[];
  colour: string;
}) {
  const matrix = quadFromSquare(quad as unknown as Quad);
  if (!matrix) return null;
  const at = (u: number, v: number): Point => toStage(pane, apply(matrix, u / columns, v / rows));
  return (
    <g pointerEvents="none" data-testid="quad-squares">
      {Array.from({ length: columns * rows }, (_, n) => {
        const [u, v] = [n % columns, Math.floor(n / columns)];
        const corners = [at(u, v), at(u + 1, v), at(u + 1, v + 1), at(u, v + 1)];
        const middle = at(u + 0.5, v + 0.5);
        const height = Math.hypot(corners[3].x - corners[0].x, corners[3].y - corners[0].y);
        return (
          <g key={n}>
            <polygon
              points={corners.map(({ x, y }) => `${x.toFixed(1)},${y.toFixed(1)}`).join(' ')}
              fill={(u + v) % 2 ? '#0b1013' : colour}
              fillOpacity={(u + v) % 2 ? 0.35 : 0.3}
            />
            <text
              x={middle.x}
              y={middle.y}
              fontSize={Math.min(Math.max(0.36 * height, 6), 18)}
              textAnchor="middle"
              dominantBaseline="central"
              fill="#f4efe2"
              fillOpacity={0.9}
            >
              {n + 1}
            </text>
          </g>
        );
      })}
    </g>
  );
}
