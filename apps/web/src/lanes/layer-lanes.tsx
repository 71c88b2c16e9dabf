import type { Carriage, FrameTimes } from '@lurn/core';
import { middleShareOf } from '../state/clip-times';
import { useDocument, type LayerOfClip } from '../state/document';
import { useDressing } from '../state/dressing';
import { go } from '../state/editor';
import { useLayers } from '../state/layers';
import { inWindow, useTimeWindow } from '../state/time-window';
import { useWorkspace } from '../state/workspace';
import { across } from './across';
import { frameUnder, Row } from './timeline';

/** A lane a layer, while there is something to dress: its span, its keys, and where what carries it was not found. */
export function LayerLanes({ times }: { times: FrameTimes }) {
  const layers = useDocument((s) => s.layers);
  const isOn = useWorkspace((s) => s.step === 'dress');
  const carried = useDressing((s) => s.carried);
  if (!isOn || layers.length === 0) return null;
  return (
    <div className="max-h-40 shrink-0 overflow-y-auto" data-testid="layer-lanes">
      {layers.map((layer) => {
        const found = carried.find(({ layer: one }) => one.id === layer.id);
        return <Lane key={layer.id} layer={layer} times={times} carriage={found?.carriage} />;
      })}
    </div>
  );
}

function Lane({ layer, times, carriage }: { layer: LayerOfClip; times: FrameTimes; carriage?: Carriage }) {
  const window = useTimeWindow();
  const selected = useLayers((s) => s.selected === layer.id);
  const { id, name, first, last, keys, hidden } = layer;
  return (
    <Row className="h-6 shrink-0" label={name}>
      <div
        className={`relative h-6 overflow-hidden ${hidden ? 'opacity-40' : ''}`}
        onPointerDown={(event) => {
          useLayers.setState({ selected: id });
          go(frameUnder(event, event.currentTarget, times));
        }}
      >
        <span
          className={`absolute top-1 bottom-1 rounded-sm border-x-2 ${selected ? 'border-accent bg-accent/35' : 'border-base-content/50 bg-base-content/15'}`}
          style={across(window, times, first, last)}
          title={`${name}: frames ${first} to ${last}`}
        />
        {unseenSpans(layer, carriage).map((span) => (
          <span
            key={span.first}
            className="absolute bottom-1 h-1 bg-warning"
            style={across(window, times, span.first, span.last)}
            title={`What carries it was not found on frames ${span.first} to ${span.last}`}
          />
        ))}
        {keys.map(({ frame }) => (
          <span
            key={frame}
            className="absolute top-1/2 size-2 -translate-1/2 rotate-45 bg-primary ring-1 ring-base-200"
            style={{ left: `${100 * inWindow(window, middleShareOf(times, frame))}%` }}
            title={`Key on frame ${frame}`}
          />
        ))}
      </div>
    </Row>
  );
}

/** Stretches of a layer's span on which nothing that carries it was seen. */
function unseenSpans({ first, last }: LayerOfClip, carriage?: Carriage): { first: number; last: number }[] {
  const spans: { first: number; last: number }[] = [];
  for (let k = first; carriage && k <= last; k++) {
    if (carriage.unseen[k] === 0) continue;
    const open = spans.at(-1);
    if (open?.last === k - 1) open.last = k;
    else spans.push({ first: k, last: k });
  }
  return spans;
}
