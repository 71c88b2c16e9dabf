import { colourKeyDefaults, type ColourKey } from '@lurn/core';
import { Pipette } from 'lucide-react';
import { useDocument, type LayerOfClip } from '../../state/document';
import { changeLayer, useLayers } from '../../state/layers';
import { takeTool, useView } from '../../state/view';
import { percent } from '../../ui/format';
import { PixelField } from '../../ui/pixel-field';
import { Fold } from '../../ui/fold';
import { ColourField, Named, Slider } from './fields';

/** What a layer is kept behind: another layer's shape, a colour of the picture. */
export function HoldOut({ layer }: { layer: LayerOfClip }) {
  const others = useDocument((s) => s.layers).filter(({ id }) => id !== layer.id);
  const regions = useDocument((s) => s.tracks).filter(({ region }) => region && region.holdOuts.length > 0);
  const isPicking = useView((s) => s.tool === 'pipette');
  const isMatte = useLayers((s) => s.matte);
  const { matte, key } = layer;
  const set = (part: Partial<LayerOfClip>): void => changeLayer(layer.id, part);
  return (
    <Fold name="Held out">
      <div className="space-y-2 pt-1">
        <Named label="By the shape of">
          <select
            className="select select-xs w-36"
            value={matte ? ('regionId' in matte ? matte.regionId : matte.layerId) : ''}
            aria-label="Held out by the shape of"
            onChange={({ target: { value } }) => {
              const keep = matte?.keep ?? 'outside';
              const isRegion = regions.some(({ id }) => id === value);
              const by = isRegion ? { regionId: value, feather: 3 } : { layerId: value };
              set({ matte: value ? { ...by, keep } : null });
            }}
          >
            <option value="">nothing</option>
            {others.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
            {regions.map(({ id, name }) => (
              <option key={id} value={id}>{`what holds out of ${name}`}</option>
            ))}
          </select>
        </Named>
        {matte && 'regionId' in matte && (
          <Named label="Feathered by">
            <PixelField
              label="Feather of what is held out, pixels"
              value={matte.feather}
              least={0}
              most={200}
              className="input-xs w-20"
              onChange={(feather) => set({ matte: { ...matte, feather } })}
            />
          </Named>
        )}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs rounded-[3px]"
            checked={isMatte}
            onChange={({ target: { checked } }) => useLayers.setState({ matte: checked })}
          />
          Show what is left of it, as a matte
        </label>
        {matte && <Keep keep={matte.keep} onChange={(keep) => set({ matte: { ...matte, keep } })} />}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs rounded-[3px]"
            checked={key !== null}
            onChange={({ target: { checked } }) => set({ key: checked ? colourKeyDefaults : null })}
          />
          By a colour of the picture
        </label>
        {key && (
          <>
            <div className="flex items-center gap-2">
              <button
                className={`btn btn-xs ${isPicking ? 'btn-secondary' : ''}`}
                aria-pressed={isPicking}
                onClick={() => takeTool('pipette')}
              >
                <Pipette size={12} aria-hidden /> From the picture
              </button>
              <div className="flex-1">
                <ColourField
                  label="Colour"
                  value={key.colour}
                  onChange={(colour) => set({ key: { ...key, colour } })}
                />
              </div>
            </div>
            <Slider
              label="Range"
              value={key.range}
              text={percent(key.range, 0)}
              most={0.5}
              onChange={(range) => set({ key: { ...key, range } })}
            />
            <Slider
              label="Softness"
              value={key.softness}
              text={percent(key.softness, 0)}
              most={0.3}
              onChange={(softness) => set({ key: { ...key, softness } })}
            />
            <Slider
              label="Choke"
              value={key.choke}
              text={`${key.choke.toFixed(0)} px`}
              least={-20}
              most={20}
              onChange={(choke) => set({ key: { ...key, choke: Math.round(choke) } })}
            />
            <Keep keep={key.keep} onChange={(keep) => set({ key: { ...key, keep } })} />
            {key.keep === 'outside' && (
              <Slider
                label="Tinge off"
                value={key.spill}
                text={percent(key.spill, 0)}
                most={1}
                onChange={(spill) => set({ key: { ...key, spill } })}
              />
            )}
          </>
        )}
      </div>
    </Fold>
  );
}

function Keep({ keep, onChange }: { keep: ColourKey['keep']; onChange: (keep: ColourKey['keep']) => void }) {
  return (
    <div className="join grid grid-cols-2" role="radiogroup" aria-label="Where the layer is seen">
      {(['outside', 'inside'] as const).map((one) => (
        <button
          key={one}
          role="radio"
          aria-checked={keep === one}
          className={`btn btn-xs join-item ${keep === one ? 'btn-secondary btn-soft' : ''}`}
          onClick={() => onChange(one)}
        >
          {one === 'outside' ? 'Only outside' : 'Only inside'}
        </button>
      ))}
    </div>
  );
}
