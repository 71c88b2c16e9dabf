import {
  blendModes,
  uncovered,
  type Carrier,
  type Colour,
  type ColourContent,
  type CoverContent,
} from '@lurn/core';
import type { ReactNode } from 'react';
import { useDocument, type LayerOfClip } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { go } from '../../state/editor';
import { changeLayer } from '../../state/layers';
import { useSelection } from '../../state/selection';
import { percent } from '../../ui/format';
import { PixelField } from '../../ui/pixel-field';
import { Section } from '../section';

/** What the selected layer shows, what carries it, and what of it is seen. */
export function LayerSettings({ layer }: { layer: LayerOfClip }) {
  const { id, content, shape, opacity, blend, locked } = layer;
  const set = (part: Partial<LayerOfClip>): void => changeLayer(id, part);
  return (
    <Section title={layer.name}>
      <fieldset disabled={locked} className="space-y-2">
        <Named label="Name">
          <input
            className="input input-xs w-40"
            value={layer.name}
            maxLength={80}
            onChange={({ target: { value } }) => value && set({ name: value })}
          />
        </Named>
        {content.kind === 'cover' && (
          <CoverSettings content={content} onChange={(next) => set({ content: next })} />
        )}
        {content.kind === 'colour' && (
          <ColourSettings content={content} onChange={(next) => set({ content: next })} />
        )}
        <CarrierChoice layer={layer} />
        <Span layer={layer} />
        <Slider
          label="Opacity"
          value={opacity}
          text={percent(opacity, 0)}
          most={1}
          onChange={(v) => set({ opacity: v })}
        />
        {content.kind !== 'colour' && (
          <Named label="Blend">
            <select
              className="select select-xs w-40"
              value={blend}
              aria-label="Blend mode"
              onChange={({ target: { value } }) => set({ blend: value as LayerOfClip['blend'] })}
            >
              {blendModes.map((mode) => (
                <option key={mode}>{mode}</option>
              ))}
            </select>
          </Named>
        )}
        {(
          [
            ['featherOut', 'Feather out', 0],
            ['featherIn', 'Feather in', 0],
            ['choke', 'Choke', -200],
          ] as const
        ).map(([name, label, least]) => (
          <Named key={name} label={label}>
            <PixelField
              label={`${label}, pixels`}
              value={shape[name]}
              least={least}
              most={400}
              step={1}
              className="input-xs w-20"
              onChange={(value) => set({ shape: { ...shape, [name]: value } })}
            />
          </Named>
        ))}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs rounded-[3px]"
            checked={shape.invert}
            onChange={({ target: { checked } }) => set({ shape: { ...shape, invert: checked } })}
          />
          Everything but this
        </label>
      </fieldset>
      {content.kind === 'cover' && <Uncovered layer={layer} />}
    </Section>
  );
}

function Named({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </label>
  );
}

interface SliderProps {
  label: string;
  value: number;
  text: string;
  least?: number;
  most: number;
  onChange: (value: number) => void;
}

function Slider({ label, value, text, least = 0, most, onChange }: SliderProps) {
  return (
    <label className="grid grid-cols-[76px_1fr_48px] items-center gap-2">
      <span>{label}</span>
      <input
        type="range"
        className="range range-secondary range-xs w-full [--range-fill:0]"
        min={least}
        max={most}
        step={(most - least) / 200}
        value={value}
        aria-label={label}
        aria-valuetext={text}
        onChange={(event) => onChange(Number(event.target.value))}
      />
      <span className="text-right font-mono text-[11.5px]">{text}</span>
    </label>
  );
}

