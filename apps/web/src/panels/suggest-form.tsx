import { Loader2 } from 'lucide-react';
import { useState } from 'react';
import { ActionButton } from '../actions/action-button';
import { useView } from '../state/view';
import { suggest } from '../state/track-edits';

/** How many points to find on the frame shown, and where. */
export function SuggestForm({ onDone }: { onDone: () => void }) {
  const drawing = useView((s) => s.tool === 'within' || s.tool === 'without');
  const areas = useView((s) => s.areas.length);
  const [count, setCount] = useState(6);
  const [busy, setBusy] = useState(false);
  const find = async (): Promise<void> => {
    setBusy(true);
    const found = await suggest(count).finally(() => setBusy(false));
    if (found > 0) onDone();
  };
  return (
    <form
      className="mb-2.5 space-y-2 rounded-md bg-base-300/60 p-2.5"
      aria-label="Suggest points"
      onSubmit={(event) => {
        event.preventDefault();
        void find();
      }}
    >
      <label className="flex items-center justify-between">
        Points on this frame
        <input
          className="input input-xs w-16 text-right font-mono"
          type="number"
          min={1}
          max={200}
          value={count}
          aria-label="How many points"
          onChange={(event) => setCount(Math.min(Math.max(Number(event.target.value) || 1, 1), 200))}
        />
      </label>
      <div className="flex gap-1.5">
        <ActionButton id="look-in" className="btn-xs flex-1" bare text="Look in…" />
        <ActionButton id="keep-out" className="btn-xs flex-1" bare text="Keep out of…" />
      </div>
      <div className="flex items-center justify-between">
        <span className="text-[11px] text-base-content/75">
          {drawing
            ? 'Click for corners, drag for curves; close on the first.'
            : areas === 0
              ? 'Anywhere in the picture'
              : areas === 1
                ? 'One area drawn'
                : `${areas} areas drawn`}
        </span>
        {areas > 0 && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            onClick={() => useView.setState({ areas: [], editedArea: null })}
          >
            Clear
          </button>
        )}
        <button className="btn btn-primary btn-xs" disabled={busy}>
          {busy && <Loader2 size={12} className="animate-spin" aria-hidden />} Find
        </button>
      </div>
    </form>
  );
}
