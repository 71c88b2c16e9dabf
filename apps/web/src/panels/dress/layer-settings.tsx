import { blendModes, kindOfContent, uncovered } from '@lurn/core';
import { useDocument, type LayerOfClip } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { go } from '../../state/editor';
import { changeLayer } from '../../state/layers';
import { percent } from '../../ui/format';
import { PixelField } from '../../ui/pixel-field';
import { Section } from '../section';
import { CarrierChoice } from './carrier-choice';
import { contentForms, type ContentForm } from './content-forms';
import { FrameSpan, Named, Slider } from './fields';
import { FitQuad } from './fit-quad';
import { HoldOut } from './hold-out';
import { LayerKeys } from './layer-keys';
import { OutlinesChoice } from './outlines-choice';
import { SitInPicture } from './sit-in-picture';

/** What the selected layer shows, what carries it, and what of it is seen. */
export function LayerSettings({ layer }: { layer: LayerOfClip }) {
  const { id, content, shape, opacity, blend, locked } = layer;
  const { Form, blends, sits, hides } = contentForms[content.kind] as ContentForm;
  const { isUnshaped } = kindOfContent(content);
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
        {Form && <Form layer={layer} content={content} onChange={(next) => set({ content: next })} />}
        <CarrierChoice label="Carried by" carrier={layer.carrier} onChange={(carrier) => set({ carrier })} />
        {'quad' in content && <FitQuad layer={layer} content={content} />}
        <FrameSpan label="Frames" of="layer" first={layer.first} last={layer.last} onChange={set} />
        <Slider
          label="Opacity"
          value={opacity}
          text={percent(opacity, 0)}
          most={1}
          onChange={(v) => set({ opacity: v })}
        />
        {blends && (
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
        )
          // Strokes fade as they were painted.
          .filter(([name]) => name === 'choke' || !isUnshaped || shape.parts.length > 0)
          .map(([name, label, least]) => (
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
        <OutlinesChoice layer={layer} />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs rounded-[3px]"
            checked={shape.invert}
            onChange={({ target: { checked } }) => set({ shape: { ...shape, invert: checked } })}
          />
          Everything but this
        </label>
        <HoldOut layer={layer} />
        {sits && <SitInPicture layer={layer} />}
        <LayerKeys layer={layer} />
      </fieldset>
      {hides && <Uncovered layer={layer} />}
    </Section>
  );
}

/** Frames of the range on which what is covered may be seen. */
function Uncovered({ layer }: { layer: LayerOfClip }) {
  const range = useDocument((s) => s.steady?.range);
  const carriage = useDressing((s) => s.carried.find(({ layer: one }) => one.id === layer.id)?.carriage);
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
