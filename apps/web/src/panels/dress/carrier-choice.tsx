import type { Carrier } from '@lurn/core';
import { useDocument } from '../../state/document';
import { modelFor } from '../../state/layers';
import { useSelection } from '../../state/selection';
import { Named } from './fields';

const kinds: Record<Carrier['kind'], string> = {
  still: 'the frame itself',
  tracks: 'tracks',
  scene: 'the held scene',
};

const models: Record<string, string> = {
  shift: 'position',
  rotation: 'position, rotation',
  similarity: 'position, rotation, size',
  perspective: 'perspective',
};

interface CarrierChoiceProps {
  label: string;
  carrier: Carrier;
  onChange: (carrier: Carrier) => void;
}

/** What carries a layer or its outlines, and what they take of that. They stay where they are on the frame that they were drawn on. */
export function CarrierChoice({ label, carrier, onChange }: CarrierChoiceProps) {
  const tracks = useDocument((s) => s.tracks);
  const hasScene = useDocument((s) => s.scene !== null);
  const chosen = useSelection((s) => s.chosen);
  const set = (part: Partial<Carrier>): void => onChange({ ...carrier, ...part });
  const ids = tracks.flatMap(({ id }) => (chosen.has(id) ? [id] : []));
  const names = tracks.flatMap(({ id, name }) => (carrier.trackIds.includes(id) ? [name] : []));
  const hasRegion = (among: readonly string[]): boolean =>
    tracks.some(({ id, region }) => region && among.includes(id));
  return (
    <>
      <Named label={label}>
        <select
          className="select select-xs w-40"
          value={carrier.kind}
          aria-label={label}
          onChange={({ target: { value } }) =>
            set(
              value === 'tracks'
                ? { kind: 'tracks', trackIds: ids, model: modelFor(ids) }
                : { kind: value as Carrier['kind'], trackIds: [], model: 'auto' },
            )
          }
        >
          <option value="still">{kinds.still}</option>
          <option value="tracks" disabled={ids.length === 0 && carrier.kind !== 'tracks'}>
            {kinds.tracks}
          </option>
          <option value="scene" disabled={!hasScene}>
            {kinds.scene}
          </option>
        </select>
      </Named>
      {carrier.kind === 'tracks' && (
        <div className="flex items-center justify-between gap-2">
          <span className="min-w-0 truncate text-[11.5px] text-base-content/75">{names.join(', ')}</span>
          <button
            className="btn btn-xs"
            disabled={ids.length === 0}
            onClick={() => set({ trackIds: ids, model: modelFor(ids) })}
          >
            The chosen ones
          </button>
        </div>
      )}
      {carrier.kind === 'tracks' && (
        <Named label="It takes">
          <select
            className="select select-xs w-40"
            value={carrier.model}
            aria-label="What it takes of the tracks"
            onChange={({ target: { value } }) => set({ model: value as Carrier['model'] })}
          >
            {Object.entries(models).map(([one, name]) => (
              <option
                key={one}
                value={one}
                disabled={
                  one === 'perspective' && carrier.trackIds.length < 4 && !hasRegion(carrier.trackIds)
                }
              >
                {name}
              </option>
            ))}
          </select>
        </Named>
      )}
      {carrier.kind !== 'still' && (
        <div className="grid grid-cols-3 gap-1" role="group" aria-label="What of the motion is taken">
          {(['position', 'rotation', 'scale'] as const).map((channel) => (
            <button
              key={channel}
              className={`btn btn-xs ${carrier[channel] ? 'btn-secondary btn-soft' : 'btn-ghost border-base-300'}`}
              aria-pressed={carrier[channel]}
              onClick={() => set({ [channel]: !carrier[channel] })}
            >
              {channel === 'scale' ? 'Size' : channel === 'rotation' ? 'Rotation' : 'Position'}
            </button>
          ))}
        </div>
      )}
    </>
  );
}
