import { useQuery } from '@tanstack/react-query';
import type { ClipCard, ExportsView } from '@lurn/contract';
import { useState } from 'react';
import { toast } from 'sonner';
import { attempt } from '../../api/attempt';
import { api } from '../../api/client';
import { useDocument } from '../../state/document';
import { exportPresets, useExporting } from '../../state/exporting';
import { flush } from '../../state/drafts';
import { Dialog } from '../../ui/dialog';
import { clock } from '../../ui/format';

/** Several clips of the project at once: each exported as it is steadied, or steadied as the shown one is. */
export function SeveralClips({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} label="Several clips" onClose={onClose}>
      <div className="modal-box flex max-h-[80vh] max-w-lg flex-col">
        <h2 className="text-lg font-semibold">Several clips</h2>
        {open && <Choice onDone={onClose} />}
      </div>
    </Dialog>
  );
}

const works = [
  { id: 'export', name: 'Export each as it is steadied' },
  { id: 'like', name: 'Steady them like this clip, followed anew' },
  { id: 'both', name: 'Steady them like this clip, and export' },
] as const;

function Choice({ onDone }: { onDone: () => void }) {
  const clip = useDocument((s) => s.clip);
  const { treated: _, folder: __, ...request } = useExporting((s) => s.request);
  const [work, setWork] = useState<(typeof works)[number]['id']>('export');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(clip ? [clip.id] : []));
  const project = useQuery({
    queryKey: ['project', clip?.projectId],
    queryFn: () => api.project(clip?.projectId ?? ''),
    enabled: clip !== null,
  });
  if (!clip) return null;
  const isLike = work !== 'export';
  const clips = (project.data?.clips ?? []).filter(({ id }) => !isLike || id !== clip.id);
  const asked = clips.filter(({ id }) => chosen.has(id));
  const start = (): Promise<void> =>
    attempt(async () => {
      await flush();
      const clipIds = asked.map(({ id }) => id);
      const view = isLike
        ? await api.steadyLike(clip.id, { clipIds, export: work === 'both' ? request : undefined })
        : await api.exportSeveral({ clipIds, ...request });
      tell(view, asked);
      onDone();
    });
  const preset = exportPresets.find(({ request: one }) => one.codec === request.codec);
  return (
    <>
      <fieldset className="mt-3 space-y-1.5">
        <legend className="sr-only">What is done with them</legend>
        {works.map(({ id, name }) => (
          <label key={id} className="flex items-center gap-2">
            <input
              type="radio"
              name="work"
              className="radio radio-xs"
              checked={work === id}
              onChange={() => setWork(id)}
            />
            {name}
          </label>
        ))}
      </fieldset>
      <ul
        className="mt-3 min-h-24 flex-1 divide-y divide-base-300 overflow-y-auto rounded-box border border-base-300"
        aria-label="Clips"
      >
        {project.isPending && (
          <li className="p-3">
            <span className="loading loading-spinner loading-sm" aria-label="Loading" />
          </li>
        )}
        {project.data && clips.length === 0 && (
          <li className="p-3 text-base-content/70">There is no other clip in this project.</li>
        )}
        {clips.map((one) => (
          <li key={one.id}>
            <label className="flex items-center gap-3 px-3 py-2">
              <input
                type="checkbox"
                className="checkbox checkbox-xs rounded-[3px]"
                checked={chosen.has(one.id)}
                disabled={one.state !== 'ready'}
                onChange={({ target: { checked } }) =>
                  setChosen((before) => {
                    const after = new Set(before);
                    if (checked) after.add(one.id);
                    else after.delete(one.id);
                    return after;
                  })
                }
              />
              <span className="min-w-0 flex-1 truncate">{one.name}</span>
              <span className="font-mono text-[11px] text-base-content/75">
                {one.width}×{one.height} · {clock(one.seconds)}
              </span>
            </label>
          </li>
        ))}
      </ul>
      {work !== 'like' && (
        <p className="mt-2 text-base-content/75">
          Written as chosen in the panel: {preset?.name ?? request.codec}.
        </p>
      )}
      <div className="modal-action">
        <button className="btn btn-sm btn-ghost" onClick={onDone}>
          Not now
        </button>
        <button className="btn btn-sm btn-primary" disabled={asked.length === 0} onClick={() => void start()}>
          {asked.length === 1 ? 'Start with one clip' : `Start with ${asked.length} clips`}
        </button>
      </div>
    </>
  );
}

function tell({ jobs, refused }: ExportsView, clips: readonly ClipCard[]): void {
  if (jobs.length > 0)
    toast.success(jobs.length === 1 ? 'One clip is in the queue.' : `${jobs.length} clips are in the queue.`);
  for (const { clipId, message } of refused)
    toast.error(`${clips.find(({ id }) => id === clipId)?.name ?? 'A clip'}: ${message}`);
}
