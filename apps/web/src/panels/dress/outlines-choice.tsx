import { partsAt } from '@lurn/core';
import { Circle, CircleMinus, Spline, Square } from 'lucide-react';
import type { LayerOfClip } from '../../state/document';
import { addPart, changeLayer, keyOutlines, setParts, unkeyOutlines, useLayers } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { takeTool, useView } from '../../state/view';
import { CarrierChoice } from './carrier-choice';

/** Outlines that are added to what is seen, or cut out of it; keyed over time, and on a motion of their own. */
export function OutlinesChoice({ layer }: { layer: LayerOfClip }) {
  const tool = useView((s) => s.tool);
  const frame = usePlayhead((s) => s.frame);
  if (layer.content.kind === 'text') return null;
  const { shape } = layer;
  const parts = partsAt(shape, frame);
  const isKeyed = shape.keys.some((key) => key.frame === frame);
  const draw = (wanted: 'outline' | 'cutout'): void => {
    useLayers.setState({ selected: layer.id });
    takeTool(wanted);
  };
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-3 gap-1" role="group" aria-label="Outlines">
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
          className={`btn btn-xs ${tool === 'outline' ? 'btn-secondary' : ''}`}
          aria-pressed={tool === 'outline'}
          onClick={() => draw('outline')}
        >
          <Spline size={12} aria-hidden /> Draw
        </button>
        <button
          className={`btn btn-xs ${tool === 'cutout' ? 'btn-secondary' : ''}`}
          aria-pressed={tool === 'cutout'}
          onClick={() => draw('cutout')}
        >
          <Spline size={12} aria-hidden /> Draw cut
        </button>
        <button
          className="btn btn-xs"
          disabled={parts.length < ('quad' in layer.content ? 1 : 2)}
          onClick={() => setParts(layer, parts.slice(0, -1))}
        >
          Last away
        </button>
      </div>
      <div className="flex items-center justify-between gap-2">
        <span>
          Outlines over time
          {shape.keys.length > 0 && (
            <span className="ml-1 font-mono text-[11px] text-base-content/75">
              {shape.keys.length === 1 ? '1 key' : `${shape.keys.length} keys`}
            </span>
          )}
        </span>
        <button
          className="btn btn-xs"
          disabled={parts.length === 0}
          onClick={() => (isKeyed ? unkeyOutlines(layer) : keyOutlines(layer))}
        >
          {isKeyed ? 'Take the key away' : 'Key them here'}
        </button>
      </div>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs rounded-[3px]"
          checked={shape.carrier !== null}
          disabled={shape.parts.length === 0 && shape.keys.length === 0}
          onChange={({ target: { checked } }) =>
            changeLayer(layer.id, { shape: { ...shape, carrier: checked ? layer.carrier : null } })
          }
        />
        They ride on something else
      </label>
      {shape.carrier && (
        <CarrierChoice
          label="Outlines ride on"
          carrier={shape.carrier}
          onChange={(carrier) => changeLayer(layer.id, { shape: { ...shape, carrier } })}
        />
      )}
    </div>
  );
}
