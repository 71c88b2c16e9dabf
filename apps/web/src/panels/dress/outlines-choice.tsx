import { Circle, CircleMinus, Square } from 'lucide-react';
import type { LayerOfClip } from '../../state/document';
import { addPart, changeLayer } from '../../state/layers';

/** Outlines that are added to what is seen, or cut out of it. */
export function OutlinesChoice({ layer }: { layer: LayerOfClip }) {
  if (layer.content.kind === 'text') return null;
  const { shape } = layer;
  return (
    <div className="flex flex-wrap items-center gap-1" role="group" aria-label="Outlines">
      <button className="btn btn-xs" onClick={() => addPart(layer, 'rectangle', false)}>
        <Square size={12} aria-hidden /> Add
      </button>
      <button className="btn btn-xs" onClick={() => addPart(layer, 'ellipse', false)}>
        <Circle size={12} aria-hidden /> Add
      </button>
      <button className="btn btn-xs" onClick={() => addPart(layer, 'ellipse', true)}>
        <CircleMinus size={12} aria-hidden /> Cut
      </button>
      <button
        className="btn btn-xs"
        disabled={shape.parts.length < ('quad' in layer.content ? 1 : 2)}
        onClick={() => changeLayer(layer.id, { shape: { ...shape, parts: shape.parts.slice(0, -1) } })}
      >
        Take the last away
      </button>
    </div>
  );
}
