import type { PointerEvent } from 'react';

export type Handle = { box: 'template' | 'search'; sx: number; sy: number };

/** Stage pixels across. */
const leastWithHandles = 26;

const corners = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
];

/** The search box, and what both boxes are drawn larger or smaller by. */
export function BoxHandles({
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
