import type { ClipContent, ColourContent, CoverContent, TextContent } from '@lurn/core';
import { useRef } from 'react';
import { attempt } from '../../api/attempt';
import { api } from '../../api/client';
import { fontEndings } from '../../state/layers';
import { percent } from '../../ui/format';
import { PixelField } from '../../ui/pixel-field';
import { CurveEditor } from './curve-editor';
import { useClipsBeside } from './clips-beside';
import { ColourField, Named, Slider } from './fields';

const ways: Record<CoverContent['how'], string> = {
  averaged: 'one colour, the average',
  plain: 'one colour',
  mosaic: 'mosaic',
  blur: 'blur',
};

export function CoverSettings({
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

export function ColourSettings({
  content,
  onChange,
}: {
  content: ColourContent;
  onChange: (next: ColourContent) => void;
}) {
  const set = (part: Partial<ColourContent>): void => onChange({ ...content, ...part });
  const { hue, saturation, contrast, brightness, lightness, curve, tint, tintAmount } = content;
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
      <Slider
        label="Lightness"
        value={lightness}
        text={percent(lightness, 0)}
        least={-1}
        most={1}
        onChange={(v) => set({ lightness: v })}
      />
      <CurveEditor label="Curve" value={curve} onChange={(v) => set({ curve: v })} />
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

export function TextSettings({
  content,
  onChange,
}: {
  content: TextContent;
  onChange: (next: TextContent) => void;
}) {
  const set = (part: Partial<TextContent>): void => onChange({ ...content, ...part });
  const { text, font, weight, size, colour, outline, outlineColour, align, lineSpacing, turn } = content;
  return (
    <>
      <textarea
        className="textarea textarea-xs w-full"
        rows={2}
        value={text}
        maxLength={2000}
        aria-label="Text"
        onChange={({ target: { value } }) => set({ text: value })}
      />
      <Named label="Font">
        <span className="flex gap-1">
          {font !== '' && (
            <button className="btn btn-xs" onClick={() => set({ font: '' })}>
              The usual one
            </button>
          )}
          <FontFile onFont={(id) => set({ font: id })} />
        </span>
      </Named>
      <Slider
        label="Size"
        value={size}
        text={`${size.toFixed(0)} px`}
        least={8}
        most={400}
        onChange={(v) => set({ size: v })}
      />
      <Slider
        label="Weight"
        value={weight}
        text={weight.toFixed(0)}
        least={100}
        most={900}
        onChange={(v) => set({ weight: v })}
      />
      <Slider
        label="Turn"
        value={(180 / Math.PI) * turn}
        text={`${((180 / Math.PI) * turn).toFixed(0)}°`}
        least={-180}
        most={180}
        onChange={(v) => set({ turn: (v * Math.PI) / 180 })}
      />
      <ColourField label="Colour" value={colour} onChange={(v) => set({ colour: v })} />
      <Slider
        label="Outline"
        value={outline}
        text={`${outline.toFixed(1)} px`}
        most={20}
        onChange={(v) => set({ outline: v })}
      />
      {outline > 0 && (
        <ColourField label="Its colour" value={outlineColour} onChange={(v) => set({ outlineColour: v })} />
      )}
      <Named label="Align">
        <select
          className="select select-xs w-40"
          value={align}
          aria-label="Align"
          onChange={({ target: { value } }) => set({ align: value as TextContent['align'] })}
        >
          <option>left</option>
          <option>center</option>
          <option>right</option>
        </select>
      </Named>
      <Slider
        label="Lines"
        value={lineSpacing}
        text={lineSpacing.toFixed(2)}
        least={0.8}
        most={2}
        onChange={(v) => set({ lineSpacing: v })}
      />
    </>
  );
}

const plays: Record<ClipContent['play'], string> = {
  loop: 'over and over',
  hold: 'once, the last held',
  still: 'this frame alone',
};

export function ClipSettings({
  content,
  onChange,
}: {
  content: ClipContent;
  onChange: (next: ClipContent) => void;
}) {
  const clips = useClipsBeside();
  const { clip, from, play } = content;
  return (
    <>
      <Named label="Shows">
        <select
          className="select select-xs w-40"
          value={clip}
          aria-label="The clip that is shown"
          onChange={({ target: { value } }) => onChange({ ...content, clip: value, from: 0 })}
        >
          <option value="">this clip</option>
          {clips.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </Named>
      <Named label="From frame">
        <PixelField
          label="The frame that it begins with"
          value={from}
          least={0}
          most={1e6}
          step={1}
          className="input-xs w-20"
          onChange={(value) => onChange({ ...content, from: value })}
        />
      </Named>
      <Named label="Played">
        <select
          className="select select-xs w-40"
          value={play}
          aria-label="How it is played"
          onChange={({ target: { value } }) => onChange({ ...content, play: value as ClipContent['play'] })}
        >
          {Object.entries(plays).map(([how, name]) => (
            <option key={how} value={how}>
              {name}
            </option>
          ))}
        </select>
      </Named>
    </>
  );
}

/** Brings a font in by its file. */
function FontFile({ onFont }: { onFont: (id: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button className="btn btn-xs" onClick={() => input.current?.click()}>
        From a file…
      </button>
      <input
        ref={input}
        type="file"
        hidden
        accept={fontEndings.join(',')}
        data-testid="font-file"
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          if (file) void attempt(async () => onFont((await api.bringAsset(file)).id));
          target.value = '';
        }}
      />
    </>
  );
}
