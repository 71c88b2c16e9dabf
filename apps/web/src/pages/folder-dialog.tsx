import { useQuery } from '@tanstack/react-query';
import { ChevronRight, Film, Folder } from 'lucide-react';
import { useState } from 'react';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { Dialog } from '../ui/dialog';
import { bytes } from '../ui/format';

/** Picks videos from the folders that the server was started with; they stay where they are. */
export function FolderDialog({
  projectId,
  open,
  onClose,
}: {
  projectId: string;
  open: boolean;
  onClose: () => void;
}) {
  return (
    <Dialog open={open} label="Open where it lies" onClose={onClose}>
      <div className="modal-box flex max-h-[70vh] max-w-xl flex-col">
        <h2 className="text-lg font-semibold">Open where it lies</h2>
        <p className="mt-1 text-base-content/75">Nothing is copied; the file is never changed.</p>
        {open && <Browser projectId={projectId} />}
        <form method="dialog" className="modal-action">
          <button className="btn btn-sm">Done</button>
        </form>
      </div>
    </Dialog>
  );
}

function Browser({ projectId }: { projectId: string }) {
  const [at, setAt] = useState<{ folder: number; path: string[] }>({ folder: 0, path: [] });
  const [taken, setTaken] = useState<ReadonlySet<string>>(new Set());
  const folders = useQuery({ queryKey: ['media'], queryFn: api.folders });
  const path = at.path.join('/');
  const entries = useQuery({
    queryKey: ['media', at.folder, path],
    queryFn: () => api.entries(at.folder, path),
    retry: false,
  });
  const take = (name: string): Promise<void> =>
    attempt(async () => {
      const file = [...at.path, name].join('/');
      await api.outside(projectId, { folder: at.folder, path: file });
      setTaken((all) => new Set(all).add(`${at.folder}/${file}`));
    });
  const here = folders.data?.[at.folder];
  return (
    <>
      {(folders.data?.length ?? 0) > 1 && (
        <select
          className="select select-sm mt-3"
          aria-label="Folder"
          value={at.folder}
          onChange={(event) => setAt({ folder: Number(event.target.value), path: [] })}
        >
          {folders.data?.map((f) => (
            <option key={f.index} value={f.index}>
              {f.path}
              {f.there ? '' : ' (not there)'}
            </option>
          ))}
        </select>
      )}
      <nav className="mt-3 flex flex-wrap items-center gap-1" aria-label="Where you are">
        {[here?.name ?? '…', ...at.path].map((name, depth) => (
          <span key={depth} className="flex items-center gap-1">
            {depth > 0 && <ChevronRight size={13} aria-hidden className="text-base-content/75" />}
            <button
              className="link link-hover"
              onClick={() => setAt({ ...at, path: at.path.slice(0, depth) })}
            >
              {name}
            </button>
          </span>
        ))}
      </nav>
      <ul className="mt-2 min-h-24 flex-1 divide-y divide-base-300 overflow-y-auto rounded-box border border-base-300">
        {entries.isPending && (
          <li className="p-3">
            <span className="loading loading-spinner loading-sm" aria-label="Loading" />
          </li>
        )}
        {entries.isError && <li className="p-3 text-warning">{entries.error.message}</li>}
        {entries.data?.length === 0 && <li className="p-3 text-base-content/70">No video in here.</li>}
        {entries.data?.map((entry) => {
          const isTaken = taken.has(`${at.folder}/${[...at.path, entry.name].join('/')}`);
          return (
            <li key={entry.name}>
              <button
                className="flex w-full items-center gap-3 px-3 py-2 text-left hover:bg-base-300/50 disabled:opacity-60"
                disabled={isTaken}
                onClick={() =>
                  entry.kind === 'folder'
                    ? setAt({ ...at, path: [...at.path, entry.name] })
                    : void take(entry.name)
                }
              >
                {entry.kind === 'folder' ? (
                  <Folder size={15} className="text-primary" aria-hidden />
                ) : (
                  <Film size={15} className="text-secondary" aria-hidden />
                )}
                <span className="min-w-0 flex-1 truncate">{entry.name}</span>
                <span className="font-mono text-[11px] text-base-content/75">
                  {isTaken ? 'taken in' : entry.kind === 'file' ? bytes(entry.bytes) : ''}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}
