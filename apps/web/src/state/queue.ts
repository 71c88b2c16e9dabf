import type { JobView, ProjectEvent } from '@lurn/contract';
import { create } from 'zustand';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { isGoingOn } from './document';

/** Exports of the project, and clips that are steadied as others are, whichever clip they are of. */
export const useQueue = create<{ jobs: JobView[] }>(() => ({ jobs: [] }));

const isQueued = ({ kind }: JobView): boolean => kind === 'export' || kind === 'like';

/** What goes on and what waits, in its order; then what has ended, the newest first. */
export function inQueueOrder(jobs: readonly JobView[]): JobView[] {
  const going = jobs.filter(isGoingOn).sort((a, b) => a.startedAt.localeCompare(b.startedAt));
  const isRunning = ({ state }: JobView): boolean => state === 'running';
  const ended = jobs.filter((job) => !isGoingOn(job)).sort((a, b) => b.startedAt.localeCompare(a.startedAt));
  return [...going.filter(isRunning), ...going.filter((job) => !isRunning(job)), ...ended];
}

export const loadQueue = (projectId: string): Promise<void> =>
  attempt(async () => useQueue.setState({ jobs: await api.queue(projectId) }));

export function tellQueue(event: ProjectEvent): void {
  const { jobs } = useQueue.getState();
  if (event.type === 'job-gone') useQueue.setState({ jobs: jobs.filter(({ id }) => id !== event.id) });
  else if (event.type === 'job' && isQueued(event.job)) {
    const { job } = event;
    const isKnown = jobs.some(({ id }) => id === job.id);
    useQueue.setState({
      jobs: isKnown ? jobs.map((one) => (one.id === job.id ? job : one)) : [job, ...jobs],
    });
  }
}
