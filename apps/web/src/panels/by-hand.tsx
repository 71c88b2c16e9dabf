import type { HandKeyView } from '@lurn/contract';
import { easings, handPlaceAt } from '@lurn/core';
import { ChevronLeft, ChevronRight, Trash2 } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { places, putByHand, putHeldAt, removeHandKeys } from '../state/by-hand';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { Fold } from '../ui/fold';
import { IconToggle } from '../ui/icon-toggle';

const degrees = 180 / Math.PI;

const fields = [
  { name: 'x', label: 'x px', step: 1, shown: (v: number) => v, stored: (v: number) => v },
  { name: 'y', label: 'y px', step: 1, shown: (v: number) => v, stored: (v: number) => v },
  {
    name: 'rotation',
    label: 'Turn °',
    step: 0.1,
    shown: (v: number) => v * degrees,
    stored: (v: number) => v / degrees,
  },
  { name: 'zoom', label: 'Zoom %', step: 1, shown: (v: number) => 100 * v, stored: (v: number) => v / 100 },
] as const;

const easingNames: Record<HandKeyView['easing'], string> = { step: 'step', linear: 'even', ease: 'eased' };

/** Where the steadied picture is put by hand: keys with position, rotation and zoom. */
export function ByHand() {
  const keys = useDocument((s) => s.steady?.keys);
  const frame = usePlayhead((s) => s.frame);
  if (!keys) return null;
  const here = handPlaceAt(keys, frame);
  const key = keys.find((one) => one.frame === frame);
  const before = keys.findLast((one) => one.frame < frame);
  const after = keys.find((one) => one.frame > frame);
  return (
    <Fold
      name="By hand"
      aside={
        keys.length > 0 && (
          <span className="flex items-center font-mono text-[11px] text-base-content/75">
            {keys.length === 1 ? '1 key' : `${keys.length} keys`}
            <IconToggle
              label="To the key before"
              disabled={!before}
              onClick={() => before && go(before.frame)}
            >
              <ChevronLeft size={14} />
            </IconToggle>
            <IconToggle label="To the next key" disabled={!after} onClick={() => after && go(after.frame)}>
              <ChevronRight size={14} />
            </IconToggle>
            <IconToggle
              label="Remove the key on this frame"
              disabled={!key}
              onClick={() => removeHandKeys('here')}
            >
              <Trash2 size={13} />
            </IconToggle>
          </span>
        )
      }
    >
      <div className="space-y-2 pt-1" data-testid="by-hand">
        <div className="grid grid-cols-2 gap-x-3 gap-y-1.5">
          {fields.map(({ name, label, step, shown, stored }) => (
            <label key={name} className="flex items-center justify-between gap-2">
              <span>{label}</span>
              <input
                type="number"
                className={`input input-xs w-16 text-right font-mono ${key ? 'border-primary' : ''}`}
                step={step}
                value={Math.round(1000 * shown(here[name])) / 1000}
                aria-label={`${label}, by hand`}
                onChange={(event) => {
                  const value = Number(event.target.value);
                  if (event.target.value !== '' && Number.isFinite(value) && (name !== 'zoom' || value >= 5))
                    putByHand({ [name]: stored(value) });
                }}
              />
            </label>
          ))}
        </div>
        <label className="flex items-center justify-between gap-2">
          <span>To the next key</span>
          <select
            className="select select-xs w-26"
            value={key?.easing ?? before?.easing ?? 'ease'}
            disabled={!key}
            onChange={(event) => putByHand({ easing: event.target.value as HandKeyView['easing'] })}
          >
            {easings.map((easing) => (
              <option key={easing} value={easing}>
                {easingNames[easing]}
              </option>
            ))}
          </select>
        </label>
        <div className="flex flex-wrap gap-1.5">
          <ActionButton id="put" className="btn-xs" on="btn-active" text="Drag it" />
          {(Object.keys(places) as (keyof typeof places)[]).map((place) => (
            <button key={place} className="btn btn-xs" onClick={() => putHeldAt(place)}>
              {places[place].name}
            </button>
          ))}
        </div>
      </div>
    </Fold>
  );
}
