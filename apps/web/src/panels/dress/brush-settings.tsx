import type { Stroke } from '@lurn/core';
import { Paintbrush, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useAction } from '../../actions/use-action';
import { api } from '../../api/client';
import { changeStroke, removeStroke, useBrush, type RepairLayer } from '../../state/brush';
import { useDocument } from '../../state/document';
import { usePlayhead } from '../../state/playhead';
import { percent } from '../../ui/format';
import { IconToggle } from '../../ui/icon-toggle';
import { PixelField } from '../../ui/pixel-field';
import { Section } from '../section';
import { ColourField, FrameSpan, Named, Slider } from './fields';

const names: Record<Stroke['how'], string> = {
  heal: 'Heal',
  clone: 'Clone',
  colour: 'Paint',
  erase: 'Erase',
};
const shown = ['heal', 'clone', 'colour', 'erase'] as const satisfies readonly Stroke['how'][];

/** What the brush does, how wide and soft it is, and where it copies from. */
export function BrushSettings() {
  const { how, width, soft, strength, buildUp, colour } = useBrush();
  const { action, isOn, tip } = useAction('brush');
  return (
    <Section title="Brush">
      <div className="space-y-2">
        <button
          className={`btn btn-sm w-full ${isOn ? 'btn-primary' : 'btn-primary btn-soft'}`}
          aria-pressed={isOn}
          title={tip}
          onClick={action.run}
        >
          <Paintbrush size={14} aria-hidden /> {isOn ? 'Put the brush down' : 'Take the brush'}
        </button>
        <div className="join grid grid-cols-4" role="group" aria-label="What the brush does">
          {shown.map((kind) => (
            <button
              key={kind}
              className={`btn btn-xs join-item ${how === kind ? 'btn-neutral' : ''}`}
              aria-pressed={how === kind}
              onClick={() => useBrush.setState({ how: kind })}
            >
              {names[kind]}
            </button>
          ))}
        </div>
        {/* A brush twice as wide is as far along as one half as wide is short of it. */}
        <Slider
          label="Width"
          value={Math.log2(width)}
          text={`${Math.round(width)} px`}
          least={1}
          most={9}
          onChange={(v) => useBrush.setState({ width: Math.round(2 ** v) })}
        />
        <Slider
          label="Soft edge"
          value={soft}
          text={percent(soft, 0)}
          most={1}
          onChange={(v) => useBrush.setState({ soft: v })}
        />
        <Slider
          label="Strength"
          value={strength}
          text={percent(strength, 0)}
          most={1}
          onChange={(v) => useBrush.setState({ strength: v })}
        />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs rounded-[3px]"
            checked={buildUp}
            onChange={({ target }) => useBrush.setState({ buildUp: target.checked })}
          />
          Builds up where it passes again
        </label>
        {how === 'colour' && (
          <ColourField label="Colour" value={colour} onChange={(v) => useBrush.setState({ colour: v })} />
        )}
        {(how === 'clone' || how === 'heal') && <Source />}
      </div>
    </Section>
  );
}

