import { useEffect, useRef, type ReactNode } from 'react';

/** A dialog over the page: Escape and a click beside it close it, unless it needs an answer and has no `onClose`. */
export function Dialog({
  open,
  label,
  onClose,
  children,
}: {
  open: boolean;
  label: string;
  onClose?: () => void;
  children: ReactNode;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (open) dialog.current?.showModal();
    else dialog.current?.close();
  }, [open]);
  return (
    <dialog
      ref={dialog}
      className="modal"
      aria-label={label}
      onClose={onClose}
      onKeyDown={(event) => {
        // The browser lets a second Escape through whatever `cancel` says.
        if (event.key === 'Escape' && !onClose) event.preventDefault();
      }}
    >
      {children}
      {onClose && (
        <form method="dialog" className="modal-backdrop">
          <button aria-label="Close">close</button>
        </form>
      )}
    </dialog>
  );
}
