import type { JobView } from '@lurn/contract';
import { Download, FolderCheck, Trash2, X } from 'lucide-react';
import { isGoingOn, useDocument } from '../../state/document';
import { cancelJob, clearExport, startAgain } from '../../state/editor';
import { inQueueOrder, useQueue } from '../../state/queue';
import { timeLeft } from '../../ui/format';
import { IconToggle } from '../../ui/icon-toggle';

/** The project's exports: what goes on and waits, in its order, and what has ended, until it is cleared. */
export function Queue() {
  const jobs = useQueue((s) => s.jobs);
  const ordered = inQueueOrder(jobs);
  const going = ordered.filter(isGoingOn);
  const ended = ordered.filter(
    (job) => !isGoingOn(job) && job.state !== 'cancelled' && !(job.kind === 'like' && job.state === 'done'),
  );
  return (
    <>
      {going.map((job) => (
        <Going key={job.id} job={job} />
      ))}
      <ul className="mt-2 max-h-44 space-y-1.5 overflow-y-auto" aria-label="Exports that have ended">
        {ended.map((job) => (
          <Ended key={job.id} job={job} />
        ))}
      </ul>
    </>
  );
}

const nameOf = ({ kind, fileName }: JobView): string =>
  kind === 'like' ? `Steadying ${fileName ?? ''}` : (fileName ?? '');

/** How far one of them is; its name where it is not the shown clip's only one. */
function Going({ job }: { job: JobView }) {
  const clipId = useDocument((s) => s.clip?.id);
  const unit = job.kind === 'like' ? 'steps' : 'frames';
  return (
    <div className="mt-2" data-testid={job.clipId === clipId ? 'exporting' : 'exporting-other'}>
      <div className="flex items-center gap-2">
        <progress
          className="progress progress-primary h-1.5 flex-1"
          value={job.done}
          max={job.total}
          aria-label={`Exporting ${nameOf(job)}`}
        />
        <button className="btn btn-xs" onClick={() => void cancelJob(job.id)}>
          <X size={12} aria-hidden /> Cancel
        </button>
      </div>
      <p className="mt-1 flex justify-between gap-2 font-mono text-[11px] text-base-content/70">
        <span className="truncate">{nameOf(job)}</span>
        <span className="shrink-0">
          {job.state === 'waiting'
            ? 'Waiting for its turn'
            : `${job.done} of ${job.total} ${unit} ${timeLeft(job.startedAt, job.done, job.total) ?? ''}`}
        </span>
      </p>
    </div>
  );
}

/** A finished movie to take away, or what became of one that is not. */
function Ended({ job }: { job: JobView }) {
  const clear = (
    <IconToggle label={`Clear ${job.fileName ?? 'it'}`} onClick={() => void clearExport(job.id)}>
      <Trash2 size={13} />
    </IconToggle>
  );
  if (job.state === 'done' && job.fileName?.endsWith('/'))
    return (
      <li className="flex items-center gap-1.5">
        <FolderCheck size={14} aria-hidden className="ml-2 shrink-0 text-accent" />
        <span className="min-w-0 flex-1 truncate">{job.fileName} in the exports folder</span>
        {clear}
      </li>
    );
  if (job.state === 'done')
    return (
      <li className="flex items-center gap-1.5">
        <a
          className="btn btn-sm btn-soft btn-accent min-w-0 flex-1 justify-start"
          href={`/api/exports/${job.id}/file`}
          download
          data-testid="download"
        >
          <Download size={14} aria-hidden className="shrink-0" />
          <span className="truncate">{job.fileName}</span>
        </a>
        {clear}
      </li>
    );
  return (
    <li className="flex items-center gap-1.5 text-warning">
      <span className="flex-1 leading-snug">
        {job.error ?? `${nameOf(job)} was cut short when the server stopped.`}
      </span>
      <button className="btn btn-xs" onClick={() => void startAgain(job.id)}>
        Start again
      </button>
      {clear}
    </li>
  );
}
