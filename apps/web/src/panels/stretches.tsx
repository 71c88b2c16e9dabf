import type { SteadySpanView } from '@lurn/contract';
import { Trash2 } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { changeStretch, stretchNames } from '../state/by-hand';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { Fold } from '../ui/fold';
import { IconToggle } from '../ui/icon-toggle';

/** Stretches of frames that something else is done to than to the rest. */
export function Stretches() {
  const spans = useDocument((s) => s.steady?.spans);
  if (!spans) return null;
  return (
    <Fold
      name="Stretches"
      aside={
        spans.length > 0 && <span className="font-mono text-[11px] text-base-content/75">{spans.length}</span>
      }
    >
      <div className="space-y-1.5 pt-1" data-testid="stretches">
        {spans.map((span, i) => (
          <Stretch key={i} index={i} span={span} />
        ))}
        <p className="text-[11px] leading-snug text-base-content/75">
          Drag over a lane to choose frames, then:
        </p>
        <div className="flex flex-wrap gap-1.5">
          <ActionButton id="stretch-hold" className="btn-xs" text="Hold them" bare />
          <ActionButton id="stretch-protect" className="btn-xs" text="Leave them" bare />
          <ActionButton id="stretch-even" className="btn-xs" text="One pace" bare />
        </div>
      </div>
    </Fold>
  );
}

function Stretch({ index, span }: { index: number; span: SteadySpanView }) {
  return (
    <div className="flex items-center gap-1.5">
      <select
        className="select select-xs w-24"
        value={span.kind}
        aria-label="What is done to the stretch"
        onChange={(event) => changeStretch(index, { kind: event.target.value as SteadySpanView['kind'] })}
      >
        {(Object.keys(stretchNames) as SteadySpanView['kind'][]).map((kind) => (
          <option key={kind} value={kind}>
            {stretchNames[kind]}
          </option>
        ))}
      </select>
      <button className="link link-hover flex-1 font-mono text-[11.5px]" onClick={() => go(span.first)}>
        {span.first}–{span.last}
      </button>
      <label
        className="flex items-center gap-1 text-[11px] text-base-content/75"
        title="Frames to go over into it"
      >
        ease
        <input
          type="number"
          min={0}
          max={500}
          className="input input-xs w-13 text-right font-mono"
          value={span.ease}
          aria-label="Frames to go over into the stretch"
          onChange={(event) =>
            changeStretch(index, {
              ease: Math.min(Math.max(Math.round(Number(event.target.value)) || 0, 0), 500),
            })
          }
        />
      </label>
      <IconToggle label="Remove the stretch" onClick={() => changeStretch(index, null)}>
        <Trash2 size={13} />
      </IconToggle>
    </div>
  );
}
