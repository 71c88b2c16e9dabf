import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  frameBytes,
  indexClip,
  makePoster,
  MediaError,
  openClip,
  proxyRate,
  proxySize,
  readFrames,
  readStill,
  runTool,
  startFfmpeg,
  likeClip,
  startMovie,
} from './index.js';
import { makeStripClip, readStrip } from './testing/strip-clip.js';

let folder: string;
beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'lurn-media-'))));
afterAll(() => rm(folder, { recursive: true, force: true }));

const x264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '12', '-pix_fmt', 'yuv420p'];

const sources = [
  { name: 'closed groups.mp4', rate: '30000/1001', encode: [...x264, '-g', '15', '-c:a', 'aac'] },
  {
    name: 'open groups.mkv',
    rate: '25',
    encode: [...x264, '-g', '24', '-bf', '3', '-x264-params', 'open-gop=1'],
  },
  { name: 'long groups.mov', rate: '24000/1001', encode: [...x264, '-g', '250', '-bf', '2', '-c:a', 'aac'] },
  {
    name: 'vp9.webm',
    rate: '30',
    encode: ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-b:v', '2M', '-pix_fmt', 'yuv420p'],
  },
];

describe.each(sources)('$name', ({ name, rate, encode }) => {
  const frames = 70;
  const width = 320;

  test('index, raw reader and proxy agree on every frame asked for, in any order', async () => {
    const path = join(folder, name);
    await makeStripClip({ path, frames, rate, encode });
    const clip = await openClip(path);
    expect(`${clip.frameRate.numerator}/${clip.frameRate.denominator}`).toBe(
      rate.includes('/') ? rate : `${rate}/1`,
    );
    const proxy = join(folder, `${name}.proxy.mp4`);
    const index = await indexClip(clip, { proxy });
    expect(index.pts.length).toBe(frames);

    const made = await openClip(proxy);
    const proxyIndex = await indexClip(made);
    const size = proxySize(clip);
    const numberAt = async (source: typeof clip, where: typeof index, frame: number): Promise<number> => {
      const slot = new Uint8Array(frameBytes(source, 'luma'));
      for await (const read of readFrames(source, {
        first: frame,
        last: frame,
        index: where,
        planes: 'luma',
        slot: () => slot,
      })) {
        expect(read.frame).toBe(frame);
      }
      return readStrip(slot, source.width, width);
    };
    expect(made.width).toBe(size.width);
    expect(proxyRate(clip)).toBe(Math.round(clip.frameRate.numerator / clip.frameRate.denominator));
    for (const frame of [0, frames - 1, 1, 33, 14, 52, 47, 15]) {
      expect(await numberAt(clip, index, frame)).toBe(frame);
      expect(await numberAt(made, proxyIndex, frame)).toBe(frame);
    }
  });

  test('a stretch comes in order, each frame once', async () => {
    const clip = await openClip(join(folder, name));
    const index = await indexClip(clip);
    const slot = new Uint8Array(frameBytes(clip, 'luma'));
    const seen: number[] = [];
    for await (const { data } of readFrames(clip, {
      first: 11,
      last: 44,
      index,
      planes: 'luma',
      slot: () => slot,
    })) {
      seen.push(readStrip(data, clip.width, width));
    }
    expect(seen).toEqual(Array.from({ length: 34 }, (_, i) => i + 11));
  });
});

test('a movie keeps rate, count, colour tags and sound', async () => {
  const path = join(folder, 'tagged.mp4');
  const tags = [
    '-color_range',
    'tv',
    '-colorspace',
    'smpte170m',
    '-color_primaries',
    'smpte170m',
    '-color_trc',
    'smpte170m',
  ];
  await makeStripClip({
    path,
    frames: 60,
    rate: '30000/1001',
    sound: 2,
    encode: [...x264, '-g', '15', ...tags, '-c:a', 'aac'],
  });
  const clip = await openClip(path);
  const index = await indexClip(clip);
  for (const { first, last } of [
    { first: 0, last: 59 },
    { first: 20, last: 49 },
  ]) {
    const out = join(folder, `movie-${first}.mp4`);
    const movie = startMovie({ path: out, clip, index, first, last, ...likeClip(clip) });
    const slot = new Uint8Array(frameBytes(clip, 'all'));
    for await (const { data } of readFrames(clip, { first, last, index, planes: 'all', slot: () => slot }))
      await movie.write(data);
    await movie.finish();
    const made = await openClip(out);
    const madeIndex = await indexClip(made);
    expect(madeIndex.pts.length).toBe(last - first + 1);
    expect(made.frameRate).toEqual(clip.frameRate);
    expect(made.colour).toEqual(clip.colour);
    expect(made.sound).toHaveLength(1);
    const seconds = Number(
      await runTool('ffprobe', [
        '-v',
        'error',
        '-select_streams',
        'a:0',
        '-show_entries',
        'stream=duration',
        '-of',
        'csv=p=0',
        out,
      ]),
    );
    // An AAC frame is 1024 samples: 0.021 s.
    expect(Math.abs(seconds - ((last - first + 1) * 1001) / 30000)).toBeLessThan(0.03);
    const read = new Uint8Array(frameBytes(made, 'luma'));
    for await (const _ of readFrames(made, {
      first: 7,
      last: 7,
      index: madeIndex,
      planes: 'luma',
      slot: () => read,
    }))
      break;
    expect(readStrip(read, made.width, 320)).toBe(first + 7);
  }
});

