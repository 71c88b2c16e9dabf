import { useSync } from '../state/sync';
import { Dialog } from '../ui/dialog';

/**
 * Another window has changed what one's own edit would write over: which of the two is to stand? Nothing but an
 * answer closes it, so that neither is lost by a slip of the hand.
 */
export function ConflictDialog() {
  const conflict = useSync((s) => s.conflict);
  return (
    <Dialog open={conflict !== null} label="Changed in another window">
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
    </Dialog>
  );
}