const hex = (colour: Colour): string =>
  `#${colour
    .map((v) =>
      Math.round(255 * v)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
const colourIn = (text: string): Colour =>
  [1, 3, 5].map((at) => parseInt(text.slice(at, at + 2), 16) / 255) as unknown as Colour;

function ColourField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Colour;
  onChange: (v: Colour) => void;
}) {
  return (
    <Named label={label}>
      <input
        type="color"
        className="h-6 w-12 rounded-field"
        value={hex(value)}
        aria-label={label}
        onChange={({ target }) => onChange(colourIn(target.value))}
      />
    </Named>
  );
}

const ways: Record<CoverContent['how'], string> = {
  averaged: 'one colour, the average',
  plain: 'one colour',
  mosaic: 'mosaic',
  blur: 'blur',
};

function CoverSettings({
  content,
  onChange,
}: {
  content: CoverContent;
  onChange: (next: CoverContent) => void;
}) {
  const { how, colour, strength } = content;
  const disguises = how === 'mosaic' || how === 'blur';
  return (
    <>
      <Named label="Covered by">
        <select
          className="select select-xs w-40"
          value={how}
          aria-label="Covered by"
          onChange={({ target: { value } }) => onChange({ ...content, how: value as CoverContent['how'] })}
        >
          {Object.entries(ways).map(([way, name]) => (
            <option key={way} value={way}>
              {name}
            </option>
          ))}
        </select>
      </Named>
      {how === 'plain' && (
        <ColourField
          label="Colour"
          value={colour}
          onChange={(next) => onChange({ ...content, colour: next })}
        />
      )}
      {disguises && (
        <>
          <Slider
            label="Strength"
            value={strength}
            text={`${strength.toFixed(0)} px`}
            least={2}
            most={120}
            onChange={(next) => onChange({ ...content, strength: next })}
          />
          <p className="leading-snug text-warning">
            It disguises: what moves under it may be told from several frames. One colour cannot be undone.
          </p>
        </>
      )}
    </>
  );
}

function ColourSettings({
  content,
  onChange,
}: {
  content: ColourContent;
  onChange: (next: ColourContent) => void;
}) {
  const set = (part: Partial<ColourContent>): void => onChange({ ...content, ...part });
  const { hue, saturation, contrast, brightness, tint, tintAmount } = content;
  const degrees = (180 / Math.PI) * hue;
  return (
    <>
      <Slider
        label="Hue"
        value={degrees}
        text={`${degrees.toFixed(0)}°`}
        least={-180}
        most={180}
        onChange={(v) => set({ hue: (v * Math.PI) / 180 })}
      />
      <Slider
        label="Saturation"
        value={saturation}
        text={percent(saturation, 0)}
        most={3}
        onChange={(v) => set({ saturation: v })}
      />
      <Slider
        label="Contrast"
        value={contrast}
        text={percent(contrast, 0)}
        most={2}
        onChange={(v) => set({ contrast: v })}
      />
      <Slider
        label="Brightness"
        value={brightness}
        text={brightness.toFixed(2)}
        least={-0.5}
        most={0.5}
        onChange={(v) => set({ brightness: v })}
      />
      <ColourField label="Tint" value={tint} onChange={(v) => set({ tint: v })} />
      <Slider
        label="How far"
        value={tintAmount}
        text={percent(tintAmount, 0)}
        most={1}
        onChange={(v) => set({ tintAmount: v })}
      />
    </>
  );
}

const kinds: Record<Carrier['kind'], string> = {
  still: 'the frame itself',
  tracks: 'tracks',
  scene: 'the held scene',
};

const models: Record<string, string> = {
  shift: 'position',
  rotation: 'position, rotation',
  similarity: 'position, rotation, size',
  perspective: 'perspective (four points)',
};

/** What carries a layer, and what it takes of that. It stays where it is on the frame that it was drawn on. */
function CarrierChoice({ layer }: { layer: LayerOfClip }) {
  const tracks = useDocument((s) => s.tracks);
  const hasScene = useDocument((s) => s.scene !== null);
  const chosen = useSelection((s) => s.chosen);
  const { carrier } = layer;
  const set = (part: Partial<Carrier>): void => changeLayer(layer.id, { carrier: { ...carrier, ...part } });
  const ids = tracks.flatMap(({ id }) => (chosen.has(id) ? [id] : []));
  const names = tracks.flatMap(({ id, name }) => (carrier.trackIds.includes(id) ? [name] : []));
  const model = (count: number): Carrier['model'] =>
    count > 3 ? 'perspective' : count > 1 ? 'similarity' : 'shift';
  return (
    <>
      <Named label="Carried by">
        <select
          className="select select-xs w-40"
          value={carrier.kind}
          aria-label="Carried by"
          onChange={({ target: { value } }) =>
            set(
              value === 'tracks'
                ? { kind: 'tracks', trackIds: ids, model: model(ids.length) }
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
            onClick={() => set({ trackIds: ids, model: model(ids.length) })}
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
              <option key={one} value={one} disabled={one === 'perspective' && carrier.trackIds.length < 4}>
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

function Span({ layer }: { layer: LayerOfClip }) {
  const frames = useDocument((s) => s.clip?.frames ?? 1);
  const { id, first, last } = layer;
  return (
    <Named label="Frames">
      <span className="flex items-center gap-1.5">
        <PixelField
          label="First frame of the layer"
          value={first}
          least={0}
          most={last}
          step={1}
          className="input-xs w-18"
          onChange={(value) => changeLayer(id, { first: value })}
        />
        to
        <PixelField
          label="Last frame of the layer"
          value={last}
          least={first}
          most={frames - 1}
          step={1}
          className="input-xs w-18"
          onChange={(value) => changeLayer(id, { last: value })}
        />
      </span>
    </Named>
  );
}

/** Frames of the range on which what is covered may be seen. */
function Uncovered({ layer }: { layer: LayerOfClip }) {
  const range = useDocument((s) => s.steady?.range);
  const carriage = useDressing(
    (s) => s.carried.find(({ layer: one }) => 'id' in one && one.id === layer.id)?.carriage,
  );
  if (!range || !carriage) return null;
  const frames = uncovered(layer, carriage, range);
  if (frames.length === 0)
    return <p className="mt-2 leading-snug text-base-content/75">It covers on every frame of the range.</p>;
  return (
    <p className="mt-2 leading-snug text-warning" data-testid="uncovered">
      On {frames.length === 1 ? 'one frame' : `${frames.length} frames`} it may not cover: beside its frames,
      or where what carries it was not found. The first is{' '}
      <button className="link" onClick={() => go(frames[0])}>
        frame {frames[0]}
      </button>
      .
    </p>
  );
}
