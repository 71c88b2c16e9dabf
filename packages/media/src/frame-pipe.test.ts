import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname } from 'node:path';
import { expect, test } from '@jest/globals';
import { FramePipe } from './frame-pipe.js';

/** Something that writes pictures of so many bytes into a pipe, each with a pause in the middle. */
const writer = (path: string, ...sizes: number[]) => {
  const zeros = (count: number): string => `head -c ${count} /dev/zero | tr '\\0' x`;
  const pictures = sizes.map(
    (size) => `printf 'FRAME\\n'; ${zeros(size >> 1)}; sleep 0.2; ${zeros(size - (size >> 1))}`,
  );
  return spawn('sh', ['-c', `{ printf 'YUV4MPEG2 W1 H1\\n'; ${pictures.join('; ')}; } > "$0"`, path]);
};

test('pictures come whole, the last may be short, and then there is no more', async () => {
  const pipe = await FramePipe.make();
  const child = writer(pipe.path, 200_000, 200_000, 50_000);
  child.on('exit', () => pipe.writerEnded());
  const picture = new Uint8Array(new SharedArrayBuffer(200_000));
  const came: (number | null)[] = [];
  for (let k = 0; k < 4; k++) came.push(await pipe.fill(picture));
  expect(came).toEqual([200_000, 200_000, 50_000, null]);
  expect(picture.every((byte) => byte === 'x'.charCodeAt(0))).toBe(true);
  // Its name is gone as soon as both ends are open.
  expect(existsSync(dirname(pipe.path))).toBe(false);
  await pipe.close();
});

test('a writer that is killed half-way leaves a short picture, not a wait', async () => {
  const pipe = await FramePipe.make();
  const child = spawn('sh', [
    '-c',
    `exec 3> "$0"; printf 'YUV4MPEG2 W1 H1\\nFRAME\\n' >&3; head -c 1000 /dev/zero >&3; sleep 0.3; kill -9 $$`,
    pipe.path,
  ]);
  child.on('exit', () => pipe.writerEnded());
  expect(await pipe.fill(new Uint8Array(5000))).toBe(1000);
  await pipe.close();
});

test('a writer that ends before a picture, or within what begins one, has no picture', async () => {
  for (const start of ['', 'YUV4', 'YUV4MPEG2 W1 H1\\n', 'YUV4MPEG2 W1 H1\\nFRA']) {
    const pipe = await FramePipe.make();
    const child = spawn('sh', ['-c', `printf '${start}' > "$0"`, pipe.path]);
    child.on('exit', () => pipe.writerEnded());
    expect(await pipe.fill(new Uint8Array(5000))).toBeNull();
    await pipe.close();
  }
});

test('what is not of the format is not taken for a picture', async () => {
  for (const start of ['RIFF1234567890', 'YUV4MPEG2 W1 H1\\nfield 1']) {
    const pipe = await FramePipe.make();
    const child = spawn('sh', ['-c', `printf '${start}' > "$0"`, pipe.path]);
    child.on('exit', () => pipe.writerEnded());
    await expect(pipe.fill(new Uint8Array(2))).rejects.toThrow('no YUV4MPEG2');
    await pipe.close();
  }
});

test('a writer that never comes is not waited for once it has ended', async () => {
  const pipe = await FramePipe.make();
  const child = spawn('false');
  child.on('exit', () => pipe.writerEnded());
  expect(await pipe.fill(new Uint8Array(100))).toBeNull();
  await pipe.close();
  expect(existsSync(dirname(pipe.path))).toBe(false);
});

test('closing one that nobody has written to leaves nothing behind', async () => {
  const pipe = await FramePipe.make();
  await pipe.close();
  expect(existsSync(dirname(pipe.path))).toBe(false);
});
