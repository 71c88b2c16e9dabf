import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  frameBytes,
  frameTime,
  indexClip,
  openClip,
  readFrames,
  startFfmpeg,
  likeClip,
  startMovie,
  type Clip,
  type ClipIndex,
} from './index.js';
import { makeStripClip, readStrip } from './testing/strip-clip.js';

/** One kind of file that lands on an editor's desk: how ffmpeg is told to make it, and what must come of it. */
interface Source {
  name: string;
  encode: string[];
  rate?: string;
  frames?: number;
  sound?: number;
  bits?: number;
  subsampling?: string;
  /** What is shown is as high as it was wide. */
  turned?: boolean;
  pixelAspect?: string;
}

const x264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '12'];
const x265 = (parameters: string): string[] => [
  ...['-c:v', 'libx265', '-preset', 'ultrafast', '-crf', '14', '-x265-params', parameters],
];
const sources: Source[] = [
  { name: 'b-frames and an edit list.mp4', encode: [...x264, '-g', '12', '-bf', '3', '-pix_fmt', 'yuv420p'] },
  {
    name: 'open groups.mkv',
    encode: [...x264, '-g', '10', '-bf', '3', '-x264-params', 'open-gop=1', '-pix_fmt', 'yuv420p'],
  },
  { name: 'ten bits.mp4', encode: [...x264, '-pix_fmt', 'yuv420p10le'], bits: 10 },
  { name: '422 ten bits.mov', encode: [...x264, '-pix_fmt', 'yuv422p10le'], bits: 10, subsampling: '422' },
  { name: '444.mp4', encode: [...x264, '-pix_fmt', 'yuv444p'], subsampling: '444' },
  {
    name: 'red green blue.mkv',
    encode: ['-c:v', 'libx264rgb', '-crf', '10', '-pix_fmt', 'rgb24'],
    subsampling: '444',
  },
  {
    name: 'late start.ts',
    encode: [...x264, '-g', '10', '-bf', '2', '-pix_fmt', 'yuv420p', '-muxdelay', '2'],
  },
  {
    name: 'hevc.mp4',
    encode: [...x265('log-level=error:keyint=12'), '-pix_fmt', 'yuv420p'],
  },
  {
    name: 'hevc ten bits.mov',
    encode: [...x265('log-level=error:keyint=12'), '-pix_fmt', 'yuv420p10le', '-tag:v', 'hvc1'],
    bits: 10,
  },
  {
    name: 'hevc twelve bits.mkv',
    encode: [...x265('log-level=error'), '-pix_fmt', 'yuv422p12le'],
    bits: 12,
    subsampling: '422',
  },
  {
    name: 'vp8.webm',
    encode: [
      '-c:v',
      'libvpx',
      '-b:v',
      '3M',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
      '-auto-alt-ref',
      '1',
      '-lag-in-frames',
      '10',
      '-pix_fmt',
      'yuv420p',
    ],
  },
  {
    name: 'vp9.webm',
    encode: [
      '-c:v',
      'libvpx-vp9',
      '-b:v',
      '3M',
      '-deadline',
      'good',
      '-cpu-used',
      '5',
      '-auto-alt-ref',
      '1',
      '-lag-in-frames',
      '16',
      '-pix_fmt',
      'yuv420p',
    ],
  },
  {
    name: 'vp9 ten bits.mkv',
    encode: [
      '-c:v',
      'libvpx-vp9',
      '-b:v',
      '3M',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
      '-pix_fmt',
      'yuv420p10le',
    ],
    bits: 10,
  },
  {
    name: 'av1.mp4',
    encode: [
      '-c:v',
      'libaom-av1',
      '-cpu-used',
      '8',
      '-usage',
      'realtime',
      '-b:v',
      '3M',
      '-g',
      '12',
      '-pix_fmt',
      'yuv420p',
    ],
  },
  {
    name: 'prores.mov',
    encode: ['-c:v', 'prores_ks', '-profile:v', '2', '-pix_fmt', 'yuv422p10le'],
    bits: 10,
    subsampling: '422',
  },
  {
    name: 'prores with alpha.mov',
    encode: ['-c:v', 'prores_ks', '-profile:v', '4', '-pix_fmt', 'yuva444p10le'],
    bits: 12,
    subsampling: '444',
  },
  {
    name: 'dnxhr.mxf',
    encode: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hq', '-pix_fmt', 'yuv422p'],
    subsampling: '422',
  },
  {
    name: 'dnxhr ten bits.mov',
    encode: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
    bits: 10,
    subsampling: '422',
  },
  { name: 'mjpeg.avi', encode: ['-c:v', 'mjpeg', '-q:v', '2', '-pix_fmt', 'yuvj420p'] },
  {
    name: 'mpeg-2.ts',
    encode: ['-c:v', 'mpeg2video', '-q:v', '2', '-g', '12', '-bf', '2', '-pix_fmt', 'yuv420p'],
  },
  {
    name: 'mpeg-2.mxf',
    encode: ['-c:v', 'mpeg2video', '-q:v', '2', '-g', '12', '-bf', '2', '-pix_fmt', 'yuv422p'],
    subsampling: '422',
  },
  { name: 'mpeg-4.avi', encode: ['-c:v', 'mpeg4', '-q:v', '2', '-bf', '2', '-pix_fmt', 'yuv420p'] },
  { name: 'ffv1.mkv', encode: ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p12le'], bits: 12 },
  { name: 'cineform.mov', encode: ['-c:v', 'cfhd', '-pix_fmt', 'yuv422p10le'], bits: 10, subsampling: '422' },
  { name: 'raw.y4m', encode: ['-pix_fmt', 'yuv420p'] },
  { name: 'png with alpha.mov', encode: ['-c:v', 'png', '-pix_fmt', 'rgba'], subsampling: '444' },
  {
    name: 'variable rate.mkv',
    encode: [
      ...x264,
      '-pix_fmt',
      'yuv420p',
      '-bf',
      '2',
      '-vf',
      'settb=1/1000,setpts=floor(N*N*3+N*20)',
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1/1000',
    ],
  },
  {
    // Empty packets stand for the frames that repeat the picture before.
    name: 'variable rate.avi',
    encode: [
      '-vf',
      'settb=1/25,setpts=7*N+2*mod(N\\,3)',
      ...['-fps_mode', 'passthrough', '-c:v', 'mpeg4', '-q:v', '2'],
    ],
  },
  {
    name: 'variable rate.mp4',
    encode: [
      ...x264,
      '-pix_fmt',
      'yuv420p',
      '-bf',
      '2',
      '-vf',
      'settb=1/90000,setpts=N*3000+900*mod(N\\,3)',
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1/90000',
      '-video_track_timescale',
      '90000',
    ],
  },
  {
    name: 'turned.mp4',
    encode: [...x264, '-pix_fmt', 'yuv420p'],
    turned: true,
  },
  {
    name: 'wide pixels.mp4',
    encode: [...x264, '-pix_fmt', 'yuv420p', '-vf', 'setsar=16/11'],
    pixelAspect: '16:11',
  },
  {
    name: 'interlaced, top first.ts',
    encode: ['-c:v', 'mpeg2video', '-q:v', '2', '-flags', '+ildct+ilme', '-top', '1', '-pix_fmt', 'yuv420p'],
  },
  {
    name: 'interlaced, bottom first.mov',
    encode: [...x264, '-flags', '+ildct+ilme', '-x264-params', 'bff=1', '-pix_fmt', 'yuv420p'],
  },
  { name: 'with sound.mov', encode: [...x264, '-pix_fmt', 'yuv420p', '-c:a', 'pcm_s16le'], sound: 1 },
  { name: 'one frame.mp4', encode: [...x264, '-pix_fmt', 'yuv420p'], frames: 1 },
  { name: 'film rate.mov', encode: [...x264, '-pix_fmt', 'yuv420p'], rate: '24000/1001' },
];

let folder: string;
beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'lurn-any-'))));
afterAll(() => rm(folder, { recursive: true, force: true }));

