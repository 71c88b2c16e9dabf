import { lazy, Suspense, useEffect } from 'react';
import { useDocument } from '../state/document';
import { looksLikeTracks, takeFile, takeText, useTracksIn } from '../state/tracks-in';
import { openDialog, useDialogs } from '../state/workspace';
import { Dialog } from '../ui/dialog';
import { dressWithFile } from '../state/layers';

// What checks files from elsewhere is fetched when there is one.
const ImportBody = lazy(() => import('./import-body').then((room) => ({ default: room.ImportBody })));

/** Taking tracks in: dropped, pasted or chosen; what their columns mean; how they lie on the picture. */
export function ImportDialog() {
  const open = useDialogs((s) => s.open === 'import');
  const clip = useDocument((s) => s.clip);
  useDropAndPaste();
  const close = (): void => {
    openDialog(null);
    useTracksIn.setState({ taken: null, failure: null });
  };
  return (
    <Dialog open={open} label="Take tracks in" onClose={close}>
      <div className="modal-box max-h-[92vh] max-w-4xl">
        <h2 className="mb-3 text-lg font-semibold">Take tracks in</h2>
        <Suspense fallback={<span className="loading loading-spinner" aria-label="Opening" />}>
          {open && clip && <ImportBody clip={clip} onClose={close} />}
        </Suspense>
      </div>
    </Dialog>
  );
}

/** Files dropped on the page, and text pasted into it, where nobody is typing. */
function useDropAndPaste(): void {
  useEffect(() => {
    const over = (event: DragEvent): void => {
      if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
    };
    const drop = (event: DragEvent): void => {
      const [file] = event.dataTransfer?.files ?? [];
      if (!file) return;
      event.preventDefault();
      if (!dressWithFile(file)) void takeFile(file);
    };
    const paste = (event: ClipboardEvent): void => {
      if ((event.target as HTMLElement).matches('input, textarea')) return;
      const text = event.clipboardData?.getData('text') ?? '';
      const [file] = event.clipboardData?.files ?? [];
      if (file) {
        if (!dressWithFile(file)) void takeFile(file);
      } else if (looksLikeTracks(text)) takeText(text, 'the clipboard');
      else return;
      event.preventDefault();
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    window.addEventListener('paste', paste);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
      window.removeEventListener('paste', paste);
    };
  }, []);
}
