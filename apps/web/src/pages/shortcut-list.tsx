import { useEffect, useState } from 'react';
import { Dialog } from '../ui/dialog';
import { shortcuts } from './shortcuts';

const line = 'flex min-h-6.5 break-inside-avoid items-center justify-between gap-4';

/** All keys on one page, on `?`. */
export function ShortcutList() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === '?' && !(event.target as HTMLElement).matches('input, textarea')) setOpen(true);
    };
    const ask = (): void => setOpen(true);
    window.addEventListener('keydown', onKey);
    window.addEventListener('show-shortcuts', ask);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('show-shortcuts', ask);
    };
  }, []);
  return (
    <Dialog open={open} label="Keys" onClose={() => setOpen(false)}>
      <div className="modal-box max-w-2xl">
        <h2 className="mb-4 text-lg font-semibold">Keys</h2>
        <dl className="columns-2 gap-x-10">
          {shortcuts
            .filter((s) => s.shown)
            .map(({ shown, does }) => (
              <div key={does} className={line}>
                <dt>{does}</dt>
                <dd>
                  <kbd className="kbd kbd-sm font-sans">{shown}</kbd>
                </dd>
              </div>
            ))}
          <div className={line}>
            <dt>Finer, while dragging a box</dt>
            <dd>
              <kbd className="kbd kbd-sm font-sans">Shift</kbd>
            </dd>
          </div>
        </dl>
        <form method="dialog" className="modal-action">
          <button className="btn btn-sm">Close</button>
        </form>
      </div>
    </Dialog>
  );
}
