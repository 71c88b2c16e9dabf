import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  frameBytes,
  frameTime,
  indexClip,
  openClip,
  readFrames,
  startFfmpeg,
  startMovie,
  likeClip,
} from './index.js';

const rate = 48000;
/** When the click sounds, seconds from the first picture. */
const click = 0.74321;
let folder: string;

beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'lurn-sound-'))));
afterAll(() => rm(folder, { recursive: true, force: true }));

const x264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-bf', '2', '-g', '10', '-pix_fmt', 'yuv420p'];

test.each([
  ['aac.mp4', [...x264, '-c:a', 'aac', '-b:a', '256k']],
  ['pcm.mov', [...x264, '-c:a', 'pcm_s16le']],
  ['late.ts', [...x264, '-c:a', 'aac', '-b:a', '256k', '-muxdelay', '2']],
  ['opus.mkv', [...x264, '-c:a', 'libopus', '-b:a', '256k']],
  [
    'uneven.mkv',
    [
      ...x264,
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1/1000',
      '-vf',
      'settb=1/1000,setpts=N*40+7*mod(N\\,3)',
      '-c:a',
      'flac',
    ],
  ],
  ['two tracks.mov', [...x264, '-map', '1:a', '-c:a', 'pcm_s16le']],
] as const)(
  '%s: sound and picture of an exported range stay together within a millisecond',
  async (name, encode) => {
    const path = join(folder, name);
    await startFfmpeg([
      ...['-f', 'lavfi', '-i', 'testsrc2=s=192x108:r=25:d=2'],
      // A tenth of a second of tone, as loud from its first sample on.
      ...[
        '-f',
        'lavfi',
        '-i',
        `aevalsrc='0.8*sin(2*PI*1000*(t-${click}))*between(t,${click},${click}+0.1)':s=${rate}:d=2`,
      ],
      ...['-map', '0:v', '-map', '1:a', ...encode, '-y', path],
    ]).done;
    const clip = await openClip(path);
    const index = await indexClip(clip);
    // What codecs and containers have moved it by already is not the export's doing.
    const before = (await clickIn(path)) - (frameTime(index, 0) - clip.fileStart);
    expect(Math.abs(before - click)).toBeLessThan(0.03);
    for (const [first, last] of [
      [0, index.pts.length - 1],
      [6, 40],
      [17, 44],
    ]) {
      const out = join(folder, `${name}.${first}.mp4`);
      const movie = startMovie({ path: out, clip, index, first, last, ...likeClip(clip) });
      const slot = new Uint8Array(frameBytes(clip, 'exported'));
      for await (const { data } of readFrames(clip, {
        first,
        last,
        index,
        planes: 'exported',
        slot: () => slot,
      }))
        await movie.write(data);
      await movie.finish();
      const made = await openClip(out);
      expect(made.sound).toHaveLength(clip.sound.length);
      const madeIndex = await indexClip(made);
      const heard = (await clickIn(out)) - (frameTime(madeIndex, 0) - made.fileStart);
      const wanted = before - (frameTime(index, first) - frameTime(index, 0));
      expect(Math.abs(heard - wanted)).toBeLessThan(0.001);
    }
  },
);

/** When the click begins, seconds from the file's first timestamp. */
async function clickIn(path: string): Promise<number> {
  const tool = startFfmpeg([
    ...['-i', path, '-map', '0:a:0', '-af', 'aresample=async=1:first_pts=0'],
    ...['-ac', '1', '-ar', `${rate}`, '-f', 's16le', 'pipe:1'],
  ]);
  const parts: Buffer[] = [];
  for await (const part of tool.process.stdout as AsyncIterable<Buffer>) parts.push(part);
  await tool.done;
  const bytes = Uint8Array.from(Buffer.concat(parts));
  // Lossy codecs let a little be heard beforehand: half of full loudness is the tone itself.
  const at = new Int16Array(bytes.buffer).findIndex((level) => level > 13000 || level < -13000);
  if (at >= 0) return at / rate;
  throw new Error('There is no click.');
}
