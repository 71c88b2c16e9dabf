import { changeGuide, removeGuide, useView, type Guide } from '../../state/view';
import { toStage, type PaneGeometry } from '../panes';
import { snapToDirection } from '../snap';
import { plainWithin } from '../tools/guide-tool';
import { Handle } from './handle';

const colour = '#f4f1de';
/** Half the length of a cross's arms, stage pixels. */
const arm = 14;

/** Guide marks of one picture. They stay where they are on it, whatever the picture shows. */
export function Guides({ pane }: { pane: PaneGeometry }) {
  const guides = useView((s) => s.guides);
  return guides
    .filter((guide) => guide.pane === pane.kind)
    .map((guide) => <Mark key={guide.id} guide={guide} pane={pane} />);
}

function Mark({ guide, pane }: { guide: Guide; pane: PaneGeometry }) {
  const from = toStage(pane, guide.from);
  const to = guide.to && toStage(pane, guide.to);
  const d = to
    ? `M${from.x} ${from.y}L${to.x} ${to.y}`
    : `M${from.x - arm} ${from.y}h${2 * arm}M${from.x} ${from.y - arm}v${2 * arm}`;
  const remove = (): void => removeGuide(guide.id);
  const what = guide.to ? 'guide line' : 'guide cross';
  const how = 'drag or arrow keys; Delete removes it';
  return (
    <g data-testid={guide.to ? 'guide-line' : 'guide-cross'}>
      <path d={d} stroke="#0b1013" strokeOpacity={0.65} strokeWidth={3.5} fill="none" pointerEvents="none" />
      <path d={d} stroke={colour} strokeWidth={1.25} fill="none" pointerEvents="none" />
      <Handle
        pane={pane}
        at={guide.from}
        shape="hollow"
        colour={colour}
        label={`${guide.to ? `Start of the ${what}` : what}: ${how}`}
        onMove={(at) => changeGuide({ ...guide, from: at })}
        onRemove={remove}
      />
      {guide.to && (
        <Handle
          pane={pane}
          at={guide.to}
          shape="hollow"
          colour={colour}
          label={`End of the ${what}: ${how}`}
          snap={(at) => snapToDirection(guide.from, at, plainWithin)}
          onMove={(at) => changeGuide({ ...guide, to: at })}
          onRemove={remove}
        />
      )}
    </g>
  );
}
