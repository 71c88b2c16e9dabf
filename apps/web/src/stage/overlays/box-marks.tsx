import { memo } from 'react';

/** The least that can be grasped, stage pixels across. */
const leastToGrasp = 16;

/** A box's frame, cross, name and state, about its middle; stays as it is while the box moves. */
export const BoxMarks = memo(function BoxMarks({
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
