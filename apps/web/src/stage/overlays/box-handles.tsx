import type { TrackView } from '@lurn/contract';
import type { Point } from '@lurn/core';
import type { PaneGeometry } from '../panes';
import { Handle } from './handle';

type Boxes = Pick<TrackView, 'template' | 'search'>;

/** Stage pixels across. */
const leastWithHandles = 26;
/** The least and the most that a box is wide or high, clip pixels; a search box is wider than its template by so much. */
const least = 7;
const most = 4001;
const around = 8;

const corners = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
];

/** Boxes one of which has a corner drawn to a place; the search box always holds the template box. */
function sizedBy(boxes: Boxes, box: keyof Boxes, middle: Point, corner: Point): Boxes {
  const full = (distance: number): number =>
    Math.min(Math.max(Math.round(2 * Math.abs(distance)), least), most);
  const size = { width: full(corner.x - middle.x), height: full(corner.y - middle.y) };
  const template = box === 'template' ? size : boxes.template;
  const search = box === 'search' ? size : boxes.search;
  return {
    template,
    search: {
      width: Math.max(search.width, template.width + around),
      height: Math.max(search.height, template.height + around),
    },
  };
}

/** The search box, and what both boxes are drawn larger or smaller by. */
export function BoxHandles({
  pane,
  middle,
  boxes,
  colour,
  onSize,
}: {
  pane: PaneGeometry;
  middle: Point;
  boxes: Boxes;
  colour: string;
  onSize: (boxes: Boxes, done: boolean) => void;
}) {
  const onStage = (box: keyof Boxes) => ({
    width: boxes[box].width * pane.scaleX,
    height: boxes[box].height * pane.scaleY,
  });
  const [inner, outer] = [onStage('template'), onStage('search')];
  // Handles about a small box would leave nothing to drag it by.
  const roomy = Math.min(inner.width, inner.height) >= leastWithHandles;
  const shown = roomy ? (['search', 'template'] as const) : (['search'] as const);
  const x = pane.shiftX + pane.scaleX * middle.x;
  const y = pane.shiftY + pane.scaleY * middle.y;
  return (
    <>
      <rect
        x={x - outer.width / 2}
        y={y - outer.height / 2}
        {...outer}
        fill="none"
        stroke={colour}
        strokeOpacity={0.6}
        strokeDasharray="5 4"
        pointerEvents="none"
      />
      {shown.flatMap((box) =>
        corners.map(([sx, sy]) => (
          <Handle
            key={`${box}${sx}${sy}`}
            pane={pane}
            at={{
              x: middle.x + (sx * boxes[box].width) / 2,
              y: middle.y + (sy * boxes[box].height) / 2,
            }}
            label={`Corner of the ${box} box`}
            shape={box === 'template' ? 'square' : 'hollow'}
            colour={colour}
            cursor={sx * sy > 0 ? 'cursor-nwse-resize' : 'cursor-nesw-resize'}
            testId={`handle-${box}-${sx}-${sy}`}
            onMove={(corner, done) => onSize(sizedBy(boxes, box, middle, corner), done)}
          />
        )),
      )}
    </>
  );
}