/** Where copies come from. */
function Source() {
  const source = useBrush((s) => s.source);
  const asks = useBrush((s) => s.asks);
  const frames = useDocument((s) => s.clip?.frames ?? 1);
  const here = usePlayhead((s) => Math.max(0, s.shown));
  const from = source?.frame ?? here;
  return (
    <div className="space-y-1.5 border-t border-base-300 pt-2">
      <Named label="From frame">
        <span className="flex items-center gap-1.5">
          <PixelField
            label="Frame that is copied from"
            value={from}
            least={0}
            most={frames - 1}
            step={1}
            className="input-xs w-18"
            onChange={(frame) =>
              useBrush.setState({ source: { at: source?.at ?? null, frame }, aside: null })
            }
          />
          <button
            className="btn btn-xs"
            onClick={() =>
              useBrush.setState({ source: { at: source?.at ?? null, frame: here }, aside: null })
            }
          >
            This one
          </button>
        </span>
      </Named>
      <div className="grid grid-cols-2 gap-1.5">
        <button
          className={`btn btn-xs ${asks ? 'btn-neutral' : ''}`}
          aria-pressed={asks}
          onClick={() => useBrush.setState({ asks: !asks })}
        >
          From aside …
        </button>
        <button
          className={`btn btn-xs ${source && !source.at ? 'btn-neutral' : ''}`}
          aria-pressed={!!source && !source.at}
          title="What is hidden here is copied from a frame on which it is seen"
          onClick={() => useBrush.setState({ source: { frame: from, at: null }, aside: null, asks: false })}
        >
          The same place
        </button>
      </div>
      <p className="leading-snug text-base-content/75">
        {!source
          ? 'Shift and a click on the picture say where from.'
          : source.at
            ? `From aside, as frame ${source.frame} has it.`
            : `The same place, as frame ${source.frame} has it.`}
      </p>
    </div>
  );
}

/** The strokes of a repair: each can be chosen, given its frames, taken away. */
export function Strokes({ layer }: { layer: RepairLayer }) {
  const chosen = useBrush((s) => s.chosen);
  const { strokes } = layer.content;
  if (strokes.length === 0)
    return <p className="leading-snug text-base-content/75">Nothing is painted yet: take the brush.</p>;
  const stroke = chosen === null ? undefined : strokes[chosen];
  return (
    <div className="space-y-1.5">
      <ul className="max-h-44 space-y-0.5 overflow-y-auto" aria-label="Strokes, the first one below">
        {strokes.map((one, i) => (
          <li key={i} className={`flex items-center rounded-field ${i === chosen ? 'bg-base-300' : ''}`}>
            <button
              className="btn btn-ghost btn-xs min-w-0 flex-1 justify-start gap-2 font-normal"
              aria-pressed={i === chosen}
              onClick={() => useBrush.setState({ chosen: i === chosen ? null : i })}
            >
              <span className="w-5 text-right font-mono text-[11.5px] text-base-content/75">{i + 1}</span>
              {names[one.how]}
              <span className="ml-auto font-mono text-[11.5px] text-base-content/75">
                {Math.round(one.width)} px
              </span>
            </button>
            <IconToggle label={`Delete stroke ${i + 1}`} onClick={() => removeStroke(layer, i)}>
              <Trash2 size={13} />
            </IconToggle>
          </li>
        ))}
      </ul>
      <Loss layer={layer} />
      {stroke && chosen !== null && (
        <FrameSpan
          label="On frames"
          of="stroke"
          first={stroke.first}
          last={stroke.last}
          onChange={(part) => changeStroke(layer, chosen, part)}
        />
      )}
    </div>
  );
}

/** Milliseconds that a frame rests before it is measured. */
const rest = 400;

/** What the frame shown loses on its way to the held picture and back, told where the frame rests. */
function Loss({ layer }: { layer: RepairLayer }) {
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const playing = usePlayhead((s) => s.playing);
  const [told, setTold] = useState<{ frame: number; text: string } | null>(null);
  useEffect(() => {
    if (playing) return;
    const waiting = setTimeout(() => {
      api.roundTrip(layer.clipId, frame, layer).then(
        ({ psnr, rms }) =>
          setTold({
            frame,
            text: psnr
              ? `There and back costs ${rms.toFixed(1)} levels of 255 under the paint (${psnr.toFixed(0)} dB); beside it nothing.`
              : 'There and back costs nothing on this frame.',
          }),
        () => setTold(null),
      );
    }, rest);
    return () => clearTimeout(waiting);
  }, [frame, layer, playing]);
  if (told?.frame !== frame) return null;
  return (
    <p className="leading-snug text-base-content/75" data-testid="round-trip">
      {told.text}
    </p>
  );
}