const width = 320;
const height = 180;

describe.each(sources)('$name', (source) => {
  const { name, encode, rate = '25', frames = 14, sound, turned } = source;

  test('index, raw reader, proxy and export agree on count and order', async () => {
    const path = join(folder, name);
    await makeStripClip({ path, frames, rate, encode, sound, width, height });
    if (turned) await turn(path);
    const clip = await openClip(path);
    const proxy = join(folder, `${name}.proxy.mp4`);
    const index = await indexClip(clip, { proxy });
    expect(index.pts.length).toBe(frames);
    expect([clip.bits, clip.subsampling]).toEqual([source.bits ?? 8, source.subsampling ?? '420']);
    expect(clip.pixelAspect).toBe(source.pixelAspect ?? '1:1');
    expect([clip.width, clip.height]).toEqual(turned ? [height, width] : [width, height]);
    for (let i = 1; i < frames; i++) expect(index.pts[i]).toBeGreaterThan(index.pts[i - 1]);
    const all = Array.from({ length: frames }, (_, i) => i);
    expect(await numbers(clip, index, 0, frames - 1)).toEqual(all);
    const late = Math.floor(frames * 0.6);
    expect(await numbers(clip, index, late, late)).toEqual([late]);
    expect(await numbers(await openClip(proxy), undefined, 0, frames - 1)).toEqual(all);
    const first = Math.floor(frames * 0.3);
    const made = await exported(clip, index, first, frames - 1, `${name}.made.mp4`);
    expect(await numbers(made, undefined, 0, frames - 1 - first)).toEqual(all.slice(first));
    expect([made.bits, made.subsampling]).toEqual([clip.bits > 8 ? 10 : 8, clip.subsampling]);
    expect([made.width, made.height, made.pixelAspect]).toEqual([clip.width, clip.height, clip.pixelAspect]);
    // Tags are kept, and none made up; that a range is limited goes without saying.
    const said = ({ colour }: Clip) => ({ ...colour, range: colour.range ?? 'tv' });
    expect(said(made)).toEqual(said(clip));
  });
});

