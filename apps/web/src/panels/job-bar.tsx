import type { JobView } from '@lurn/contract';
import { Square } from 'lucide-react';
import { cancelJob } from '../state/editor';
import { timeLeft } from '../ui/format';

/** How far a job is, how long it will take, and the button that stops it. */
export function JobBar({ job, label, stopping }: { job: JobView; label: string; stopping: string }) {
  return (
    <>
      <progress
        className="progress progress-primary h-1.5 flex-1"
        value={job.done}
        max={job.total}
        aria-label={label}
      />
      <span className="font-mono text-[11px] text-base-content/70">
        {job.state === 'waiting'
          ? 'Waiting for its turn'
          : `${job.done}/${job.total} ${timeLeft(job.startedAt, job.done, job.total) ?? ''}`}
      </span>
      <button className="btn btn-xs" onClick={() => void cancelJob(job.id)} title={stopping}>
        <Square size={11} fill="currentColor" aria-hidden /> Stop
      </button>
    </>
  );
}
