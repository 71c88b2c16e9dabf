import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import type { ClipChange } from '@lurn/contract';
import { ApiError } from '../api/client.js';
import { inLine, useSync, type Send } from './sync.js';

const change = { clipId: 'quay', revision: 5 } as ClipChange;
const never = (): Promise<void> => Promise.reject(new Error('It was given up.'));
const refusals: (ApiError | null)[] = [];
/** Refuses as told, then does it. */
const sending: Send = () => {
  const refusal = refusals.shift();
  return refusal ? Promise.reject(refusal) : Promise.resolve(change);
};

beforeEach(() => {
  jest.useFakeTimers();
  refusals.length = 0;
});
afterEach(() => void jest.useRealTimers());

test('edits go one after another, however long each takes', async () => {
  const order: string[] = [];
  let finish!: () => void;
  const slow = inLine(
    () => new Promise((resolve) => (finish = () => (order.push('slow'), resolve(change)))),
    1,
    never,
  );
  const quick = inLine(() => (order.push('quick'), Promise.resolve(change)), 1, never);
  expect(useSync.getState().saving).toBe(2);
  await jest.advanceTimersByTimeAsync(50);
  expect(order).toEqual([]);
  finish();
  expect(await Promise.all([slow, quick])).toEqual([change, change]);
  expect(order).toEqual(['slow', 'quick']);
  expect(useSync.getState().saving).toBe(0);
});

test('a refusal reaches whoever has made the edit, and the next goes on', async () => {
  refusals.push(new ApiError('This track is locked.', 409));
  const [refused, next] = await Promise.allSettled([inLine(sending, 1, never), inLine(sending, 1, never)]);
  expect(refused).toMatchObject({ status: 'rejected', reason: { message: 'This track is locked.' } });
  expect(next).toEqual({ status: 'fulfilled', value: change });
});

test('without a connection an edit waits until the server answers', async () => {
  refusals.push(new ApiError('No answer.', 0));
  const answers = [false, true];
  const before = globalThis.fetch;
  globalThis.fetch = (() => Promise.resolve({ ok: answers.shift() })) as unknown as typeof fetch;
  const sent = inLine(sending, 1, never);
  await jest.advanceTimersByTimeAsync(500);
  expect(useSync.getState().connected).toBe(false);
  await jest.advanceTimersByTimeAsync(2500);
  expect(await sent).toBe(change);
  expect(useSync.getState().connected).toBe(true);
  globalThis.fetch = before;
});

test('on a full disk it says so, and tries again', async () => {
  refusals.push(new ApiError('The disk is full.', 507));
  const sent = inLine(sending, 1, never);
  await jest.advanceTimersByTimeAsync(100);
  expect(useSync.getState().saveError).toBe('The disk is full.');
  await jest.advanceTimersByTimeAsync(3000);
  expect(await sent).toBe(change);
  expect(useSync.getState().saveError).toBeNull();
});

test('where another window has changed the same, the person chooses', async () => {
  const clash = new ApiError('Another window has changed this meanwhile.', 409, 'Rename track');
  refusals.push(clash);
  const own = inLine(sending, 1, never);
  await jest.advanceTimersByTimeAsync(0);
  useSync.getState().conflict?.choose(true);
  expect(await own).toBe(change);
  refusals.push(clash);
  let given = 0;
  const theirs = inLine(sending, 1, async () => void given++);
  await jest.advanceTimersByTimeAsync(0);
  useSync.getState().conflict?.choose(false);
  expect([await theirs, given, useSync.getState().conflict]).toEqual([undefined, 1, null]);
});
