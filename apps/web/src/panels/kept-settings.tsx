import { Columns2, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useDocument } from '../state/document';
import { compareWith } from '../state/editor';
import { stopComparing, useCompared } from '../state/kept';
import { changeSteady, dropSteady, keepSteady } from '../state/steadying';
import { useView } from '../state/view';
import { Fold } from '../ui/fold';
import { IconToggle } from '../ui/icon-toggle';

/** Settings kept by name: to go back to, and to compare with what is chosen now. */
export function KeptSettings() {
  const kept = useDocument((s) => s.kept);
  const compared = useCompared((s) => s.kept?.id);
  const shake = useCompared((s) => s.shake?.after ?? s.result?.report.shakeAfter);
  return (
    <Fold
      name="Kept settings"
      aside={
        kept.length > 0 && <span className="font-mono text-[11px] text-base-content/75">{kept.length}</span>
      }
    >
      <KeepForm names={kept.map(({ name }) => name)} />
      <ul className="mt-1.5 max-h-36 space-y-0.5 overflow-y-auto" aria-label="Kept settings">
        {kept.map((one) => (
          <li key={one.id} className="flex items-center gap-1">
            <button
              className="btn btn-ghost btn-xs min-w-0 flex-1 justify-start font-normal"
              title={`Go back to “${one.name}”`}
              onClick={() => changeSteady(one.steady, 'Kept settings')}
            >
              <span className="truncate">{one.name}</span>
            </button>
            {compared === one.id && shake !== undefined && (
              <span className="font-mono text-[11px] text-base-content/75">{shake.toFixed(2)} px</span>
            )}
            <IconToggle
              label={`Compare with ${one.name}`}
              pressed={compared === one.id}
              onClick={() => {
                if (compared === one.id) return stopComparing();
                compareWith(one);
                // Where both are seen at once.
                if (useView.getState().view !== 'difference') useView.setState({ view: 'wipe' });
              }}
            >
              <Columns2 size={13} className={compared === one.id ? 'text-primary' : ''} />
            </IconToggle>
            <IconToggle label={`Drop ${one.name}`} onClick={() => void dropSteady(one.id)}>
              <Trash2 size={13} />
            </IconToggle>
          </li>
        ))}
      </ul>
      {kept.length === 0 && (
        <p className="leading-snug text-base-content/75">
          Keep what is chosen by a name, change it, and compare the two by wipe, difference or flicker (C).
        </p>
      )}
    </Fold>
  );
}

/** Keeps what is chosen now; by a name that is taken, in that one’s place. */
function KeepForm({ names }: { names: readonly string[] }) {
  const [name, setName] = useState('');
  const isTaken = names.includes(name.trim());
  return (
    <form
      className="mt-1 flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '') return;
        void keepSteady(name.trim());
        setName('');
      }}
    >
      <input
        className="input input-xs min-w-0 flex-1"
        aria-label="Name of these settings"
        placeholder="Name of these settings"
        value={name}
        maxLength={60}
        onChange={(event) => setName(event.target.value)}
      />
      <button className="btn btn-xs" disabled={name.trim() === ''}>
        {isTaken ? 'Replace' : 'Keep'}
      </button>
    </form>
  );
}
