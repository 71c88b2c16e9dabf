import { layerPoseAt } from '@lurn/core';
import { ChevronLeft, ChevronRight, Trash2 } from 'lucide-react';
import type { LayerOfClip } from '../../state/document';
import { go } from '../../state/editor';
import { changeLayer, keyLayer, unkeyLayer } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { Fold } from '../../ui/fold';
import { IconToggle } from '../../ui/icon-toggle';
import { Named } from './fields';

const poses = [
  { name: 'x', label: 'x px', step: 1, factor: 1 },
  { name: 'y', label: 'y px', step: 1, factor: 1 },
  { name: 'rotation', label: 'Turn °', step: 1, factor: 180 / Math.PI },
  { name: 'scale', label: 'Size %', step: 1, factor: 100 },
  { name: 'opacity', label: 'Opacity %', step: 5, factor: 100 },
  { name: 'strength', label: 'Strength %', step: 5, factor: 100 },
] as const;

/** Where it is put on the frame shown, beside where it was drawn; what is changed is a key. */
export function LayerKeys({ layer }: { layer: LayerOfClip }) {
  const frame = usePlayhead((s) => s.frame);
  const { keys } = layer;
  const pose = layerPoseAt(keys, frame);
  const key = keys.find((one) => one.frame === frame);
  const before = keys.findLast((one) => one.frame < frame);
  const after = keys.find((one) => one.frame > frame);
  return (
    <Fold
      name="Keyed over time"
      aside={
        keys.length > 0 && (
          <span className="flex items-center font-mono text-[11px] text-base-content/75">
            {keys.length === 1 ? '1 key' : `${keys.length} keys`}
            <IconToggle
              label="To the layer’s key before"
              disabled={!before}
              onClick={() => before && go(before.frame)}
            >
              <ChevronLeft size={14} />
            </IconToggle>
            <IconToggle
              label="To the layer’s next key"
              disabled={!after}
              onClick={() => after && go(after.frame)}
            >
              <ChevronRight size={14} />
            </IconToggle>
            <IconToggle label="Remove the layer’s key here" disabled={!key} onClick={() => unkeyLayer(layer)}>
              <Trash2 size={13} />
            </IconToggle>
          </span>
        )
      }
    >
      <div className="grid grid-cols-3 gap-1.5 pt-1" data-testid="layer-keys">
        {poses.map(({ name, label, step, factor }) => (
          <label key={name} className="text-[11.5px]">
            {label}
            <input
              key={`${frame} ${pose[name]}`}
              type="number"
              step={step}
              className="input input-xs w-full text-right font-mono"
              defaultValue={Number((factor * pose[name]).toFixed(2))}
              onBlur={({ target: { value } }) => {
                const next = Number(value) / factor;
                const isSound = Number.isFinite(next) && (name !== 'scale' || next > 0.01);
                if (isSound && Math.abs(next - pose[name]) > 1e-6) keyLayer(layer, { [name]: next });
              }}
              onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
            />
          </label>
        ))}
      </div>
      {key && (
        <Named label="On to the next">
          <select
            className="select select-xs w-40"
            value={key.easing}
            aria-label="How it goes on to the next key"
            onChange={({ target: { value } }) => {
              const easing = value as typeof key.easing;
              changeLayer(layer.id, { keys: keys.map((one) => (one === key ? { ...one, easing } : one)) });
            }}
          >
            <option value="step">step</option>
            <option value="linear">even</option>
            <option value="ease">eased</option>
          </select>
        </Named>
      )}
    </Fold>
  );
}
