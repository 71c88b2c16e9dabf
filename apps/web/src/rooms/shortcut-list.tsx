import { useEffect, useRef } from 'react';
import { shortcuts } from './shortcuts';

/** All keys on one page, on `?`. */
export function ShortcutList() {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const open = (event: KeyboardEvent): void => {
      if (event.key === '?' && !(event.target as HTMLElement).matches('input, textarea'))
        dialog.current?.showModal();
    };
    const ask = (): void => dialog.current?.showModal();
    window.addEventListener('keydown', open);
    window.addEventListener('show-shortcuts', ask);
    return () => {
      window.removeEventListener('keydown', open);
      window.removeEventListener('show-shortcuts', ask);
    };
  }, []);
  return (
    <dialog ref={dialog} className="modal" aria-label="Keys">
      <div className="modal-box max-w-2xl">
        <h2 className="mb-4 text-lg font-semibold">Keys</h2>
        <dl className="grid grid-cols-2 gap-x-10 gap-y-1.5">
          {shortcuts
            .filter((s) => s.shown)
            .map(({ shown, does }) => (
              <div key={does} className="flex items-center justify-between gap-4">
                <dt>{does}</dt>
                <dd>
                  <kbd className="kbd kbd-sm font-sans">{shown}</kbd>
                </dd>
              </div>
            ))}
          <div className="flex items-center justify-between gap-4">
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
      <form method="dialog" className="modal-backdrop">
        <button aria-label="Close">close</button>
      </form>
    </dialog>
  );
}
