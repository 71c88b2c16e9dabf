import type { JobView } from '@lurn/contract';
import { expect, test } from '@jest/globals';
import { inQueueOrder, tellQueue, useQueue } from './queue';

const job = (
  id: string,
  state: JobView['state'],
  startedAt: string,
  kind: JobView['kind'] = 'export',
): JobView => ({
  ...{ id, clipId: 'c', kind, state, done: 0, total: 9, error: null, startedAt, trackIds: [] },
  fileName: `${id}.mp4`,
});

test('what runs comes first, then what waits in its turn, then what has ended, the newest first', () => {
  const jobs = [
    job('old', 'done', '1'),
    job('third', 'waiting', '5'),
    job('new', 'failed', '3'),
    job('second', 'waiting', '4'),
    // One that began has the time at which it did.
    job('first', 'running', '6'),
  ];
  expect(inQueueOrder(jobs).map(({ id }) => id)).toEqual(['first', 'second', 'third', 'new', 'old']);
});

test('news of exports of any clip are taken in, and of nothing else', () => {
  tellQueue({ type: 'job', job: job('a', 'waiting', '1') });
  tellQueue({ type: 'job', job: job('b', 'running', '1', 'track') });
  tellQueue({ type: 'job', job: job('a', 'running', '2') });
  expect(useQueue.getState().jobs.map(({ id, state }) => [id, state])).toEqual([['a', 'running']]);
  tellQueue({ type: 'job-gone', id: 'a' });
  expect(useQueue.getState().jobs).toEqual([]);
});
