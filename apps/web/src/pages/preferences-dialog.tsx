import { Keyboard, RotateCcw } from 'lucide-react';
import { useState, type KeyboardEvent, type ReactNode } from 'react';
import { groups, type Action } from '../actions/action';
import { changeKeys, clashesOf, keysOf, pressedKeys, shownKeys } from '../actions/keys';
import { actions } from '../actions/registry';
import {
  defaultPreferences,
  playbackRates,
  playbackSizes,
  themes,
  usePreferences,
  type Preferences,
} from '../state/preferences';
import { openDialog, useDialogs } from '../state/workspace';
import { Dialog } from '../ui/dialog';
import { PixelField } from '../ui/pixel-field';

/** What a side of a box may be. */
const boxSides = { least: 7, most: 2001, className: 'input-sm w-20' };

const spoken = {
  dusk: 'Dark',
  noon: 'Light',
  1: 'Full',
  0.5: 'Half',
  0.25: 'Quarter',
  stop: 'Stop',
  mark: 'Carry on, mark',
  bridge: 'Bridge the gap',
};

/** How one person likes the app; kept in this browser at once. */
export function PreferencesDialog() {
  const open = useDialogs((s) => s.open === 'preferences');
  return (
    <Dialog open={open} label="Preferences" onClose={() => openDialog(null)}>
      <div className="modal-box max-h-[88vh] max-w-2xl">
        <h2 className="mb-4 text-lg font-semibold">Preferences</h2>
        {open && (
          <div className="space-y-5">
            <General />
            <Keys />
          </div>
        )}
        <div className="modal-action">
          <button
            className="btn btn-sm btn-ghost"
            onClick={() => usePreferences.setState(defaultPreferences, true)}
          >
            All as it came
          </button>
          <button className="btn btn-sm" onClick={() => openDialog(null)}>
            Close
          </button>
        </div>
      </div>
    </Dialog>
  );
}

function General() {
  const preferences = usePreferences();
  const set = (part: Partial<Preferences>): void => void usePreferences.setState(part);
  const { boxes } = preferences;
  return (
    <div className="grid grid-cols-[170px_minmax(0,1fr)] items-center gap-x-4 gap-y-2.5">
      <Choice label="Theme" among={themes} value={preferences.theme} onChange={(theme) => set({ theme })} />
      <Choice
        label="Playback size"
        among={playbackSizes}
        value={preferences.playbackSize}
        onChange={(playbackSize) => set({ playbackSize })}
      />
      <Choice
        label="Playback rate"
        among={playbackRates}
        value={preferences.playbackRate}
        onChange={(playbackRate) => set({ playbackRate })}
      />
      <span>Boxes of new points</span>
      <span className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1.5">
          <input
            type="radio"
            name="boxes"
            className="radio radio-xs"
            checked={boxes === null}
            onChange={() => set({ boxes: null })}
          />
          By the clip's size
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="radio"
            name="boxes"
            className="radio radio-xs"
            checked={boxes !== null}
            onChange={() => set({ boxes: { template: 41, search: 161 } })}
          />
          Always
        </label>
        {boxes && (
          <>
            <PixelField
              {...boxSides}
              label="Template box"
              value={boxes.template}
              onChange={(template) =>
                set({ boxes: { template, search: Math.max(boxes.search, template + 8) } })
              }
            />
            in
            <PixelField
              {...boxSides}
              label="Search box"
              value={boxes.search}
              onChange={(search) =>
                set({ boxes: { ...boxes, search: Math.max(search, boxes.template + 8) } })
              }
            />
            px
          </>
        )}
      </span>
      <span>Below the threshold</span>
      <select
        className="select select-sm w-52"
        aria-label="What new points do below their threshold"
        value={preferences.below ?? ''}
        onChange={(event) => set({ below: (event.target.value || null) as Preferences['below'] })}
      >
        <option value="">As the app has it: stop</option>
        {(['stop', 'mark', 'bridge'] as const).map((below) => (
          <option key={below} value={below}>
            {spoken[below]}
          </option>
        ))}
      </select>
    </div>
  );
}

function Choice<T extends keyof typeof spoken>({
  label,
  among,
  value,
  onChange,
}: {
  label: string;
  among: readonly T[];
  value: T;
  onChange: (value: T) => void;
}) {
  return (
    <>
      <span>{label}</span>
      <div className="join" role="radiogroup" aria-label={label}>
        {among.map((one) => (
          <button
            key={one}
            role="radio"
            aria-checked={value === one}
            className={`btn btn-sm join-item ${value === one ? 'btn-primary' : ''}`}
            onClick={() => onChange(one)}
          >
            {spoken[one]}
          </button>
        ))}
      </div>
    </>
  );
}

function Keys() {
  const [search, setSearch] = useState('');
  const words = search.toLowerCase();
  return (
    <section aria-label="Keys">
      <div className="mb-2 flex items-center justify-between">
        <h3 className="font-semibold">Keys</h3>
        <input
          className="input input-sm w-52"
          type="search"
          placeholder="Look an action up"
          aria-label="Look an action up"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </div>
      <div className="max-h-72 overflow-y-auto rounded-box border border-base-300 px-3" tabIndex={-1}>
        {groups.map((group) => {
          const own = actions.filter(
            ({ group: of, label, wish }) =>
              of === group && `${label} ${wish ?? ''}`.toLowerCase().includes(words),
          );
          return own.length === 0 ? null : (
            <div key={group} className="py-1.5">
              <h4 className="text-[11px] font-semibold text-base-content/70">{group}</h4>
              {own.map((action) => (
                <KeyRow key={action.id} action={action} />
              ))}
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** An action's keys; pressed anew after a click on them. */
function KeyRow({ action }: { action: Action }) {
  const changed = usePreferences((s) => s.keys);
  const [asking, setAsking] = useState(false);
  const keys = keysOf(action, changed);
  const isChanged = action.id in changed;
  const clashes = keys.flatMap((one) => clashesOf(actions, action, one));
  const press = (event: KeyboardEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Escape') return setAsking(false);
    if (event.key === 'Backspace') {
      changeKeys(action, []);
      return setAsking(false);
    }
    const pressed = pressedKeys(event.nativeEvent);
    if (!pressed) return;
    changeKeys(action, [pressed]);
    setAsking(false);
  };
  return (
    <div className="flex min-h-7 items-center gap-2" data-testid="key-row" data-action={action.id}>
      <span className="flex-1">
        {action.label}
        {clashes.length > 0 && (
          <span className="ml-2 text-[11.5px] text-warning" role="alert">
            Also “{clashes[0].label}”
          </span>
        )}
      </span>
      {isChanged && (
        <button
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`${action.label}: the key it came with`}
          title="The key it came with"
          onClick={() => changeKeys(action, null)}
        >
          <RotateCcw size={12} />
        </button>
      )}
      <button
        className={`btn btn-xs min-w-24 font-normal ${asking ? 'btn-primary' : ''}`}
        aria-label={`Key of ${action.label}`}
        title="Click, then press the new key; Backspace for none"
        onClick={() => setAsking(true)}
        onKeyDown={(event) => asking && press(event)}
        onBlur={() => setAsking(false)}
      >
        {asking ? (
          <Note>Press a key…</Note>
        ) : keys.length > 0 ? (
          keys.map(shownKeys).join(', ')
        ) : (
          <Note>none</Note>
        )}
      </button>
    </div>
  );
}

const Note = ({ children }: { children: ReactNode }) => (
  <span className="flex items-center gap-1 opacity-80">
    <Keyboard size={11} aria-hidden /> {children}
  </span>
);