test('a still is a JPEG of the very frame', async () => {
  const clip = await openClip(join(folder, 'tagged.mp4'));
  const jpeg = await readStill(clip, await indexClip(clip), 37);
  expect(jpeg.subarray(0, 2).toString('hex')).toBe('ffd8');
  const path = join(folder, 'still.jpg');
  await writeFile(path, jpeg);
  await runTool('ffmpeg', [
    '-v',
    'error',
    '-i',
    path,
    '-f',
    'rawvideo',
    '-pix_fmt',
    'gray',
    '-y',
    `${path}.gray`,
  ]);
  expect(readStrip(await readFile(`${path}.gray`), 320, 320)).toBe(37);
});

describe('what is no clip', () => {
  test.each([
    ['text.mp4', 'these are words', /not a video/],
    ['empty.mov', '', /not a video/],
  ])('%s is refused with a sentence', async (name, text, reason) => {
    const path = join(folder, name);
    await writeFile(path, text);
    await expect(openClip(path)).rejects.toThrow(MediaError);
    await expect(openClip(path)).rejects.toThrow(reason);
  });

  test('a picture and a sound have no moving picture', async () => {
    const picture = join(folder, 'picture.png');
    const sound = join(folder, 'sound.m4a');
    await runTool('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'color=s=64x64',
      '-frames:v',
      '1',
      '-y',
      picture,
    ]);
    await runTool('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=duration=1', '-y', sound]);
    for (const path of [picture, sound])
      await expect(openClip(path)).rejects.toThrow(
        /no moving picture|in none of the containers that can be read: MP4/,
      );
  });

  test('a missing file is named', async () => {
    await expect(openClip(join(folder, 'gone.mp4'))).rejects.toThrow(
      /"gone.mp4" cannot be opened: No such file/,
    );
  });
});

test('a cancelled index leaves no proxy behind', async () => {
  const clip = await openClip(join(folder, 'tagged.mp4'));
  const stop = new AbortController();
  const proxy = join(folder, 'cancelled.mp4');
  const reading = indexClip(clip, { proxy, signal: stop.signal, onProgress: () => stop.abort() });
  await expect(reading).rejects.toThrow('Cancelled.');
  await expect(readFile(`${proxy}.partial`)).rejects.toThrow();
  await expect(readFile(proxy)).rejects.toThrow();
});

describe('a damaged clip gives what can be read and says what cannot', () => {
  const encode = [...x264, '-g', '12', '-c:a', 'aac'];
  const damaged = async (name: string, spoil: (file: Buffer) => Buffer, more: string[] = []) => {
    const path = join(folder, name);
    await makeStripClip({ path, frames: 100, encode: [...encode, ...more] });
    await writeFile(path, spoil(await readFile(path)));
    const said: string[] = [];
    const clip = await openClip(path);
    const index = await indexClip(clip, { proxy: `${path}.proxy.mp4`, onDamage: (text) => said.push(text) });
    return { clip, index, said };
  };
  const cut = (file: Buffer): Buffer => file.subarray(0, Math.floor(file.length * 0.6));
  const hole = (file: Buffer): Buffer => {
    for (let i = 0; i < 4000; i++) file[Math.floor(file.length * 0.4) + i] = (i * 7919) & 255;
    return file;
  };

  test.each([
    ['cut.mkv', []],
    ['cut.mp4', ['-movflags', '+faststart']],
  ])('%s breaks off', async (name, more) => {
    const { clip, index, said } = await damaged(name, cut, more);
    const read = index.pts.length;
    expect(read).toBeGreaterThan(40);
    expect(read).toBeLessThan(100);
    const [sentence] = said;
    const missing = Number(/about (\d+) frames at its end are missing/.exec(sentence)?.[1]);
    // The file ends within a frame or in the rounding of its duration.
    expect(Math.abs(missing - (100 - read))).toBeLessThanOrEqual(1);
    const slot = new Uint8Array(frameBytes(clip, 'luma'));
    for await (const _ of readFrames(clip, { first: 30, last: 30, index, planes: 'luma', slot: () => slot }));
    expect(readStrip(slot, clip.width, 320)).toBe(30);
  });

  test('a hole in a transport stream leaves frames out, and they are counted', async () => {
    const { index, said } = await damaged('hole.ts', hole);
    const missing = 100 - index.pts.length;
    expect(missing).toBeGreaterThan(0);
    expect(said[0]).toMatch(
      new RegExp(`^This file is damaged: ${missing} frames? after frame \\d+ (is|are) missing`),
    );
  });

  test('marred pictures are said, a sound file says nothing', async () => {
    const { index, said } = await damaged('hole.mkv', hole);
    expect(index.pts.length).toBe(100);
    expect(said).toEqual(['This file is damaged: some of its pictures may be marred.']);
    expect((await damaged('sound.mkv', (file) => file)).said).toEqual([]);
  });
});

test.each([
  { name: 'tiny.mp4', size: '16x16', frames: 3 },
  { name: 'narrow.mp4', size: '64x1024', frames: 2 },
])('$name is read like any other', async ({ name, size, frames: count }) => {
  const path = join(folder, name);
  const picture = ['-f', 'lavfi', '-i', `testsrc2=s=${size}:r=25:d=${count / 25}`];
  await startFfmpeg([...picture, '-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-y', path]).done;
  const clip = await openClip(path);
  const proxy = join(folder, `${name}.proxy.mp4`);
  const index = await indexClip(clip, { proxy });
  expect(index.pts).toHaveLength(count);
  await makePoster(proxy, 0, join(folder, `${name}.jpg`));
  const slot = new Uint8Array(frameBytes(clip, 'luma'));
  let read = 0;
  for await (const { frame } of readFrames(clip, { first: 0, planes: 'luma', slot: () => slot }))
    read = frame + 1;
  expect(read).toBe(count);
});
