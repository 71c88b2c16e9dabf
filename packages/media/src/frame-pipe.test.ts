import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname } from 'node:path';
import { expect, test } from '@jest/globals';
import { FramePipe } from './frame-pipe.js';

/** Something that writes so many bytes of one letter into a pipe, with a pause in the middle. */
const writer = (path: string, count: number) =>
  spawn('sh', [
    '-c',
    `{ head -c ${count >> 1} /dev/zero; sleep 0.2; head -c ${count - (count >> 1)} /dev/zero; } | tr '\\0' x > "$0"`,
    path,
  ]);

test('pictures come whole, the last may be short, and then there is no more', async () => {
  const pipe = await FramePipe.make();
  const child = writer(pipe.path, 450_000);
  child.on('exit', () => pipe.writerEnded());
  const picture = new Uint8Array(new SharedArrayBuffer(200_000));
  const came: number[] = [];
  for (let k = 0; k < 4; k++) came.push(await pipe.fill(picture));
  expect(came).toEqual([200_000, 200_000, 50_000, 0]);
  expect(picture.every((byte) => byte === 'x'.charCodeAt(0))).toBe(true);
  // Its name is gone as soon as both ends are open.
  expect(existsSync(dirname(pipe.path))).toBe(false);
  await pipe.close();
});

test('a writer that is killed half-way leaves a short picture, not a wait', async () => {
  const pipe = await FramePipe.make();
  const child = spawn('sh', [
    '-c',
    'exec 3> "$0"; head -c 1000 /dev/zero >&3; sleep 0.3; kill -9 $$',
    pipe.path,
  ]);
  child.on('exit', () => pipe.writerEnded());
  expect(await pipe.fill(new Uint8Array(5000))).toBe(1000);
  await pipe.close();
});

test('a writer that never comes is not waited for once it has ended', async () => {
  const pipe = await FramePipe.make();
  const child = spawn('false');
  child.on('exit', () => pipe.writerEnded());
  expect(await pipe.fill(new Uint8Array(100))).toBe(0);
  await pipe.close();
  expect(existsSync(dirname(pipe.path))).toBe(false);
});

test('closing one that nobody has written to leaves nothing behind', async () => {
  const pipe = await FramePipe.make();
  await pipe.close();
  expect(existsSync(dirname(pipe.path))).toBe(false);
});