/** The clip's frames as they are, in an exported movie. */
async function exported(
  clip: Clip,
  index: ClipIndex,
  first: number,
  last: number,
  name: string,
): Promise<Clip> {
  const path = join(folder, name);
  const like = likeClip(clip);
  const { bits } = like.picture;
  const movie = startMovie({ path, clip, index, first, last, ...like });
  const slot = new Uint8Array(frameBytes(clip, 'exported', bits));
  const source = readFrames(clip, { first, last, index, planes: 'exported', bits, slot: () => slot });
  for await (const { data } of source) await movie.write(data);
  await movie.finish();
  return openClip(path);
}

describe.each(sources.filter(({ name }) => /variable|late start|with sound|film rate/.test(name)))(
  '$name, exported',
  ({ name, sound }) => {
    test.each([
      { first: 0, last: 13 },
      { first: 3, last: 10 },
    ])('frames $first to $last keep their times, their shape and their sound', async ({ first, last }) => {
      const clip = await openClip(join(folder, name));
      const index = await indexClip(clip);
      const made = await exported(clip, index, first, last, `${name}.${first}.out.mp4`);
      const madeIndex = await indexClip(made);
      const count = last - first + 1;
      expect(await numbers(made, madeIndex, 0, count - 1)).toEqual(
        Array.from({ length: count }, (_, i) => first + i),
      );
      const since = (of: ClipIndex, from: number, k: number): number =>
        frameTime(of, from + k) - frameTime(of, from);
      for (let k = 0; k < count; k++)
        // Half a tick of the exported clock, or, at an even rate, the rounding of the original's milliseconds.
        expect(Math.abs(since(madeIndex, 0, k) - since(index, first, k))).toBeLessThan(6e-6);
      expect(made.sound).toHaveLength(sound ? 1 : 0);
    });
  },
);

