import type { TrackPatch, TrackView } from '@lurn/contract';
import { belowChoices, channels, fieldChoices, filters, shapes } from '@lurn/core';
import type { ReactNode } from 'react';
import { ActionButton } from '../actions/action-button';
import { Fold } from '../ui/fold';
import { useDocument } from '../state/document';
import { useSelection } from '../state/selection';
import { usePlayhead } from '../state/playhead';
import { changeTracks, clearSpan, fillBetweenKeys, goToTrouble } from '../state/track-edits';
import { troubles } from '../state/troubles';

const words: Record<string, string> = {
  shift: 'Shift',
  rotation: 'Shift, rotation',
  similarity: 'Shift, rotation, scale',
  affine: 'Affine',
  perspective: 'Perspective',
  luma: 'Luma',
  red: 'Red',
  green: 'Green',
  blue: 'Blue',
  saturation: 'Saturation',
  none: 'None',
  soften: 'Soften',
  'local-contrast': 'Local contrast',
  both: 'Both fields',
  top: 'Top field',
  bottom: 'Bottom field',
  stop: 'Stop',
  mark: 'Carry on, mark',
  bridge: 'Bridge the gap',
};

/** How the chosen tracks are followed, and what can be done to their samples. */
export function FollowOptions() {
  const tracks = useDocument((s) => s.tracks);
  const chosen = useSelection((s) => s.chosen);
  const samples = useDocument((s) => s.samples);
  const among = tracks.filter((t) => chosen.has(t.id));
  if (among.length === 0) return null;
  const count = among.reduce((sum, { id }) => sum + troubles(samples.get(id)).length, 0);
  const found = count > 0 && (
    <button
      className="btn btn-ghost btn-xs text-warning"
      title="Go to the next frame where one of the chosen is lost, bridged or doubtful (.)"
      data-testid="troubles"
      onClick={() => goToTrouble(1)}
    >
      {count === 1 ? '1 trouble' : `${count} troubles`}
    </button>
  );
  return (
    <Fold name="How it is followed" aside={found}>
      <Options tracks={among} />
    </Fold>
  );
}

function Options({ tracks }: { tracks: TrackView[] }) {
  const change = (patch: TrackPatch): void =>
    void changeTracks(
      tracks.map((t) => t.id),
      patch,
    );
  /** What all have in common; null where they differ. */
  const common = <K extends keyof TrackView>(key: K): TrackView[K] | null =>
    tracks.every((t) => t[key] === tracks[0][key]) ? tracks[0][key] : null;
  const threshold = common('threshold');
  return (
    <div className="mt-1 space-y-1.5" data-testid="follow-options">
      <Choice label="Shape" value={common('shape')} among={shapes} onChange={(shape) => change({ shape })} />
      <Choice
        label="Channel"
        value={common('channel')}
        among={channels}
        onChange={(channel) => change({ channel })}
      />
      <Choice
        label="Filter"
        value={common('filter')}
        among={filters}
        onChange={(filter) => change({ filter })}
      />
      <Choice
        label="Lines"
        value={common('fields')}
        among={fieldChoices}
        onChange={(fields) => change({ fields })}
      />
      <Choice
        label="Below"
        value={common('below')}
        among={belowChoices}
        onChange={(below) => change({ below })}
      />
      <Line label="Threshold">
        <NumberBox
          label="Threshold in percent"
          value={threshold === null ? null : Math.round(threshold * 100)}
          most={100}
          onChange={(percent) => change({ threshold: percent / 100 })}
        />
        %
      </Line>
      {common('below') === 'bridge' && (
        <Line label="Longest gap">
          <NumberBox
            label="Longest gap in frames"
            value={common('longestGap')}
            least={1}
            most={10000}
            onChange={(longestGap) => change({ longestGap })}
          />
          frames
        </Line>
      )}
      <div className="flex flex-wrap gap-1.5 pt-1">
        <ActionButton id="as-seen" className="btn-xs" text="As seen" />
        <ActionButton id="aside" className="btn-xs" text="Another feature" />
      </div>
      <Spans />
    </div>
  );
}

/** Removing samples, and filling between keys. */
function Spans() {
  const frames = useDocument((s) => s.clip?.frames ?? 0);
  const range = useDocument((s) => s.steady?.range);
  const here = (): number => usePlayhead.getState().frame;
  const removals: [string, () => void][] = [
    ['Here', () => void clearSpan(here(), here())],
    ['Before', () => void clearSpan(0, here() - 1)],
    ['After', () => void clearSpan(here() + 1, frames - 1)],
    ['Range', () => range && void clearSpan(range.first, range.last)],
  ];
  return (
    <>
      <Group label="Remove samples">
        {removals.map(([label, run]) => (
          <button key={label} className="btn btn-xs join-item flex-1" onClick={run}>
            {label}
          </button>
        ))}
      </Group>
      <Group label="Fill between keys">
        <button className="btn btn-xs join-item flex-1" onClick={() => void fillBetweenKeys('linear')}>
          Linear
        </button>
        <button className="btn btn-xs join-item flex-1" onClick={() => void fillBetweenKeys('smooth')}>
          Smooth
        </button>
      </Group>
    </>
  );
}

function Group({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div role="group" aria-label={label}>
      <p className="pt-1 pb-1 text-base-content/70">{label}</p>
      <div className="join flex w-full">{children}</div>
    </div>
  );
}

function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[84px_minmax(0,1fr)] items-center gap-2">
      <span className="text-base-content/70">{label}</span>
      <span className="flex items-center gap-1.5">{children}</span>
    </div>
  );
}

function Choice<T extends string>({
  label,
  value,
  among,
  onChange,
}: {
  label: string;
  /** Null where the tracks differ. */
  value: T | null;
  among: readonly T[];
  onChange: (value: T) => void;
}) {
  return (
    <Line label={label}>
      <select
        className="select select-xs w-full"
        aria-label={label}
        value={value ?? ''}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {value === null && (
          <option value="" disabled>
            Various
          </option>
        )}
        {among.map((one) => (
          <option key={one} value={one}>
            {words[one]}
          </option>
        ))}
      </select>
    </Line>
  );
}

/** A whole number that is sent when the hand leaves it. */
function NumberBox({
  label,
  value,
  least = 0,
  most,
  onChange,
}: {
  label: string;
  /** Null where the tracks differ. */
  value: number | null;
  least?: number;
  most: number;
  onChange: (value: number) => void;
}) {
  const leave = (text: string): void => {
    const next = Math.min(Math.max(Math.round(Number(text)), least), most);
    if (text !== '' && Number.isFinite(next) && next !== value) onChange(next);
  };
  return (
    <input
      key={value}
      className="input input-xs w-16 text-right font-mono"
      type="number"
      min={least}
      max={most}
      defaultValue={value ?? ''}
      placeholder={value === null ? '–' : undefined}
      aria-label={label}
      onBlur={(event) => leave(event.target.value)}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}
