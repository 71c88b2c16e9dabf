import { useEffect, useRef } from 'react';
import { useEditor } from '../state/editor';

/** Another window has changed what one's own edit would write over: which of the two is to stand? */
export function ConflictDialog() {
  const conflict = useEditor((s) => s.conflict);
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (conflict) dialog.current?.showModal();
    else dialog.current?.close();
  }, [conflict]);
  return (
    <dialog
      ref={dialog}
      className="modal"
      aria-label="Changed in another window"
      onCancel={() => conflict?.choose(false)}
    >
      <div className="modal-box max-w-md">
        <h2 className="text-lg font-semibold">Changed in another window</h2>
        <p className="mt-2 text-base-content/80">
          {conflict?.message} Your change is to the same thing and was made without seeing it. Nothing is
          written over until you choose.
        </p>
        <div className="modal-action">
          <button className="btn btn-sm" onClick={() => conflict?.choose(false)}>
            Keep theirs
          </button>
          <button className="btn btn-sm btn-primary" onClick={() => conflict?.choose(true)}>
            Use mine
          </button>
        </div>
      </div>
    </dialog>
  );
}