test.each([
  { name: 'interlaced, top first.ts', first: 'top' },
  { name: 'interlaced, bottom first.mov', first: 'bottom' },
])('$name taken as fields shows each field for half as long', async ({ name, first }) => {
  const path = join(folder, name);
  const clip = await openClip(path, name, { asFields: true });
  expect(clip).toMatchObject({ interlaced: first, frameRate: { numerator: 50, denominator: 1 } });
  const proxy = join(folder, `${name}.fields.mp4`);
  const index = await indexClip(clip, { proxy });
  const each = Array.from({ length: 28 }, (_, i) => i >> 1);
  expect(await numbers(clip, index, 0, 27)).toEqual(each);
  expect(await numbers(await openClip(proxy), undefined, 0, 27)).toEqual(each);
  const gaps = Array.from({ length: 27 }, (_, i) => frameTime(index, i + 1) - frameTime(index, i));
  gaps.forEach((gap) => expect(gap).toBeCloseTo(1 / 50, 6));
  // From the middle, the same picture to the last bit as on the way from the start.
  const [whole, late] = [await planes(clip, index, 0, 17), await planes(clip, index, 17, 17)];
  expect(Buffer.compare(whole, late)).toBe(0);
});

async function planes(clip: Clip, index: ClipIndex, first: number, last: number): Promise<Uint8Array> {
  const slot = new Uint8Array(frameBytes(clip, 'all'));
  for await (const frame of readFrames(clip, { first, last, index, planes: 'all', slot: () => slot }))
    void frame;
  return slot;
}

/** Writes into an MP4's track header that it is to be shown turned to the right, as a telephone does. */
async function turn(path: string): Promise<void> {
  const file = await readFile(path);
  // Version, flags, two dates, number, length, layer and volume lie before the matrix (ISO 14496-12).
  const matrix = file.indexOf('tkhd') + 4 + 40;
  const [one, none] = [0x10000, 0];
  [none, one, none, -one, none, none, height * one, none].forEach((v, i) =>
    file.writeInt32BE(v, matrix + 4 * i),
  );
  await writeFile(path, file);
}

/** What the frames of a stretch have burnt in; a turned picture has its strip on the right. */
async function numbers(
  clip: Clip,
  index: ClipIndex | undefined,
  first: number,
  last: number,
): Promise<number[]> {
  const slot = new Uint8Array(frameBytes(clip, 'luma'));
  const seen: number[] = [];
  for await (const { data } of readFrames(clip, { first, last, index, planes: 'luma', slot: () => slot })) {
    const upright = clip.height > clip.width ? turnedBack(data, clip.width, clip.height) : data;
    seen.push(readStrip(upright, Math.max(clip.width, clip.height), width));
  }
  return seen;
}

function turnedBack(data: Uint8Array, across: number, down: number): Uint8Array {
  const out = new Uint8Array(data.length);
  for (let y = 0; y < down; y++)
    for (let x = 0; x < across; x++) out[(across - 1 - x) * down + y] = data[y * across + x];
  return out;
}

test.each(['yuv420p10le', 'yuv422p12le', 'gbrp12le'])(
  '%s loses its last bits for the tracker without a pattern of dots, which would stand still before all that moves',
  async (format) => {
    const path = join(folder, `slow ramp ${format}.mkv`);
    // A quarter of an eight-bit level in every eight pixels, alike in all rows.
    const level = (most: number): string => `${most}*(0.3+X/8192)`;
    const rgb = format.startsWith('gbr');
    const most = format.includes('10') ? 1023 : 4095;
    const levels = ['geq', rgb ? 'r' : 'lum', rgb ? 'g' : 'cb', rgb ? 'b' : 'cr'];
    const flat = `${(most + 1) / 2}`;
    const paint = `${levels[0]}=${levels[1]}='${level(most)}':${levels[2]}='${rgb ? level(most) : flat}':${levels[3]}='${rgb ? level(most) : flat}'`;
    const black = ['-f', 'lavfi', '-i', `color=black:s=512x64:r=25:d=0.1,format=${format}`];
    await startFfmpeg([...black, '-vf', paint, '-c:v', 'ffv1', '-y', path]).done;
    const clip = await openClip(path);
    const slot = new Uint8Array(frameBytes(clip, 'luma'));
    for await (const frame of readFrames(clip, { first: 0, last: 0, planes: 'luma', slot: () => slot }))
      void frame;
    const rows = Array.from({ length: 64 }, (_, y) => slot.subarray(512 * y, 512 * (y + 1)));
    for (const row of rows) {
      expect(row.every((value, x) => x === 0 || value >= row[x - 1])).toBe(true);
      expect(Buffer.compare(row, rows[0])).toBe(0);
    }
    expect(rows[0][511] - rows[0][0]).toBeGreaterThan(10);
  },
);
